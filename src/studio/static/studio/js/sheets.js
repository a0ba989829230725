/** Canvases beside the stage's, of its size, on which only a box is drawn, and cleared. */

import {edgeOf, onCanvas} from "./matrices.js"

/** @import {Point} from "./types.js" */
/** @typedef {[left: number, top: number, width: number, height: number]} Box whole px of a canvas */

export class Sheet {
  canvas = document.createElement("canvas")
  on = /** @type {CanvasRenderingContext2D} */ (this.canvas.getContext("2d"))
  /** What was drawn on. @type {Box} */
  box = [0, 0, 0, 0]

  /**
   * Clears what was drawn before, and lets a box be drawn on, until it is closed.
   * @param {{width: number, height: number}} size @param {Box} box
   */
  open({width, height}, box) {
    const {canvas, on} = this
    if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, {width, height})
    else on.clearRect(...this.box)
    this.box = box
    on.save()
    on.beginPath()
    on.rect(...box)
    on.clip()
    return on
  }

  close() { this.on.restore() }
}

/**
 * The corners of a box with some room, as they are seen through a map on a canvas.
 * @param {readonly number[]} box left, top, width, height @param {number} room @param {ArrayLike<number>} m
 * @param {readonly number[]} lies scale, left and top of the scene on the canvas @returns {Point[]}
 */
export function around([left, top, width, height], room, m, lies) {
  return edgeOf(onCanvas(m, lies), [left - room, top - room, width + 2 * room, height + 2 * room])
}

/**
 * The whole px that points, with some room, have in common with a canvas.
 * @param {Point[]} points @param {{width: number, height: number}} size @param {number} room @returns {Box}
 */
export function common(points, {width, height}, room) {
  if (!points.length) return [0, 0, 0, 0]
  const xs = points.map(([x]) => x), ys = points.map(([, y]) => y)
  const left = Math.max(Math.floor(Math.min(...xs) - room) - 1, 0), top = Math.max(Math.floor(Math.min(...ys) - room) - 1, 0)
  const right = Math.min(Math.ceil(Math.max(...xs) + room) + 1, width), bottom = Math.min(Math.ceil(Math.max(...ys) + room) + 1, height)
  return right > left && bottom > top ? [left, top, right - left, bottom - top] : [0, 0, 0, 0]
}

/** The box round two. @param {Box} a @param {Box} b @returns {Box} */
export function grown(a, b) {
  const left = Math.min(a[0], b[0]), top = Math.min(a[1], b[1])
  return [left, top, Math.max(a[0] + a[2], b[0] + b[2]) - left, Math.max(a[1] + a[3], b[1] + b[3]) - top]
}

/** @param {Box} a @param {Box} b @returns {Box} */
export function overlap(a, b) {
  const left = Math.max(a[0], b[0]), top = Math.max(a[1], b[1])
  const width = Math.min(a[0] + a[2], b[0] + b[2]) - left, height = Math.min(a[1] + a[3], b[1] + b[3]) - top
  return width > 0 && height > 0 ? [left, top, width, height] : [0, 0, 0, 0]
}
