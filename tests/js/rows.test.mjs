import assert from "node:assert/strict"
import {test} from "node:test"

import {inOrder, wantedBlocks} from "../../src/studio/static/studio/js/behind.js"
import {peakOf} from "../../src/studio/static/studio/js/layers.js"
import {stepOf} from "../../src/studio/static/studio/js/ties.js"
import {layer, ride, rows, state} from "./made.mjs"

/** 0, 1, 2 ... as numbers of a scene of 25 frames in blocks of ten: block 1 whole, and of the rest every fifth. */
const LIST = [0, 5, ...Array.from({length: 10}, (_, i) => 10 + i), 20, 25]
const partly = () => rows(LIST, 1, {length: 25, block: 10, list: LIST})

test("a block that was told whole is exact; elsewhere the sample before a frame stands in", () => {
  const told = partly()
  assert.deepEqual([13, 19, 4, 7, 24, 25, 99].map(frame => told.at(frame)[0]), [13, 19, 0, 5, 20, 25, 25])
  assert.deepEqual([0, 1, 2].map(block => told.has(block)), [false, true, false])
})

test("blocks are put in as they come, the last one shorter", () => {
  const told = partly()
  told.put(20, Float32Array.of(20, 21, 22, 23, 24, 25))
  assert.equal(told.at(24)[0], 24)
  told.put(0, Float32Array.from({length: 10}, (_, i) => i))
  assert.deepEqual(told.frames(0, 99), Array.from({length: 26}, (_, i) => i))
})

test("frames that are known are listed, in blocks all and elsewhere the samples, thinned to a number", () => {
  const told = partly()
  assert.deepEqual(told.frames(0, 25), LIST)
  assert.deepEqual(told.frames(4, 12), [5, 10, 11, 12])
  told.put(0, new Float32Array(10))
  told.put(20, new Float32Array(6))
  assert.deepEqual(told.frames(0, 25, 6), [0, 5, 10, 15, 20, 25])
})

test("the peak of a ride is found anew when more of it is known", () => {
  const speeds = Array.from({length: 26}, (_, i) => [0, 0, 0, i === 23 ? 9 : 1, 0, 0])
  const some = rows(LIST.flatMap(frame => speeds[frame]), 6, {length: 25, block: 10, list: LIST}), on = ride("p", [], {rows: some})
  assert.equal(peakOf(on).speed, 1)
  some.put(20, Float32Array.from(speeds.slice(20).flat()))
  assert.deepEqual([peakOf(on).speed, peakOf(on).frame], [9, 23])
})

test("blocks are wanted round the playhead first, then in the strip's window, then the rest", () => {
  const now = state([], {frame: 45, span: [25, 64]})
  assert.deepEqual(inOrder(now, 10), [4, 5, 6, 3, 2, 7, 8, 9, 10, 1, 0])
})

test("what there is no room for is let go, the farthest first", () => {
  const maps = rows(new Float32Array(606), 6, {block: 10}), now = state([layer("a", {maps})], {frame: 0})
  const kept = wantedBlocks(now, [[now.scene.layers[0], maps]], 3 * 10 * 6 * 4)
  assert.deepEqual(kept, [0, 1, 2])
  assert.deepEqual([2, 3, 10].map(block => maps.has(block)), [true, false, false])
})

test("ties that would lie on each other are drawn every 2nd, 5th, 10th ... frame", () => {
  assert.deepEqual([0.1, 1, 1.1, 1.7, 20].map(stepOf), [1, 1, 5, 10, 100])
})
