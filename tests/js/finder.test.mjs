import assert from "node:assert/strict"
import {test} from "node:test"

import {COMMANDS} from "../../src/studio/static/studio/js/commands.js"
import {ranked} from "../../src/studio/static/studio/js/finder.js"

const thing = (id, words, more = {}) => ({id, words, kind: "Layer", run() {}, ...more})
const THINGS = [thing("a", "Manta"), thing("b", "Big manta ray"), thing("c", "Amantadine"), thing("d", "Sea", {also: "manta water"}), thing("e", "Kelp")]
const ids = (text, recent = [], things = THINGS) => ranked(things, text, recent).map(each => each.id)

test("what begins so comes first, then words that do, other words for it, and what has it within", () => {
  assert.deepEqual(ids("manta"), ["a", "b", "d", "c"])
  assert.deepEqual(ids("man RAY"), ["b"])
  assert.deepEqual(ids("nothing so"), [])
})

test("of what fits as well what is done at once comes first", () => {
  const things = [thing("how", "Let it spin", {less: 0.5}), thing("card", "Wake: spin", {less: 0.25}), thing("own", "A long command to spin")]
  assert.deepEqual(ids("spin", [], things), ["own", "card", "how"])
  assert.deepEqual(ids("", [], things), ["how", "card", "own"])
  // What fits better still does.
  assert.deepEqual(ids("wake", [], [thing("also", "A line", {also: "wake"}), things[1]]), ["card", "also"])
})

test("of three words and more one may be another where nothing has all of them", () => {
  assert.deepEqual(ids("a big manta fish"), ["b"])
  assert.deepEqual(ids("sea of water"), ["d"])
  assert.deepEqual(ids("big fish"), [])
})

test("without words all is there, what was used last first", () => {
  assert.deepEqual(ids(""), ["a", "b", "c", "d", "e"])
  assert.deepEqual(ids("", ["e", "c"]), ["e", "c", "a", "b", "d"])
  // It does not come before what fits far better.
  assert.equal(ids("manta", ["c"])[0], "a")
})

test("what cannot be done now is found, after all that can", () => {
  assert.deepEqual(ids("man", [], [thing("no", "Manta", {able: false}), thing("yes", "A man")]), ["yes", "no"])
})

test("every command is found by its words and has plain other words, or is its own", () => {
  const things = COMMANDS.map(command => thing(command.name, command.words, {also: command.also, kind: command.area}))
  for (const {name, words, also, held} of COMMANDS) {
    assert.ok(ids(words, [], things).includes(name), name)
    assert.ok(also || held, `${name} has no other words`)
  }
  assert.equal(ids("select none", [], things)[0], "choose-none")
  assert.ok(ids("zoom", [], things).includes("in"))
})

test("the first steps are ticked by what is there, and playing counts once something rides", async () => {
  const {stepsDone} = await import("../../src/studio/static/studio/js/steps.js")
  const {layer, path, ride, state} = await import("./made.mjs")
  assert.deepEqual(stepsDone(state([]), true), {thing: false, path: false, ride: false, play: false})
  const still = state([layer("a", {can: {stand: true}})], {paths: [path("p")]})
  assert.deepEqual(stepsDone(still, true), {thing: true, path: true, ride: false, play: false})
  const rides = state([layer("a", {can: {stand: true}, ride: ride("p", [])})], {paths: [path("p")]})
  assert.deepEqual(stepsDone(rides, true), {thing: true, path: true, ride: true, play: true})
  assert.equal(stepsDone(rides, false).play, false)
})
