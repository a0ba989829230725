import assert from "node:assert/strict"
import {test} from "node:test"

import {frameAtShare, panned, shareOf, spanOf, zoomed} from "../../src/studio/static/studio/js/axis.js"
import {plotOf} from "../../src/studio/static/studio/js/plots.js"
import {nextTime, pickedStops, room, stopsOf} from "../../src/studio/static/studio/js/stops.js"
import {layer, peg, ride, state, track} from "./made.mjs"

const rider = () => layer("r", {ride: ride("p", [peg("one", 0), peg("two", 40), peg("end", 99)]), keys: [track("opacity", [["k", 20, 1], ["l", 30, 0]])]})

test("the axis shows the whole scene or what was zoomed to, and back", () => {
  const whole = state([]), near = state([], {span: [20, 60]})
  assert.deepEqual(spanOf(whole), [0, 100])
  assert.equal(shareOf(near, 30), 0.25)
  assert.equal(frameAtShare(near, 0.25), 30)
})

test("zooming keeps the frame it is about, and out of the scene there is no span", () => {
  assert.deepEqual(zoomed(state([]), 2, 50), [25, 75])
  assert.equal(zoomed(state([], {span: [25, 75]}), 0.25, 50), null)
  assert.deepEqual(zoomed(state([], {span: [48, 52]}), 8, 50), [49.75, 53.75])
})

test("panning stops at the ends", () => {
  assert.deepEqual(panned(state([], {span: [20, 60]}), 90), [60, 100])
  assert.deepEqual(panned(state([], {span: [20, 60]}), -90), [0, 40])
})

test("stops are the pegs of a ride and the keys of each property", () => {
  assert.deepEqual(stopsOf(rider()).map(stop => stop.item), ["r/peg/one", "r/peg/two", "r/peg/end", "r/opacity/k", "r/opacity/l"])
})

test("what is picked moves as far as its neighbours that are not", () => {
  const both = state([rider()], {picked: ["r/peg/two", "r/opacity/l"]})
  assert.deepEqual(pickedStops(both).map(stop => stop.time), [30, 40])
  assert.deepEqual(room(both), [-9, 58])
})

test("the next stop is beyond the playhead, or there is none", () => {
  assert.equal(nextTime(state([], {frame: 20}), 1, rider()), 30)
  assert.equal(nextTime(state([], {frame: 20}), -1, rider()), 0)
  assert.ok(Number.isNaN(nextTime(state([], {frame: 99}), 1, rider())))
})

test("the graph shows the speed of what rides, the curve of what has keys, and says what is missing", () => {
  const chosen = {kind: "layer", id: "r"}
  const speed = plotOf(state([rider()], {chosen}))
  assert.equal(speed.unit, "px/s")
  assert.equal(speed.marks.length, 3)
  assert.equal(speed.lines[0].rows.frames(0, Infinity).length, 101)
  const keyed = plotOf(state([rider()], {chosen, graph: "keys", property: "opacity"}))
  assert.deepEqual(keyed.marks.map(mark => mark.id), ["k", "l"])
  assert.equal(plotOf(state([layer("s")], {chosen: {kind: "layer", id: "s"}})).lines.length, 0)
})
