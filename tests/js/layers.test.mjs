import assert from "node:assert/strict"
import {test} from "node:test"

import {children, groupsOf, inside, matrixOf, opacityOf, outlinesOf, seenPath, spotOf} from "../../src/studio/static/studio/js/layers.js"
import {mapped} from "../../src/studio/static/studio/js/matrices.js"
import {group, layer, path, ride, rows, state} from "./made.mjs"

test("numbers that do not change have one row for all frames; a frame past the end has the last", () => {
  const still = rows([1, 2], 2), moving = rows([1, 2, 3, 4, 5, 6], 2, {length: 2})
  assert.deepEqual([...still.at(40)], [1, 2])
  assert.deepEqual([...moving.at(1)], [3, 4])
  assert.deepEqual([...moving.at(9)], [5, 6])
  assert.deepEqual([...moving.at(-1)], [1, 2])
})

test("a layer says where it is and how strong in a frame", () => {
  const moved = layer("a", {maps: rows([1, 0, 0, 1, 0, 0, 2, 0, 0, 2, 7, 8], 6), opacities: rows([1, 0.5], 1)})
  assert.deepEqual([...matrixOf(moved, 1)], [2, 0, 0, 2, 7, 8])
  assert.equal(opacityOf(moved, 1), 0.5)
})

test("the spot of a rider is where its ride is; of others what the core says", () => {
  const on = rows([0, 0, 0, 0, 0, 0, 30, 40, 0, 0, 0, 0], 6)
  assert.deepEqual(spotOf(layer("a", {ride: ride("p", [], {rows: on})}), 1), [30, 40])
  assert.deepEqual(spotOf(layer("b", {spots: rows([3, 4], 2)}), 9), [3, 4])
})

test("keyed paints stand for the outlines' own", () => {
  const outline = {figure: {}, fill: "#ffffff", stroke: null, width: 2, dash: null}
  const keyed = layer("a", {
    faces: {list: [{box: [0, 0, 1, 1], outlines: [outline]}], which: null},
    paints: {fill: rows([1, 0, 0, 1, 0, 0, 1, 0.5], 4), stroke: null, width: null},
  })
  assert.equal(outlinesOf(keyed, 0)[0].fill, "rgb(255 0 0 / 1)")
  assert.equal(outlinesOf(keyed, 1)[0].fill, "rgb(0 0 255 / 0.5)")
  assert.equal(outlinesOf(keyed, 1)[0].width, 2)
})

test("groups are told from the inside outwards, and hold at any depth", () => {
  const {scene} = state([group("outer"), group("inner", {parent: "outer"}), layer("leaf", {parent: "inner"}), layer("beside")])
  assert.deepEqual(groupsOf(scene, scene.layers[2]).map(each => each.id), ["inner", "outer"])
  assert.deepEqual(inside(scene, "outer").map(each => each.id), ["inner", "leaf"])
  assert.deepEqual(children(scene, null).map(each => each.id), ["outer", "beside"])
})

test("a path is seen through its group: places move, handles only turn and grow", () => {
  const {scene} = state([group("g", {maps: rows([0, 2, -2, 0, 100, 0], 6)})])
  const seen = seenPath(scene, path("p", {parent: "g"}), 0)
  assert.deepEqual([...seen.nodes.subarray(0, 6)], [100, 0, 0, 0, 0, 10])
  assert.deepEqual([...seen.nodes.subarray(6, 8)], mapped([0, 2, -2, 0, 100, 0], [10, 20]))
  assert.deepEqual(seen.box, [60, 0, 40, 20])
  assert.deepEqual(seen.start, [100, 0, 90])
})

test("a path of the scene is seen as it is", () => {
  const {scene} = state([]), plain = path("p")
  assert.equal(seenPath(scene, plain, 3), plain)
})
