import assert from "node:assert/strict"
import {mock, test} from "node:test"

import {calm} from "../../src/studio/static/studio/js/calm.js"
import {createStore} from "../../src/studio/static/studio/js/store.js"
import {state} from "./made.mjs"

/** A store with a calm view on it, and what that was told: the look before and the look now. */
function watched(inHand = () => false) {
  const store = createStore(state([])), told = []
  store.add(calm({update: ({state, previous}) => told.push([previous.look?.n ?? null, state.look?.n ?? null])}, inHand))
  told.length = 0
  return {store, told}
}

const look = n => ({look: {n, layers: [], paths: [], program: [], settings: {length: 9}}})

test("of many looks ahead a calm view is told a few, the last among them", () => {
  mock.timers.enable({apis: ["setTimeout"]})
  const {store, told} = watched()
  for (const n of [1, 2, 3]) store.set(look(n))
  assert.deepEqual(told, [[null, 1]], "the first at once")
  mock.timers.tick(300)
  assert.deepEqual(told, [[null, 1], [1, 3]], "then what has changed since it was told")
  mock.timers.tick(1000)
  assert.equal(told.length, 2)
  mock.timers.reset()
})

test("what is not only a look, and what is dragged in the view itself, is told at once", () => {
  mock.timers.enable({apis: ["setTimeout"]})
  const {store, told} = watched()
  store.set(look(1))
  store.set(look(2))
  store.set({look: null})
  assert.deepEqual(told, [[null, 1], [1, null]], "the drag is over")
  store.set(look(3))
  store.set(look(4))
  store.set({frame: 5})
  assert.deepEqual(told.slice(2), [[null, 3], [3, 4]])
  mock.timers.tick(1000)
  assert.equal(told.length, 4, "nothing is told late")
  mock.timers.reset()

  const held = watched(() => true)
  for (const n of [1, 2]) held.store.set(look(n))
  assert.deepEqual(held.told, [[null, 1], [1, 2]])
})

test("while it plays calm views are told of frames a few times a second, all of them at once", () => {
  mock.timers.enable({apis: ["setTimeout"]})
  const store = createStore({...state([]), playing: true}), told = []
  for (const name of ["figures", "peg"]) store.add(calm({update: ({state}) => told.push([name, state.frame])}))
  told.length = 0
  for (const frame of [1, 2, 3, 4]) store.set({frame})
  assert.deepEqual(told, [])
  mock.timers.tick(200)
  assert.deepEqual(told, [["figures", 4], ["peg", 4]])
  store.set({frame: 5})
  store.set({playing: false})
  assert.deepEqual(told.slice(2), [["figures", 5], ["peg", 5]], "where it rests is told at once")
  store.set({frame: 6})
  assert.deepEqual(told.slice(4), [["figures", 6], ["peg", 6]])
  mock.timers.tick(1000)
  assert.equal(told.length, 6)
  mock.timers.reset()
})
