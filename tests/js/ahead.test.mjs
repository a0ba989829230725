import assert from "node:assert/strict"
import {test} from "node:test"

import {isKept, isLate, runsOf} from "../../src/studio/static/studio/js/ahead.js"
import {alike} from "../../src/studio/static/studio/js/alike.js"
import {layer, rows, state} from "./made.mjs"

const shown = (layers, program = layers.map(({id}) => ["item", id])) => ({...state(layers).scene, program})
/** A layer that goes from left to right over 100 frames, but for the frames of a gap, in which it is elsewhere. */
const going = (id, gap = [], more = {}) => layer(id, {
  still: false, maps: rows(Array.from({length: 101}, (_, i) => [1, 0, 0, 1, gap.includes(i) ? -50 : i, 0]).flat(), 6), ...more,
})
const same = (before, after) => {
  const isSame = alike(before, after)
  return Array.from({length: 101}, (_, i) => i).filter(frame => !isSame(frame))
}

test("only frames in which something is elsewhere look otherwise", () => {
  const before = shown([layer("a"), going("b")])
  assert.deepEqual(same(before, shown([layer("a"), going("b")])), [])
  assert.deepEqual(same(before, shown([layer("a"), going("b", [7, 8, 40])])), [7, 8, 40])
})

test("what looks otherwise does so wherever it is seen", () => {
  const seen = rows(Array.from({length: 101}, (_, i) => i < 95 ? 0 : 1), 1)
  const box = [{box: [0, 0, 20, 10], picture: null, outlines: []}]
  const before = shown([going("a", [], {opacities: seen})])
  const wider = shown([going("a", [], {opacities: seen, faces: {list: box, which: null}})])
  assert.deepEqual(same(before, wider), [95, 96, 97, 98, 99, 100])
})

test("another size, other layers and another order are all of it", () => {
  const before = shown([layer("a"), layer("b")])
  for (const after of [
    shown([layer("b"), layer("a")]), shown([layer("a")]), shown([layer("a"), layer("c")]),
    {...before, settings: {...before.settings, background: "#ffffff"}},
  ]) assert.equal(same(before, after).length, 101)
  // What is not drawn makes no difference.
  const guide = shown([layer("a"), layer("b"), layer("g")], before.program)
  assert.deepEqual(same(before, guide), [])
})

test("frames are told as runs", () => {
  assert.deepEqual(runsOf([5, 1, 2, 3, 9, 6]), [[1, 4], [5, 7], [9, 10]])
  assert.deepEqual(runsOf([]), [])
})

test("frames that no window could show are not late", () => {
  const {scene} = state([]), at = (frame, rate = 1) => ({...state([]), frame, rate})
  assert.equal(isLate(at(3), at(1), scene), false)
  assert.equal(isLate(at(4), at(1), scene), true)
  assert.equal(isLate(at(1), at(98), scene), true)
  const quick = {...scene, settings: {...scene.settings, fps: 120}}
  assert.equal(isLate(at(5), at(1), quick), false)
  assert.equal(isLate(at(9, 2), at(1, 2), quick), false)
})

test("what is left behind looks otherwise in other colours, though its layer is not seen", () => {
  const face = fill => ({box: [0, 0, 9, 9], picture: null, outlines: [{fill}]})
  const crowd = fill => ({lanes: 1, maps: rows([1, 0, 0, 1, 0, 0], 6), opacities: rows([1], 1), which: rows([0], 1), looks: [layer("a", {faces: {list: [face(fill)], which: null}})]})
  const left = fill => shown([layer("a", {opacities: rows([0], 1), crowd: crowd(fill)})])
  assert.deepEqual(same(left("#ff0000"), left("#ff0000")), [])
  assert.equal(same(left("#ff0000"), left("#0000ff")).length, 101)
  const behind = x => shown([layer("a", {opacities: rows([0], 1), mirror: [{kind: "item", maps: rows([1, 0, 0, 1, x, 0], 6), faces: {list: [face("#ff0000")], which: null}}]})])
  assert.equal(same(behind(0), behind(4)).length, 101)
})

test("of what is drawn almost in time one frame in four is kept, of what is not each", () => {
  assert.deepEqual([1, 2, 3, 4, 5, 8].filter(nth => isKept([900, 1100], nth)), [4, 8])
  assert.ok(isKept([900, 1600], 1))
  // It was drawn quickly, but came late.
  assert.ok(isKept([2000, 100], 1))
  assert.ok(!isKept([2000, 900, 900], 1))
})
