/** Tools that put something new on the stage: figures as paths, dragged to their size; texts and shapes. */

import {straight} from "./snap.js"
import {seenIn} from "./stagedrags.js"
import {tr, word} from "./words.js"

/** @import {At, Drag, Tool} from "./types.js" */

/** @param {number} value */
const px = value => String(+value.toFixed(2))

/**
 * Drags out a figure. Shift keeps it regular, Alt draws it from its middle.
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, snap: import("./snap.js").Snap,
 *   done: () => void}} tools
 * @returns {Tool}
 */
export function createFigure({store, edits, snap, done}) {
  /** @param {At} at @returns {Drag} */
  function press(at) {
    const pull = snap.magnets()
    const begun = snap.snap(at.point, pull, at.event)
    let large = false
    /** @param {At} now */
    function fields(now) {
      let [x, y] = snap.snap(now.point, pull, now.event)
      if (now.event.shiftKey && store.state.figure === "wave") [x, y] = straight(begun, now.point)
      else if (now.event.shiftKey) {
        const side = Math.max(Math.abs(now.point[0] - begun[0]), Math.abs(now.point[1] - begun[1]))
        x = begun[0] + Math.sign(now.point[0] - begun[0]) * side
        y = begun[1] + Math.sign(now.point[1] - begun[1]) * side
      }
      const from = now.event.altKey ? [2 * begun[0] - x, 2 * begun[1] - y] : begun
      const left = Math.min(from[0], x), top = Math.min(from[1], y)
      return {...seenIn(store.state), ...store.state.options, kind: store.state.figure, left: px(left), top: px(top), width: px(Math.abs(x - from[0])), height: px(Math.abs(y - from[1]))}
    }
    return {
      eager: true,
      move(now) {
        large ||= Math.hypot(now.point[0] - at.point[0], now.point[1] - at.point[1]) > at.near / 2
        if (large) edits.look({form: "figure", fields: fields(now)})
      },
      drop(now) {
        if (large) void edits.commit({form: "figure", fields: fields(now)}).then(head => { if (head) done() })
        snap.clear()
      },
      cancel() {
        snap.clear()
        edits.lookAway()
      },
    }
  }
  return {
    cursor: "crosshair",
    hint: () => tr`Drag out the ${word(store.state.figure)}. Shift keeps it regular, Alt draws it from the middle.`,
    press,
  }
}

/**
 * Puts a text or a shape where it is clicked; a shape is dragged to its size. Shift keeps it regular, Alt draws it from its middle.
 * @param {{edits: import("./edits.js").Edits, store: import("./store.js").Store, what: () => string, sized?: boolean, done: (id: string) => void}} tools
 * @returns {Tool}
 */
export function createPlacing({edits, store, what, sized = false, done}) {
  /** @param {Record<string, string>} fields */
  function add(fields) {
    const before = new Set(store.state.scene?.layers.map(layer => layer.id))
    void edits.commit({form: "add", fields: {...seenIn(store.state), what: what(), ...fields}}).then(() => {
      const made = store.state.scene?.layers.find(layer => !before.has(layer.id))
      if (made) store.set({chosen: {kind: "layer", id: made.id}})
      done(made?.id ?? "")
    })
  }
  /** @param {At} at @returns {Drag} */
  function pull(at) {
    const [x, y] = at.point
    let large = false
    /** @param {At} now @returns {Record<string, string>} */
    function fields({event, point}) {
      let wide = point[0] - x, high = point[1] - y
      if (event.shiftKey) {
        const side = Math.max(Math.abs(wide), Math.abs(high))
        wide = Math.sign(wide) * side
        high = Math.sign(high) * side
      }
      const share = event.altKey ? 0 : 0.5, times = event.altKey ? 2 : 1
      return {x: px(x + share * wide), y: px(y + share * high), width: px(Math.max(Math.abs(wide) * times, 1)), height: px(Math.max(Math.abs(high) * times, 1))}
    }
    return {
      eager: true,
      move(now) {
        large ||= Math.hypot(now.point[0] - x, now.point[1] - y) > at.near / 2
        if (large) edits.look({form: "add", fields: {...seenIn(store.state), what: what(), ...fields(now)}})
      },
      drop: now => add(large ? fields(now) : {x: px(x), y: px(y)}),
      cancel: () => edits.lookAway(),
    }
  }
  return {
    cursor: "crosshair",
    hint: () => sized ? tr`Drag out the ${word(what())}, or click where it is to stand. Shift keeps it regular, Alt draws it from the middle.`
      : tr`Click where the ${word(what())} is to stand.`,
    press(at) {
      if (sized) return pull(at)
      add({x: px(at.point[0]), y: px(at.point[1])})
    },
  }
}
