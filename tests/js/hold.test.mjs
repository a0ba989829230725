import assert from "node:assert/strict"
import {test} from "node:test"

import {Hold} from "../../src/studio/static/studio/js/hold.js"

/** A place that pointers come to, and what a drag there was told. */
function held(how = {}) {
  const root = new EventTarget(), said = []
  root.setPointerCapture = () => undefined
  const send = (type, more = {}) => root.dispatchEvent(Object.assign(new Event(type), {pointerId: 1, pointerType: "mouse", buttons: 1, clientX: 0, clientY: 0, ...more}))
  const hold = new Hold(root)
  const told = name => () => said.push(name)
  hold.begin({pointerId: 1, clientX: 0, clientY: 0}, {move: told("move"), drop: told("drop"), cancel: told("cancel"), click: told("click"), ...how})
  return {hold, send, said}
}

globalThis.addEventListener ??= () => undefined

test("a press moves, and is dropped once", () => {
  const {hold, send, said} = held()
  send("pointermove", {clientX: 5})
  send("pointerup")
  send("pointermove")
  assert.deepEqual(said, ["move", "drop"])
  assert.equal(hold.busy, false)
})

test("up to some px it is a click", () => {
  const {send, said} = held({slack: 4})
  send("pointermove", {clientX: 3})
  send("pointerup")
  assert.deepEqual(said, ["click"])
})

test("once a drag it stays one, also back where it began", () => {
  const {send, said} = held({slack: 4})
  for (const clientX of [6, 0]) send("pointermove", {clientX})
  send("pointerup")
  assert.deepEqual(said, ["move", "move", "drop"])
})

test("other pointers have no say in it", () => {
  const {hold, send, said} = held()
  for (const type of ["pointermove", "pointerup", "pointercancel"]) send(type, {pointerId: 2})
  assert.deepEqual(said, [])
  assert.equal(hold.busy, true)
})

test("a pointer that is lost, or was let go unseen, leaves things as they were", () => {
  for (const [type, more] of [["pointercancel", {}], ["lostpointercapture", {}], ["pointermove", {buttons: 0}]]) {
    const {hold, send, said} = held()
    send(type, more)
    assert.deepEqual([said, hold.cancel()], [["cancel"], false])
  }
})
