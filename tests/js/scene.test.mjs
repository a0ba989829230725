import assert from "node:assert/strict"
import {test} from "node:test"

import {drawFigure} from "../../src/studio/static/studio/js/figures.js"
import {enterable, keyedPlaces} from "../../src/studio/static/studio/js/hits.js"
import {stepsWithin} from "../../src/studio/static/studio/js/insets.js"
import {faceOf} from "../../src/studio/static/studio/js/layers.js"
import {putBlocks, unpack} from "../../src/studio/static/studio/js/protocol.js"
import {rampColour} from "../../src/studio/static/studio/js/ramp.js"
import {chosenAfter} from "../../src/studio/static/studio/js/shelf.js"
import {straight} from "../../src/studio/static/studio/js/snap.js"
import {chosenIds, createStore, layersChosen, tellingRider} from "../../src/studio/static/studio/js/store.js"
import {group, layer, packed, path, ride, rows, state, track} from "./made.mjs"

const SETTINGS = {width: 10, height: 10, fps: 25, rate: "25", length: 2, background: null}

const TOLD = {
  id: "a", maps: [0, 6], opacities: [6, 1], spots: null, paints: null, ride: null, keys: [], copies: [], crowd: null, tint: null, mirror: [],
  faces: {list: [{box: [0, 0, 1, 1], picture: null, outlines: [{figure: 0, fill: "#fff", stroke: null, width: 0}]}], which: null},
}
const NUMBERS = [1, 0, 0, 1, 5, 6, 0.5, 0, 0, 1, 1]

test("an answer is read: numbers by place and count, figures by their number", () => {
  const {scene} = unpack(packed({scene: SETTINGS, figures: [{verbs: "ML", points: [7, 4]}], layers: [TOLD], paths: [], program: []}, NUMBERS), null)
  const [read] = scene.layers
  assert.deepEqual([...read.maps.at(0)], [1, 0, 0, 1, 5, 6])
  assert.equal(read.opacities.at(1)[0], 0.5)
  assert.deepEqual([...read.faces.list[0].outlines[0].figure.points], [0, 0, 1, 1])
})

test("what is the same is taken from before, and only the pose of what was not asked for in full", () => {
  const seam = {position: 0, angle: 0, speed: 0, clean: false, unseen: false, reasons: []}
  const first = unpack(packed({scene: SETTINGS, figures: [{verbs: "", points: [0, 0]}], layers: [{...TOLD, seam}], paths: [], program: []}, NUMBERS), null).scene
  const glanced = unpack(packed({scene: SETTINGS, figures: [], layers: [{...TOLD, faces: null}], paths: [], program: []}, NUMBERS), first).scene
  assert.deepEqual(glanced.layers[0].seam, seam)
  const same = unpack(packed({scene: {...SETTINGS}, figures: [], layers: [{id: "a", same: true}], paths: [], program: []}, []), first).scene
  assert.equal(same.layers[0], first.layers[0])
  assert.equal(same.settings, first.settings)
  const posed = unpack(packed({scene: SETTINGS, figures: [], layers: [{id: "a", pose: true, maps: [0, 6], opacities: [6, 1], copies: [], crowd: null, tint: null, mirror: []}], paths: [], program: []}, [2, 0, 0, 2, 0, 0, 1]), first).scene
  assert.equal(posed.layers[0].faces, first.layers[0].faces)
  assert.equal(posed.layers[0].maps.at(0)[0], 2)
  assert.throws(() => unpack(packed({scene: SETTINGS, figures: [], layers: [{id: "b", same: true}], paths: [], program: []}, []), first), /lost track/)
})

test("copies are drawn behind their layer, the last farthest back, and keep their looks when they are put elsewhere", () => {
  const copy = at => ({kind: "item", maps: [at, 6], opacities: [6, 1]})
  const faces = {list: [{box: [0, 0, 2, 2], picture: null, outlines: []}], which: null}
  const told = {...TOLD, copies: [copy(0), {...copy(0), faces}]}
  const first = unpack(packed({scene: SETTINGS, figures: [{verbs: "", points: [0, 0]}], layers: [told], paths: [], program: []}, NUMBERS), null).scene
  const steps = stepsWithin(first.layers[0]).map(({layer}) => layer)
  assert.deepEqual(steps.map(({id}) => id), ["a.2", "a.1", "a"])
  assert.deepEqual(steps.map(layer => faceOf(layer, 0).box[2]), [2, 1, 1])
  const pose = {id: "a", pose: true, maps: [0, 6], opacities: [6, 1], copies: [copy(7), {...copy(7), kept: true}], mirror: []}
  const posed = unpack(packed({scene: SETTINGS, figures: [], layers: [pose], paths: [], program: []}, [...NUMBERS, 9, 0, 0]), first).scene
  const [last] = stepsWithin(posed.layers[0])
  assert.equal(last.layer.maps.at(0)[4], 9)
  assert.equal(faceOf(last.layer, 0).box[2], 2)
})

test("of parts that are told as one each is put where it is now, with its own looks", () => {
  const part = (at, width) => ({kind: "item", maps: [at, 6], opacities: [6, 1], faces: {list: [{box: [0, 0, width, 2], picture: null, outlines: []}], which: null}})
  const told = {...TOLD, copies: [part(0, 2), part(0, 3)]}
  const first = unpack(packed({scene: SETTINGS, figures: [{verbs: "", points: [0, 0]}], layers: [told], paths: [], program: []}, NUMBERS), null).scene
  const glance = {...TOLD, faces: null, copies: [], parts: {maps: [11, 12], opacities: [23, 2]}}
  const numbers = [...NUMBERS, 1, 0, 0, 1, 40, 0, 1, 0, 0, 1, 50, 0, 1, 0.5]
  const [now] = unpack(packed({scene: SETTINGS, figures: [], layers: [glance], paths: [], program: []}, numbers), first).scene.layers
  assert.deepEqual(now.copies.map(({maps, opacities}) => [maps.at(9)[4], opacities.at(9)[0]]), [[40, 1], [50, 0.5]])
  assert.deepEqual(stepsWithin(now).map(({layer}) => faceOf(layer, 0).box[2]), [3, 2, 1])
})

test("blocks are put into the layers they are told of, with the looks they bring", () => {
  const told = {...TOLD, maps: [0, 18], faces: {...TOLD.faces, which: [18, 3]}}
  const head = {scene: {...SETTINGS, length: 5}, block: 2, frames: [21, 3], figures: [{verbs: "", points: [0, 0]}], layers: [told], paths: [], program: []}
  const numbers = [...Array(18).keys(), 0, 0, 0, 0, 1, 4]
  const [read] = unpack(packed(head, numbers), null).scene.layers
  assert.equal(read.maps.at(3)[0], 6)
  const face = {box: [0, 0, 7, 7], picture: null, outlines: []}
  const later = {id: "a", maps: [0, 12], opacities: [0, 1], faces: {list: [face], which: [12, 2]}, paints: null, ride: null, keys: [], copies: []}
  putBlocks(packed({first: 2, end: 4, figures: [], layers: [later]}, [...Array(12).fill(50), 0, 0]), new Map([["a", read]]))
  assert.deepEqual([1, 2, 3, 4].map(frame => read.maps.at(frame)[0]), [6, 50, 50, 12])
  assert.deepEqual([1, 3].map(frame => faceOf(read, frame).box[2]), [1, 7])
})

test("another version of the server is told", () => {
  const buffer = packed({}, [])
  new DataView(buffer).setUint32(4, 3, true)
  assert.throws(() => unpack(buffer, null), /another version/)
})

test("a figure is drawn verb by verb", () => {
  const said = []
  const pen = Object.fromEntries(["moveTo", "lineTo", "bezierCurveTo", "closePath"].map(name => [name, (...numbers) => said.push([name, ...numbers])]))
  drawFigure({verbs: "MLCZ", points: Float32Array.of(1, 2, 3, 4, 5, 6, 7, 8, 9, 10)}, pen)
  assert.deepEqual(said, [["moveTo", 1, 2], ["lineTo", 3, 4], ["bezierCurveTo", 5, 6, 7, 8, 9, 10], ["closePath"]])
})

test("a click means the outermost group, or inside an entered one what lies right in it", () => {
  const layers = [group("outer"), group("inner", {parent: "outer"}), layer("leaf", {parent: "inner"})], {scene} = state(layers)
  assert.equal(enterable(scene, layers[2], null).id, "outer")
  assert.equal(enterable(scene, layers[2], "outer").id, "inner")
  assert.equal(enterable(scene, layers[2], "inner").id, "leaf")
})

test("keys place a layer where its anchor is seen at their times, and a ride's keys rest", () => {
  const spots = rows(Array.from({length: 202}, (_, i) => i), 2)
  const keyed = layer("a", {spots, keys: [track("x", [["k", 10, 0]]), track("y", [["l", 20, 0]])]})
  assert.deepEqual([...keyedPlaces(keyed).entries()], [[10, [20, 21]], [20, [40, 41]]])
  assert.equal(keyedPlaces({...keyed, ride: ride("p", [])}).size, 0)
})

test("with Shift a line is level, upright or slanted by half", () => {
  assert.deepEqual(straight([0, 0], [10, 1]), [10, 0])
  assert.deepEqual(straight([0, 0], [1, -10]), [0, -10])
  const [x, y] = straight([0, 0], [10, 9])
  assert.ok(Math.abs(x - y) < 1e-9)
})

test("the colours of speed go from cool to warm and stay within the scale", () => {
  assert.equal(rampColour(-1), rampColour(0))
  assert.equal(rampColour(2), rampColour(1))
  assert.notEqual(rampColour(0), rampColour(0.5))
})

test("a view may not change the state while it is told of a change", () => {
  const store = createStore(state([]))
  store.add({update({state: now}) { if (now.frame) store.set({frame: 0}) }})
  assert.throws(() => store.set({frame: 1}), /may not change/)
})

test("nodes, keys and groups that are gone are chosen no more", () => {
  const store = createStore(state([group("g"), layer("a", {parent: "g"})], {inside: "g", chosen: layersChosen(["g", "a"])}))
  store.set({scene: state([layer("b"), layer("a")]).scene})
  assert.equal(store.state.inside, null)
  assert.deepEqual(chosenIds(store.state), ["a"])
})

test("of a chosen path's riders the one chosen last tells", () => {
  const riders = ["a", "b"].map(id => layer(id, {ride: ride("p", [])}))
  const on = rider => state(riders, {paths: [path("p")], chosen: {kind: "path", id: "p"}, rider})
  assert.equal(tellingRider(on("a")).id, "a")
  assert.equal(tellingRider(on(null)).id, "b")
})

test("in the list Ctrl adds a layer or takes it out, Shift takes all up to it, again and again from where it began", () => {
  const plain = {ctrlKey: false, metaKey: false, shiftKey: false}, order = ["e", "d", "c", "b", "a"]
  const one = id => ({kind: "layer", id})
  const after = (ids, id, keys) => chosenIds({chosen: chosenAfter({chosen: layersChosen(ids)}, one(id), {...plain, ...keys}, order)})
  assert.deepEqual(after(["a", "b"], "c", {}), ["c"])
  assert.deepEqual(after(["a"], "b", {ctrlKey: true}), ["a", "b"])
  assert.deepEqual(after(["a", "b"], "a", {metaKey: true}), ["b"])
  const some = after(["d"], "b", {shiftKey: true})
  assert.deepEqual([...some].sort(), ["b", "c", "d"])
  assert.deepEqual([...after(some, "c", {shiftKey: true})].sort(), ["c", "d"], "it shrinks again")
  assert.deepEqual([...after(some, "e", {shiftKey: true})].sort(), ["d", "e"], "and goes the other way")
  assert.deepEqual([...after(some, "e", {shiftKey: true, ctrlKey: true})].sort(), ["b", "c", "d", "e"])
})
