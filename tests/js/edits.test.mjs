import assert from "node:assert/strict"
import {mock, test} from "node:test"

import {Edits} from "../../src/studio/static/studio/js/edits.js"
import {Away, Refused} from "../../src/studio/static/studio/js/server.js"
import {createStore} from "../../src/studio/static/studio/js/store.js"
import {packed, state} from "./made.mjs"

const ANSWER = {figures: [], layers: [], paths: [], program: [], scene: {width: 100, height: 100, fps: 25, rate: "25", length: 100, background: null}}

/** Edits of an empty scene whose server answers when it is told to, and what happened in which order. */
function asked() {
  const store = createStore(state([])), happened = [], open = [], clock = {ms: 0}
  const server = {post: (name, {dx}) => new Promise((answer, refuse) => {
    happened.push(`asked ${dx}`)
    const buffer = packed({...ANSWER, notes: [dx]}, [])
    open.push({answer: () => answer({arrayBuffer: async () => buffer}), refuse: () => refuse(new Refused("no", 422))})
  })}
  const edits = new Edits({store, server, say: () => undefined, refresh: () => undefined, now: () => clock.ms})
  store.add({update: ({state, previous}) => { if (state.look && state.look !== previous.look) happened.push(`drawn ${state.notes.move}`) }})
  return {server, edits, store, happened, clock, answer: () => open.shift().answer(), refuse: () => open.shift().refuse()}
}

const move = dx => ({form: "move", fields: {dx}})
const turned = () => new Promise(go => setImmediate(go))
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

test("a place that is old when its turn comes gives way to a newer one, if that comes soon", async () => {
  mock.timers.enable({apis: ["setTimeout"]})
  const {edits, happened, clock, answer} = asked()
  for (const dx of [1, 2]) edits.look(move(dx))
  clock.ms += 20
  answer()
  await turned()
  assert.deepEqual(happened, ["asked 1", "drawn 1"])
  edits.look(move(3))
  await turned()
  assert.deepEqual(happened.slice(2), ["asked 3"])
  edits.look(move(4))
  clock.ms += 20
  answer()
  await turned()
  assert.deepEqual(happened.slice(3), ["drawn 3"])
  mock.timers.tick(20)
  await turned()
  assert.deepEqual(happened.slice(4), ["asked 4"], "a hand at rest is waited for in vain")
  mock.timers.reset()
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

test("an edit waits for a studio that is away, is sent again under its name, and those after it follow", async () => {
  mock.timers.enable({apis: ["setTimeout"]})
  const {server, edits, store} = asked(), sent = []
  let away = 2
  server.post = async (name, {dx, key}) => {
    sent.push([dx, key])
    if (away-- > 0) throw new Away("gone")
    return {arrayBuffer: async () => packed({...ANSWER, revision: sent.length, undo: "Move", redo: ""}, [])}
  }
  const [first, second] = [edits.commit(move(1)), edits.commit(move(2))]
  await turned()
  assert.equal(store.state.kept, "waiting")
  for (const ms of [600, 1200]) {
    mock.timers.tick(ms)
    await turned()
  }
  await Promise.all([first, second])
  assert.deepEqual(sent.map(([dx]) => dx), [1, 1, 1, 2])
  assert.equal(new Set(sent.map(([, key]) => key)).size, 2)
  assert.equal(store.state.kept, "kept")
  mock.timers.reset()
})

test("what is refused is as it was, and is told where it was asked", async () => {
  const {server, edits, store} = asked(), told = []
  server.post = async () => { throw new Refused("That is no number.", 422) }
  await edits.commit(move(1), words => told.push(words))
  assert.deepEqual([told, store.state.kept], [["That is no number."], "kept"])
})

test("a recording waits for a studio that is away, too", async () => {
  mock.timers.enable({apis: ["setTimeout"]})
  const {server, edits, store} = asked(), sent = []
  server.post = async (name, {samples, key}) => {
    sent.push([name, samples, key])
    if (sent.length < 2) throw new Away("gone")
    return {arrayBuffer: async () => packed({...ANSWER, revision: 1, undo: "Record a take", redo: ""}, [])}
  }
  const done = edits.record({samples: "[[0,1,2]]"})
  await turned()
  assert.equal(store.state.kept, "waiting")
  mock.timers.tick(600)
  await done
  assert.deepEqual(sent[0], sent[1])
  assert.equal(store.state.kept, "kept")
  mock.timers.reset()
})

test("a studio that cannot keep anything says why once, and is sent the edit until it can", async () => {
  mock.timers.enable({apis: ["setTimeout"]})
  const said = [], keys = [], {store} = asked()
  const server = {post: async (_, {key}) => {
    keys.push(key)
    if (keys.length < 3) throw new Away("The disk is full.", true)
    return {arrayBuffer: async () => packed({...ANSWER, revision: 1}, [])}
  }}
  const edits = new Edits({store, server, say: words => said.push(words), refresh: () => undefined, now: () => 0})
  const done = edits.commit({form: "rename", fields: {name: "Ray"}})
  for (let i = 0; i < 3; i++) {
    for (let k = 0; k < 5; k++) await turned()
    mock.timers.tick(2000)
  }
  await done
  mock.timers.reset()
  assert.deepEqual(said.filter(words => words.includes("disk")), ["The disk is full. It is tried again until it is kept."])
  assert.equal(keys.length, 3)
  assert.equal(new Set(keys).size, 1)
})
