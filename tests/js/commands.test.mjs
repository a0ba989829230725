import assert from "node:assert/strict"
import {test} from "node:test"

import {AREAS, COMMANDS, commandFor, commandsOf, fits, keyOf, shownKey} from "../../src/studio/static/studio/js/commands.js"
import {group, layer, path, ride, state} from "./made.mjs"

const press = (key, held = "") => ({key, ctrlKey: held.includes("c"), shiftKey: held.includes("s"), metaKey: held.includes("m"), altKey: false})

test("no name and no key is given twice, and each area has a heading", () => {
  const names = COMMANDS.map(command => command.name), keys = COMMANDS.flatMap(command => command.keys ?? [])
  assert.equal(new Set(names).size, names.length)
  assert.equal(new Set(keys).size, keys.length)
  for (const {area} of COMMANDS) assert.ok(AREAS[area])
})

test("a pressed key is written as the list has it", () => {
  assert.equal(keyOf(press("z", "cs")), "Ctrl+Shift+Z")
  assert.equal(keyOf(press("Z", "ms")), "Ctrl+Shift+Z")
  assert.equal(keyOf(press(" ", "s")), "Shift+Space")
  assert.equal(keyOf(press("{", "s")), "{")
  assert.equal(keyOf(press("ArrowLeft", "s")), "Shift+ArrowLeft")
})

test("every key of the list finds its command", () => {
  assert.equal(commandFor(press("g", "c")).name, "group")
  assert.equal(commandFor(press("g", "cs")).name, "ungroup")
  assert.equal(commandFor(press("g")).name, "fit-chosen")
  assert.equal(commandFor(press("?", "s")).name, "keys")
  assert.equal(commandFor(press("x")), undefined)
})

test("a key is shown as people write it", () => {
  assert.equal(shownKey("Ctrl+Shift+Z"), "Ctrl Shift Z")
  assert.equal(shownKey("Shift+ArrowLeft"), "Shift ←")
  assert.equal(shownKey("+"), "+")
})

test("commands that make no sense are not offered", () => {
  const layers = [group("g"), layer("a", {ride: ride("p", [])}), layer("b", {ride: ride("p", [])})]
  const on = id => state(layers, {chosen: {kind: "layer", id}, paths: [path("p")]})
  assert.ok(fits("ungroup", on("g")))
  assert.ok(!fits("ungroup", on("a")))
  assert.ok(fits("unlink", on("a")))
  assert.ok(fits("starter", on("g")) && !fits("starter", on("a")))
})

test("the menu of nodes says what can still be done to them", () => {
  const one = state([], {paths: [path("p")], chosen: {kind: "path", id: "p"}, nodes: ["b"]})
  const names = commandsOf("node", one).map(command => command.name)
  assert.ok(names.includes("split") && names.includes("lock") && !names.includes("unlock") && !names.includes("break"))
  assert.ok(!names.includes("join") && commandsOf("node", {...one, nodes: ["a", "b"]}).some(command => command.name === "join"))
})
