import assert from "node:assert/strict"
import {test} from "node:test"

import {Edits} from "../../src/studio/static/studio/js/edits.js"
import {Refused} from "../../src/studio/static/studio/js/server.js"
import {createStore} from "../../src/studio/static/studio/js/store.js"
import {packed, state} from "./made.mjs"

const ANSWER = {figures: [], layers: [], paths: [], program: [], scene: {width: 100, height: 100, fps: 25, rate: "25", length: 100, background: null}}

/** Edits of an empty scene whose server answers when it is told to, and what happened in which order. */
function asked() {
  const store = createStore(state([])), happened = [], open = []
  const server = {post: (name, {dx}) => new Promise((answer, refuse) => {
    happened.push(`asked ${dx}`)
    const buffer = packed({...ANSWER, notes: [dx]}, [])
    open.push({answer: () => answer({arrayBuffer: async () => buffer}), refuse: () => refuse(new Refused("no", 422))})
  })}
  const edits = new Edits({store, server, say: () => undefined, refresh: () => undefined})
  store.add({update: ({state, previous}) => { if (state.look && state.look !== previous.look) happened.push(`drawn ${state.notes.move}`) }})
  return {edits, store, happened, answer: () => open.shift().answer(), refuse: () => open.shift().refuse()}
}

const move = dx => ({form: "move", fields: {dx}})
const settled = () => new Promise(go => setTimeout(go))

test("while one look ahead is under way the newest waits, and is asked for before the first is drawn", async () => {
  const {edits, happened, answer} = asked()
  for (const dx of [1, 2, 3]) edits.look(move(dx))
  assert.deepEqual(happened, ["asked 1"])
  answer()
  await settled()
  assert.deepEqual(happened, ["asked 1", "asked 3", "drawn 1"])
  answer()
  await settled()
  assert.deepEqual(happened.slice(3), ["drawn 3"])
})

test("what is answered after the drag was left is not drawn", async () => {
  const {edits, store, happened, answer} = asked()
  edits.look(move(1))
  edits.lookAway()
  answer()
  await settled()
  assert.deepEqual(happened, ["asked 1"])
  assert.equal(store.state.look, null)
})

test("a refused look leaves the picture as it was, and the next one is asked for", async () => {
  const {edits, happened, answer, refuse} = asked()
  for (const dx of [1, 2]) edits.look(move(dx))
  refuse()
  await settled()
  assert.deepEqual(happened, ["asked 1", "asked 2"])
  answer()
  await settled()
  assert.deepEqual(happened.slice(2), ["drawn 2"])
})
