/** A view that need not follow every picture of a drag: while one is looked ahead to, it is told so many times a second. */

/** @import {State, View} from "./types.js" */

const EVERY_MS = 250
/** What differs from one look ahead to the next. */
const OF_A_LOOK = ["look", "notes"]

/**
 * The stage is what the eye follows while something is dragged; figures and curves that change with each picture of it
 * would take time from it, and could not be read.
 * @param {View} view @param {() => boolean} [inHand] whether it is this view that is dragged in
 * @returns {View}
 */
export function calm(view, inHand = () => false) {
  /** Since when it has been told nothing. @type {State|null} */
  let since = null
  let due = 0, told = -Infinity

  /** @param {State} state @param {State} previous */
  function tell(state, previous) {
    clearTimeout(due)
    due = 0
    since = null
    told = performance.now()
    view.update({state, previous})
  }

  return {
    update({state, previous}) {
      const before = since ?? previous
      if (!isNextLook(state, previous) || inHand()) return tell(state, before)
      since = before
      clearTimeout(due)
      due = setTimeout(() => tell(state, before), Math.max(told + EVERY_MS - performance.now(), 0))
    },
  }
}

/** Whether one look ahead has only taken another's place. @param {State} state @param {State} previous */
function isNextLook(state, previous) {
  const names = /** @type {(keyof State)[]} */ (Object.keys(state))
  return Boolean(state.look && previous.look) && names.every(name => OF_A_LOOK.includes(name) || state[name] === previous[name])
}
