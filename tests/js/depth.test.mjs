import assert from "node:assert/strict"
import {test} from "node:test"

import {NEAR, composed, depthAt, edgeOf, growth, inverse, isBefore, lifted, mapped, nearby, penThrough} from "../../src/studio/static/studio/js/matrices.js"
import {inOrder} from "../../src/studio/static/studio/js/picture.js"
import {layer, rows} from "./made.mjs"

const DEEP = [1, -0.1, 0.2, 0.8, 30, 20, 1e-3, -5e-4, 1]
const near = (a, b, by = 1e-6) => a.forEach((each, i) => assert.ok(Math.abs(each - b[i]) < by, `${a} is not ${b}`))

test("maps are taken back, composed, and told nearby", () => {
  const point = [40, 60], there = mapped(DEEP, point)
  near(mapped(inverse(DEEP), there), point)
  near(mapped(inverse([2, 0, 0, 3, 5, 7]), [9, 13]), [2, 2])
  const both = composed([2, 0, 0, 2, 10, 0], DEEP)
  assert.equal(both.length, 9)
  near(mapped(both, point), [2 * there[0] + 10, 2 * there[1]], 1e-4)
  assert.equal(composed([1, 0, 0, 1, 0, 0], [1, 0, 0, 1, 3, 4]).length, 6)
  const flat = nearby(DEEP, point)
  near(mapped(flat, point), there)
  const step = mapped(DEEP, [40.001, 60])
  near([(step[0] - there[0]) * 1000, (step[1] - there[1]) * 1000], [flat[0], flat[1]], 1e-4)
  assert.ok(Math.abs(growth([2, 0, 0, 2, 0, 0], point) - 2) < 1e-9)
})

test("what passes the viewer is cut off where it becomes too near", () => {
  const passing = [1, 0, 0, 1, 0, 0, 0, -0.1, 1], edge = edgeOf(passing, [-5, 0, 10, 20])
  assert.equal(edge.length, 4)
  const cut = (1 - NEAR) / 0.1
  near(edge[2], [5 / NEAR, cut / NEAR], 1e-3)
  assert.ok(depthAt(passing, 0, 20) < 0)
  assert.deepEqual(edgeOf([1, 0, 0, 1, 0, 0, 0, 0, -1], [0, 0, 5, 5]), [])
})

test("nothing is there beyond the horizon, nor of what has no size", () => {
  assert.ok(inverse([0, 0, 0, 1, 5, 5]).every(Number.isNaN))
  const deep = inverse([1, 0, 0, 1, 0, 0, 0, -0.01, 1])
  assert.ok(isBefore(deep, mapped([1, 0, 0, 1, 0, 0, 0, -0.01, 1], [3, 40])))
  assert.ok(!isBefore(deep, [0, -200]))
})

test("a figure is drawn as it is seen, its curves in pieces", () => {
  const calls = [], pen = Object.fromEntries(["moveTo", "lineTo", "bezierCurveTo", "closePath"].map(name => [name, (...at) => calls.push([name, at])]))
  penThrough({verbs: "MLCZ", points: Float32Array.of(0, 0, 10, 0, 20, 0, 20, 10, 10, 10)}, DEEP, pen)
  assert.deepEqual(calls.map(([name]) => name), ["moveTo", "lineTo", ...Array(6).fill("bezierCurveTo")])
  near(calls.at(-1)[1].slice(4), mapped(DEEP, [10, 10]))
})

test("a place in depth is seen smaller the farther it is", () => {
  const view = [1, 0, 0, 0, 1, 0, 0.5, 0.25, 0.01, 0, 0, 1] // the middle at 50, 25, 100 px away
  near(lifted(view, [70, 45, 0]), [70, 45])
  near(lifted(view, [70, 45, 100]), [60, 35])
})

test("of what is sorted the farthest comes first, in sets within sets", () => {
  const at = (id, far) => layer(id, {away: rows([far], 1)}), part = each => ({kind: "part", layer: each})
  const [a, b, c, d] = [at("a", 1), at("b", 3), at("c", 2), at("d", 5)]
  const item = each => ({kind: "item", layer: each}), sort = {kind: "sort"}, sorted = {kind: "sorted"}
  const steps = [item(d), sort, part(a), item(a), part(b), item(b), part(c), sort, part(a), item(a), part(d), item(d), sorted, sorted, item(c)]
  assert.deepEqual(inOrder(steps, 0).map(({layer: {id}}) => id), ["d", "b", "d", "a", "a", "c"])
})
