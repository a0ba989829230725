/** Figures as the core sends them, verbs and points, as paths that the canvas draws. */

/** @import {Figure} from "./types.js" */

/** How many numbers a verb takes. @type {Record<string, number>} */
const TAKES = {M: 2, L: 2, C: 6, Z: 0}
/** @type {WeakMap<Figure, Path2D>} */
const known = new WeakMap()

/**
 * Calls a pen with each verb and its points.
 * @param {Figure} figure
 * @param {{moveTo: (x: number, y: number) => void, lineTo: (x: number, y: number) => void, closePath: () => void,
 *   bezierCurveTo: (a: number, b: number, c: number, d: number, x: number, y: number) => void}} pen
 */
export function drawFigure({verbs, points}, pen) {
  let at = 0
  for (const verb of verbs) {
    const [a, b, c, d, e, f] = points.subarray(at, at + TAKES[verb])
    at += TAKES[verb]
    if (verb === "M") pen.moveTo(a, b)
    else if (verb === "L") pen.lineTo(a, b)
    else if (verb === "C") pen.bezierCurveTo(a, b, c, d, e, f)
    else pen.closePath()
  }
}

/** @type {WeakMap<Figure, [number, number, number, number]>} */
const boxes = new WeakMap()

/** The box of a figure's points, which holds its curves: left, top, width, height. @param {Figure} figure */
export function boundsOf(figure) {
  const before = boxes.get(figure)
  if (before) return before
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < figure.points.length; i += 2) {
    left = Math.min(left, figure.points[i])
    right = Math.max(right, figure.points[i])
    top = Math.min(top, figure.points[i + 1])
    bottom = Math.max(bottom, figure.points[i + 1])
  }
  /** @type {[number, number, number, number]} */
  const box = left <= right ? [left, top, right - left, bottom - top] : [0, 0, 0, 0]
  boxes.set(figure, box)
  return box
}

/** @param {Figure} figure */
export function path2dOf(figure) {
  let path = known.get(figure)
  if (!path) {
    path = new Path2D()
    drawFigure(figure, path)
    known.set(figure, path)
  }
  return path
}
