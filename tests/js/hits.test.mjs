import assert from "node:assert/strict"
import {test} from "node:test"

import {layerAt} from "../../src/studio/static/studio/js/hits.js"
import {group, layer, rows, state} from "./made.mjs"

const drawn = (x, more = {}) => ({
  kind: "item", maps: rows([1, 0, 0, 1, x, 0], 6), opacities: rows([1], 1), faces: {list: [{box: [0, 0, 10, 10], picture: ["crab.png", 0], mix: null, outlines: []}], which: null}, ...more,
})
const push = (more = {}) => ({kind: "push", opacities: rows([1], 1), ...more}), pop = {kind: "pop"}

test("a group is picked by its copies, where they are seen, and not by its image on the ground", () => {
  const mirror = [
    push({image: true}), drawn(20), pop,
    drawn(40), push({opacities: rows([0], 1)}), drawn(60), pop, push(), drawn(80), pop,
  ]
  const school = group("school", {pickedBy: "ink", mirror}), at = state([school, layer("crab", {parent: "school"})])
  const ids = [5, 25, 45, 65, 85].map(x => layerAt(at, [x, 5])?.id)
  assert.deepEqual(ids, ["school", undefined, "school", undefined, "school"])
  assert.equal(layerAt({...at, inside: "school"}, [5, 5])?.id, "crab")
})

test("what is locked is not picked by its copies either", () => {
  assert.equal(layerAt(state([group("school", {locked: true, mirror: [drawn(40)]})]), [45, 5]), undefined)
})
