import assert from "node:assert/strict"
import {test} from "node:test"

import {runsOf} from "../../src/studio/static/studio/js/layers.js"
import {layerBy, placeOn, planOf, sightOf, wayOn} from "../../src/studio/static/studio/js/plan.js"
import {Rows} from "../../src/studio/static/studio/js/rows.js"
import {chosenPath, pathsSeen} from "../../src/studio/static/studio/js/store.js"
import {group, layer, path, ride, rows, state} from "./made.mjs"

/** Swung by a quarter about x = 50, 30 px behind: its x goes away from the viewer, its y down. */
const SWUNG = rows([0, 0, 1, 0, 1, 0, -1, 0, 0, 50, 20, 30, 50, 20, 30], 15)

const drawn = (all, side) => planOf(all.scene, all.frame, side, 0)
const near = (a, b) => Array.from(a).forEach((each, i) => assert.ok(Math.abs(each - b[i]) < 1e-5, `${a} is not ${b}`))

test("a layer is drawn by where its plane lies, from above and from its side", () => {
  const all = state([layer("fin", {space: SWUNG})])
  const [above] = drawn(all, "above").layers, [beside] = drawn(all, "side").layers
  near(above.maps.at(0), [0, -1, 0, 0, 50, -30])
  near(beside.maps.at(7), [1, 0, 0, 1, 30, 20])
  near(above.spots.at(0), [50, -30])
  near(beside.spots.at(0), [30, 20])
})

test("copies are drawn where they lie, and are the layer they are of", () => {
  const copy = {kind: "item", maps: rows([1, 0, 0, 1, 0, 0], 6), opacities: rows([1], 1), space: SWUNG}
  const fin = layer("fin", {space: rows([1, 0, 0, 0, 1, 0, 0, 0, 1, 10, 10, 0, 15, 15, 0], 15), copies: [copy, {...copy, space: null}]})
  const plan = drawn(state([fin]), "above"), [{copies}] = plan.layers
  near(copies[0].maps.at(0), [0, -1, 0, 0, 50, -30])
  // One of which that is not told is not drawn anywhere else.
  assert.equal(copies.length, 1)
  assert.equal(layerBy(plan, 0, [51, -32], 5, undefined)?.id, "fin")
})

test("a rider's way is that of its path as it lies now, in depth its own", () => {
  const told = {length: 2, block: 4, list: null}
  const at = (...numbers) => new Rows(Float32Array.from(numbers), numbers.length / 3, told)
  const lying = x => [1, 0, 0, 0, 1, 0, 0, 0, 1, x, 7, 9, x, 7, 9]
  const rider = layer("rider", {ride: {...ride("run", []), rows: at(0, 1, 2, 5, 1, 2, 9, 1, 2)}, space: at(...lying(1), ...lying(2), ...lying(3))})
  const flat = drawn(state([rider, group("pod", {space: SWUNG})], {paths: [path("run", {parent: "pod"})]}), "side")
  near(wayOn(flat, flat.layers[0], 0)(1), [35, 21])
  near(placeOn(flat, flat.layers[0], 0, [4, 1]), [34, 21])
  const deep = drawn(state([rider], {paths: [path("run", {depths: Float32Array.of(0, 0, 0, 0, 0, 0)})]}), "above")
  near(wayOn(deep, deep.layers[0], 0)(2), [3, -9])
  near(placeOn(deep, deep.layers[0], 0, [4, 1, 6]), [4, -6])
})

test("without depth all lies in the picture, seen by its edge", () => {
  const flat = layer("sheet", {maps: rows([2, 0, 0, 2, 40, 10], 6), spots: rows([50, 20], 2)})
  const rider = layer("rider", {ride: ride("run", [])}), all = state([flat, rider], {paths: [path("run")]})
  const plan = drawn(all, "above")
  near(plan.layers[0].maps.at(0), [2, 0, 0, 0, 40, 0])
  near(plan.layers[1].spots.at(0), [0, 0])
  assert.equal(plan.layers[0].ground, false)
  near(plan.paths[0].nodes, [0, 0, 0, 0, 5, 0, 10, 0, -5, 0, 0, 0])
})

test("nodes, handles and curves lie where their group lies", () => {
  const deep = path("run", {
    parent: "pod", depths: Float32Array.of(5, 0, 2, 7, -1, 0), cubics: Float32Array.of(0, 0, 5, 5, 0, 7, 5, 20, 6, 10, 20, 7),
  })
  const all = state([group("pod", {space: SWUNG})], {paths: [deep]}), [run] = drawn(all, "side").paths
  // x of the group is depth here, its y stays, its depth goes to the left, which is not seen from the side.
  near(run.nodes, [30, 20, 0, 0, 5, 0, 40, 40, -5, 0, 0, 0])
  assert.equal(run.d, "M30.00 20.00C35.00 20.00 35.00 40.00 40.00 40.00")
  near(run.box, [30, 20, 10, 20])
  const above = drawn(all, "above").paths[0]
  near(above.nodes, [45, -30, 0, 0, -2, -5, 43, -40, 1, 5, 0, 0])
  assert.equal(above.depths, undefined)
})

test("the tools find on the paper what is drawn there, and take it as it is", () => {
  const all = state([], {paths: [path("run")], chosen: {kind: "path", id: "run"}})
  const paper = {...all, scene: drawn(all, "above")}
  assert.equal(chosenPath(paper), paper.scene.paths[0])
  assert.deepEqual(pathsSeen(paper), paper.scene.paths)
})

test("the nearest outline is meant, the chosen one before others, and none that is too far", () => {
  const at = z => layer(`z${z}`, {space: rows([1, 0, 0, 0, 1, 0, 0, 0, 1, 10, 10, z, 15, 15, z], 15)})
  const plan = drawn(state([at(0), at(20), at(23)]), "above")
  assert.equal(layerBy(plan, 0, [12, -1], 5, undefined)?.id, "z0")
  assert.equal(layerBy(plan, 0, [12, -22], 5, undefined)?.id, "z23")
  assert.equal(layerBy(plan, 0, [12, -22], 5, "z20")?.id, "z20")
  assert.equal(layerBy(plan, 0, [12, 40], 5, undefined), undefined)
  assert.equal(layerBy(plan, 0, [40, 0], 5, undefined), undefined)
})

test("what is seen lies between two lines from the eye", () => {
  const all = state([layer("cam", {can: {view: true}, space: rows([1, 0, 0, 0, 1, 0, 0, 0, 1, 50, 50, 10, 50, 50, 10, 50, 50, -90], 18)})])
  const plan = {...drawn(all, "above"), lift: [1, 0, 0, 0, 1, 0, 0.5, 0.5, 0.01, 0, 0, 1]}
  const [[eye, left], [, right]] = sightOf(plan, undefined, Math.hypot(50, 100))
  near(eye, [50, 100])
  near(left, [-50, -100])
  near(right, [150, -100])
  const [[from, to]] = sightOf(plan, plan.layers[0], Math.hypot(50, 100))
  near(from, [50, 90])
  near(to, [-50, -110])
})

test("a curve leaves out nodes that it passes by, and a closed one comes back to its first", () => {
  const three = {...path("tri"), ids: ["a", "b", "c"], marks: ["c", "cd", "c"], runs: [[3, true]], nodes: Float32Array.of(0, 0, 0, 0, 0, 0, 50, 50, 0, 0, 0, 0, 10, 0, 0, 0, 0, 0)}
  const [curves] = runsOf(three)
  assert.deepEqual(curves.map(([from, , , to]) => [from, to]), [[[0, 0], [10, 0]], [[10, 0], [0, 0]]])
  assert.equal(runsOf({...three, runs: [[3, false]]})[0].length, 1)
})
