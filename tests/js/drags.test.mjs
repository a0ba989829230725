import assert from "node:assert/strict"
import {test} from "node:test"

import {rounds} from "../../src/studio/static/studio/js/graphpaint.js"
import {LayerDrags} from "../../src/studio/static/studio/js/layerdrags.js"
import {PathDrags} from "../../src/studio/static/studio/js/pathdrags.js"
import {createStore} from "../../src/studio/static/studio/js/store.js"
import {layer, path, peg, ride, state} from "./made.mjs"

/** Drags over a scene, and all that they looked ahead to, kept and said; one px of the scene is one of the window. */
function hands(Drags, layers, more = {}) {
  const store = createStore(state(layers, more)), told = []
  const edits = {
    look: edit => told.push(["look", edit.form, edit.fields]),
    commit: edit => told.push(["commit", edit.form, edit.fields]),
    lookAway: () => told.push(["away"]),
  }
  const snap = {magnets: () => [], snap: place => place, clear: () => undefined}
  return {store, told, drags: new Drags({store, edits, view: {scale: 1, railAt: () => ""}, snap, say: words => told.push(["say", words])})}
}

const at = (x, y, keys = {}) => ({point: [x, y], event: {clientX: x, clientY: y, ...keys}})
const REEF = path("reef")
const WHERE = {paths: [REEF], chosen: {kind: "path", id: "reef"}}

test("a node is moved by as much as the pointer, and kept once", () => {
  const {store, told, drags} = hands(PathDrags, [], WHERE)
  const drag = drags.node(at(1, 1), REEF, 1)
  assert.deepEqual(store.state.nodes, ["b"])
  drag.move(at(5, 9))
  drag.drop(at(7, 9))
  const moved = (dx, dy) => ({path: "reef", nodes: "b", dx, dy, seen_at: "0"})
  assert.deepEqual(told, [["look", "node-move", moved("4", "8")], ["commit", "node-move", moved("6", "8")]])
})

test("up to some px nothing is moved: a press chooses", () => {
  const {store, told, drags} = hands(PathDrags, [], {...WHERE, nodes: ["a", "b"]})
  const drag = drags.node(at(1, 1), REEF, 1)
  assert.deepEqual(store.state.nodes, ["a", "b"], "what is pressed may be about to be moved with the others")
  drag.move(at(2, 2))
  drag.drop(at(2, 2))
  assert.deepEqual(told, [])
  assert.deepEqual(store.state.nodes, ["b"])
})

test("with Shift a node is one more, then one less; a drag goes straight", () => {
  const {store, told, drags} = hands(PathDrags, [], {...WHERE, nodes: ["a"]})
  const shift = {shiftKey: true}
  drags.node(at(0, 0, shift), REEF, 1).drop(at(0, 0, shift))
  assert.deepEqual(store.state.nodes, ["a", "b"])
  drags.node(at(0, 0, shift), REEF, 1).drop(at(0, 0, shift))
  assert.deepEqual(store.state.nodes, ["a"])
  drags.node(at(0, 0), REEF, 0).move(at(40, 3, shift))
  assert.deepEqual([told.at(-1)[2].dx, told.at(-1)[2].dy], ["40", "0"])
})

test("what is locked says so once, and nothing is looked at", () => {
  const {told, drags} = hands(PathDrags, [], WHERE)
  const drag = drags.node(at(0, 0), {...REEF, locked: true}, 1)
  for (const x of [10, 20, 30]) drag.move(at(x, 0))
  drag.drop(at(30, 0))
  assert.deepEqual(told, [["say", "reef is locked; unlock it to shape it."], ["away"]])
})

test("a drag that breaks off is not looked at any more", () => {
  const {told, drags} = hands(PathDrags, [], WHERE)
  const drag = drags.whole(at(0, 0), REEF)
  drag.move(at(10, 0))
  drag.cancel()
  assert.deepEqual(told.map(([what]) => what), ["look", "away"])
})

test("a band takes nodes as it grows, and gives them back where it is broken off", () => {
  const {store, drags} = hands(PathDrags, [], {...WHERE, nodes: ["b"]})
  const drag = drags.band(at(-1, -1), REEF)
  drag.move(at(4, 4))
  assert.deepEqual(store.state.nodes, ["a"])
  drag.cancel()
  assert.deepEqual(store.state.nodes, ["b"])
  drags.band(at(50, 50), REEF).drop(at(50, 50))
  assert.deepEqual(store.state.nodes, [], "a click lets go of all")
})

test("a layer goes where it is put; several keep their distances", () => {
  const stands = {can: {stand: true}}
  const {store, told, drags} = hands(LayerDrags, [layer("one", stands), layer("two", stands)])
  drags.layer(at(0, 0), store.state.scene.layers[0]).drop(at(0, 0))
  assert.deepEqual(told, [], "what was not moved is not kept")
  const drag = drags.layer(at(0, 0), store.state.scene.layers[0])
  drag.move(at(10, 5))
  assert.deepEqual(told.pop(), ["look", "place", {layer: "one", frame: "0", to_x: "10", to_y: "5"}])
  drag.cancel()
  const both = drags.layer(at(0, 0, {shiftKey: true}), store.state.scene.layers[1])
  both.move(at(3, 4))
  assert.deepEqual(told.at(-1), ["look", "place", {layer: "two", frame: "0", layers: "one two", dx: "3", dy: "4"}])
})

test("a layer that is dragged and held over a rail rides it; one that is pressed for long does not", t => {
  t.mock.timers.enable({apis: ["setTimeout"]})
  const label = {style: {setProperty: () => undefined}, remove: () => undefined}
  globalThis.document = {createElement: () => label, body: {appendChild: made => made}}
  globalThis.CSS = {escape: text => text}
  const {told, drags} = hands(LayerDrags, [layer("a")], {paths: [REEF]})
  Object.assign(drags.view, {railAt: () => "reef", bench: {querySelector: () => null}})
  const pressed = drags.layer(at(0, 0), layer("a"))
  pressed.move(at(1, 1))
  t.mock.timers.tick(2000)
  pressed.drop(at(1, 1))
  assert.deepEqual(told, [])
  const drag = drags.layer(at(0, 0), layer("a"))
  drag.move(at(30, 0))
  t.mock.timers.tick(599)
  assert.equal(told.at(-1)[1], "place")
  t.mock.timers.tick(1)
  const rides = {layer: "a", path: "reef"}
  assert.deepEqual(told.at(-1), ["look", "attach", rides])
  drag.drop(at(30, 0))
  assert.deepEqual(told.at(-1), ["commit", "attach", rides])
  delete globalThis.document
  delete globalThis.CSS
})

test("a rider held by its anchor stays, and says why; held elsewhere it is shifted off its path", () => {
  const rider = layer("manta", {can: {stand: true}, ride: ride("reef", [peg("p", 0)])})
  const {told, drags} = hands(LayerDrags, [rider], {paths: [REEF]})
  const near = (x, y) => ({...at(x, y), near: 9})
  drags.layer(near(0, 0), rider).move(near(10, 0))
  assert.match(told[0][1], /^manta rides reef; its place is set by the ride/)
  const drag = drags.layer(near(40, 0), rider)
  drag.move(near(48, 0))
  assert.equal(told.length, 1)
  drag.drop(near(60, 5))
  assert.match(told[1][1], /^Shifts manta off reef/)
  const {part, from_x: from, to_x: to} = told[2][2]
  assert.deepEqual([told[2][0], told[2][1], part, from, to], ["commit", "layer-frame", "shift", "40", "60"])
})

test("the graph is ruled at round values", () => {
  assert.deepEqual(rounds(0, 100), [0, 25, 50, 75, 100])
  assert.deepEqual(rounds(-1, 1), [-1, -0.5, 0, 0.5, 1])
  assert.deepEqual(rounds(3, 3), [])
})
