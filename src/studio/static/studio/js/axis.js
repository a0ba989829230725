/** The time axis of the strip: which frames it shows, and where a frame lies on it. */

import {shown} from "./store.js"

/** @import {State} from "./types.js" */

const LEAST = 4

/**
 * The frames at both ends of the axis: those zoomed to, or the whole scene.
 * @param {State} state @returns {[number, number]}
 */
export function spanOf(state) {
  return state.span ?? [0, shown(state)?.settings.length ?? 1]
}

/** Where a frame lies, 0..1 from left to right. @param {State} state @param {number} frame */
export function shareOf(state, frame) {
  const [from, to] = spanOf(state)
  return (frame - from) / (to - from)
}

/** The frame at a share of the axis, with fractions. @param {State} state @param {number} share */
export function frameAtShare(state, share) {
  const [from, to] = spanOf(state)
  return from + share * (to - from)
}

/**
 * The span after zooming about a frame; null for the whole scene.
 * @param {State} state @param {number} factor above 1 is nearer @param {number} about
 * @returns {[number, number]|null}
 */
export function zoomed(state, factor, about) {
  const [from, to] = spanOf(state)
  return kept(state, about - (about - from) / factor, about + (to - about) / factor)
}

/** The span moved by frames. @param {State} state @param {number} by @returns {[number, number]|null} */
export function panned(state, by) {
  const [from, to] = spanOf(state)
  const length = shown(state)?.settings.length ?? 1
  const shift = Math.min(Math.max(by, -from), length - to)
  return kept(state, from + shift, to + shift)
}

/** @param {State} state @param {number} from @param {number} to @returns {[number, number]|null} */
function kept(state, from, to) {
  const length = shown(state)?.settings.length ?? 1
  const size = Math.max(to - from, LEAST)
  const start = Math.min(Math.max(from, 0), Math.max(length - size, 0))
  return size >= length ? null : [start, start + size]
}
