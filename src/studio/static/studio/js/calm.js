/** A view that need not follow every picture of a drag, or of what plays: it is told so many times a second. */

/** @import {State, View} from "./types.js" */

/** Between two tellings, ms: of what is looked ahead to, and of frames that play. */
const LOOK_MS = 250, PLAYED_MS = 100
/** What differs from one look ahead to the next. */
const OF_A_LOOK = ["look", "notes"]

/** Views that wait, and what they are to be told. @type {Map<View, {state: State, previous: State}>} */
const waiting = new Map()
let due = 0, told = -Infinity

/** All at once: each time the page is painted anew, however little of it has changed. */
function tellAll() {
  due = 0
  told = performance.now()
  const changes = [...waiting]
  waiting.clear()
  for (const [view, change] of changes) view.update(change)
}

/**
 * The stage is what the eye follows while something is dragged or plays; figures and curves that change with each picture
 * of it would take time from it, and could not be read.
 * @param {View} view @param {() => boolean} [inHand] whether it is this view that is dragged in
 * @returns {View}
 */
export function calm(view, inHand = () => false) {
  return {
    update({state, previous}) {
      const change = {state, previous: waiting.get(view)?.previous ?? previous}, pause = pauseBetween(previous, state)
      if (!pause || inHand()) {
        waiting.delete(view)
        told = performance.now()
        return view.update(change)
      }
      waiting.set(view, change)
      due ||= setTimeout(tellAll, Math.max(told + pause - performance.now(), 0))
    },
  }
}

/**
 * How long to wait, ms, where one look ahead has only taken another's place, or one frame that plays; nothing where more changed.
 * @param {State} previous @param {State} state
 */
function pauseBetween(previous, state) {
  const changed = /** @type {(keyof State)[]} */ (Object.keys(state)).filter(name => state[name] !== previous[name])
  if (state.look && previous.look && changed.every(name => OF_A_LOOK.includes(name))) return LOOK_MS
  return state.playing && changed.every(name => name === "frame") ? PLAYED_MS : 0
}
