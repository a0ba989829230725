import assert from "node:assert/strict"
import {test} from "node:test"

import {runsOf} from "../../src/studio/static/studio/js/picture.js"
import {group, layer} from "./made.mjs"

/** Layers named by letters, capital ones moving, as the runs of their program: "ab|C|d". */
function runs(names, program = [...names].map(id => ["item", id]), ghosts = []) {
  const layers = [...names].map(id => layer(id, {still: id === id.toLowerCase()}))
  const told = runsOf({layers: [...layers, group("g")], program}, ghosts)
  told.forEach(({still}, i) => assert.equal(still, i % 2 === 0, "still and moving runs take turns, a still one first"))
  return told.map(({steps}) => steps.map(step => step.layer.id).join("")).join("|")
}

test("still layers in a row are one run, in the order in which they are painted", () => {
  assert.equal(runs("abCd"), "ab|C|d")
  assert.equal(runs("Ab"), "|A|b")
  assert.equal(runs("ab"), "ab")
})

test("what is in a group drawn apart, and what has a ghost, counts as moving", () => {
  const apart = [["item", "a"], ["push", "g"], ["item", "b"], ["pop", "g"], ["item", "c"]]
  assert.equal(runs("abc", apart), "a|gbg|c")
  assert.equal(runs("abc", undefined, [[{id: "b"}, 0, 0.5]]), "a|b|c")
})

test("only a few runs are kept drawn", () => {
  assert.equal(runs("aBcDeFgHi".replace("g", "j")), "a|B|c|D|e|FjHi")
})
