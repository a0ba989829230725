/** Plain figures in perspective: which they are, and their colours under light. */

import assert from "node:assert/strict"
import {test} from "node:test"

import {areFills, fillThrough, washedColour} from "../../src/studio/static/studio/js/fills.js"

const square = {verbs: "MLLLZ", points: Float32Array.of(0, 0, 100, 0, 100, 100, 0, 100)}
const plain = {figure: square, fill: "#204060", stroke: null, width: 0}
const BOX = [0, 0, 100, 100]
/** Farther away to the right. */
const LEANS = [1, 0, 0, 1, 0, 0, 0.01, 0, 1]

test("what has one colour is filled; strokes, gradients, faint things over others and what is too near are not", () => {
  assert.ok(areFills([plain], LEANS, BOX, 0.5))
  assert.ok(areFills([plain, plain], LEANS, BOX, 1))
  assert.ok(!areFills([], LEANS, BOX, 1))
  assert.ok(!areFills([plain, plain], LEANS, BOX, 0.5))
  assert.ok(!areFills([{...plain, stroke: "#ffffff", width: 2}], LEANS, BOX, 1))
  assert.ok(!areFills([{...plain, fill: {form: "linear"}}], LEANS, BOX, 1))
  assert.ok(!areFills([plain], [1, 0, 0, 1, 0, 0, -0.01, 0, 1], BOX, 1))
  const long = {...plain, figure: {verbs: "M" + "L".repeat(1600), points: new Float32Array(3202)}}
  assert.ok(!areFills([long], LEANS, BOX, 1))
})

test("edges are drawn where they are seen", () => {
  const points = [], on = {
    setTransform: (...m) => assert.deepEqual(m, [1, 0, 0, 1, 0, 0]), beginPath() {}, fill() {},
    moveTo: (...p) => points.push(p), lineTo: (...p) => points.push(p),
  }
  fillThrough(on, [plain], LEANS, 0.5, [0.5, 0.5, 0.5, 0, 0, 0])
  assert.deepEqual(points, [[0, 0], [50, 0], [50, 50], [0, 100]])
  assert.equal(on.globalAlpha, 0.5)
  assert.equal(on.fillStyle, "rgba(16,32,48, 1)")
})

test("colours are washed as a canvas gives them", () => {
  assert.equal(washedColour("#ff8040", [0.5, 1, 2, 0, 0, 0.1]), "rgba(127.5,128,153.5, 1)")
  assert.equal(washedColour("rgba(100, 200, 40, 0.25)", [1, 2, 0, 0.5, 0, 1]), "rgba(227.5,255,255, 0.25)")
})
