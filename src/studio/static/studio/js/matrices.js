/**
 * Maps of the plane: six numbers, in the order of SVG's matrix(), or nine, where three more say what x, y and 1 are
 * divided by: a plane in perspective.
 */

/** @import {Figure, Matrix, Point} from "./types.js" */

/** Nothing is seen that is nearer to the viewer than this share of the picture's distance (coaster/geometry/maps.py). */
export const NEAR = 0.02
/** @type {Matrix} */
export const IDENTITY = [1, 0, 0, 1, 0, 0]
/** Pieces of a curve that are each as good as the curve that is seen. */
const PIECES = 6

/** @param {Matrix} m */
export const isDeep = m => m.length === 9

/** @param {Matrix} m @param {Point} point @returns {Point} */
export function mapped(m, [x, y]) {
  const p = m[0] * x + m[2] * y + m[4], q = m[1] * x + m[3] * y + m[5]
  if (m.length < 9) return [p, q]
  const w = Math.max(m[6] * x + m[7] * y + m[8], NEAR)
  return [p / w, q / w]
}

/**
 * Where a place in depth is seen. @param {ArrayLike<number>} m four columns of three numbers @param {[number, number, number]} place
 * @returns {Point}
 */
export function lifted(m, [x, y, z]) {
  const [p, q, w] = [0, 1, 2].map(i => m[i] * x + m[3 + i] * y + m[6 + i] * z + m[9 + i]), far = Math.max(w, NEAR)
  return [p / far, q / far]
}

/** The nine numbers of a map, flat or not. @param {Matrix} m @returns {Matrix} */
export const fullOf = m => isDeep(m) ? m : Float32Array.of(m[0], m[1], m[2], m[3], m[4], m[5], 0, 0, 1)

/** A flat map as a canvas takes it. @param {Matrix} m @returns {[number, number, number, number, number, number]} */
export const sixOf = m => [m[0], m[1], m[2], m[3], m[4], m[5]]

/** How near a point is to the viewer: 1 in the picture, nothing where that is. @param {Matrix} m @param {number} x @param {number} y */
export const depthAt = (m, x, y) => m.length < 9 ? 1 : m[6] * x + m[7] * y + m[8]

/** What takes a map back; of one that leaves nothing to be seen all numbers are none. @param {Matrix} m @returns {Matrix} */
export function inverse(m) {
  const [a, b, c, d, e, f, g, h, w] = m.length < 9 ? [...Array.from(m), 0, 0, 1] : Array.from(m)
  const rows = [d * w - f * h, f * g - b * w, e * h - c * w, a * w - e * g, c * f - d * e, b * e - a * f, b * h - d * g, c * g - a * h, a * d - b * c]
  const size = a * rows[0] + c * rows[1] + e * rows[6]
  if (Math.abs(size) < 1e-12) return rows.slice(0, m.length).fill(NaN)
  const back = rows.map(each => each / size)
  return m.length < 9 ? back.slice(0, 6) : back
}

/** The map that applies the inner one first. @param {Matrix} outer @param {Matrix} inner @returns {Float32Array} */
export function composed(outer, inner) {
  const [a, b, c, d, e, f, g = 0, h = 0, w = 1] = Array.from(outer), [i, j, k, l, x, y, u = 0, v = 0, z = 1] = Array.from(inner)
  const both = [a * i + c * j + e * u, b * i + d * j + f * u, a * k + c * l + e * v, b * k + d * l + f * v, a * x + c * y + e * z, b * x + d * y + f * z]
  if (!isDeep(outer) && !isDeep(inner)) return Float32Array.from(both)
  return Float32Array.from([...both, g * i + h * j + w * u, g * k + h * l + w * v, g * x + h * y + w * z])
}

/** A map as it lies on a canvas. @param {Matrix} m @param {readonly number[]} lies scale, left and top of the scene there */
export const onCanvas = (m, [s, left, top]) => composed([s, 0, 0, s, left, top], m)

/** The flat map that is nearest to one about a point. @param {Matrix} m @param {Point} point @returns {Matrix} */
export function nearby(m, [x, y]) {
  if (!isDeep(m)) return m
  const w = Math.max(depthAt(m, x, y), NEAR), [px, py] = mapped(m, [x, y])
  const linear = [(m[0] - px * m[6]) / w, (m[1] - py * m[6]) / w, (m[2] - px * m[7]) / w, (m[3] - py * m[7]) / w]
  return [...linear, px - linear[0] * x - linear[2] * y, py - linear[1] * x - linear[3] * y]
}

/** By how much a map stretches anything about a point, the way it stretches it most. @param {Matrix} m @param {Point} point */
export function stretch(m, point) {
  const [a, b, c, d] = Array.from(nearby(m, point))
  return Math.max(Math.hypot(a, b), Math.hypot(c, d))
}

/** Whether anything of a plane is seen at a point of the picture; `back` is what takes its map back. @param {Matrix} back @param {Point} point */
export function isBefore(back, [x, y]) {
  const nearness = depthAt(back, x, y) // 1 / w: beyond the horizon it is below nothing
  return nearness > 0 && nearness <= 1 / NEAR
}

/** By how much areas grow about a point. @param {Matrix} m @param {Point} point */
export function growth(m, point) {
  const [a, b, c, d] = Array.from(nearby(m, point))
  return Math.sqrt(Math.abs(a * d - b * c))
}

/**
 * Where the edge of a box is seen, cut off where it is too near; nothing where all of it is.
 * @param {Matrix} m @param {readonly number[]} box left, top, width, height @returns {Point[]}
 */
export function edgeOf(m, [left, top, width, height]) {
  const corners = /** @type {Point[]} */ ([[left, top], [left + width, top], [left + width, top + height], [left, top + height]])
  if (!isDeep(m)) return corners.map(corner => mapped(m, corner))
  return corners.flatMap((corner, i) => {
    const next = corners[(i + 1) % 4], here = depthAt(m, ...corner), there = depthAt(m, ...next)
    const found = here >= NEAR ? [mapped(m, corner)] : []
    if ((here >= NEAR) === (there >= NEAR)) return found
    const share = (NEAR - here) / (there - here)
    return [...found, mapped(m, [corner[0] + share * (next[0] - corner[0]), corner[1] + share * (next[1] - corner[1])])]
  })
}

/**
 * Calls a pen with a figure as it is seen through a map, in pieces that are short enough.
 * @param {Figure} figure @param {Matrix} m @param {Parameters<typeof import("./figures.js").drawFigure>[1]} pen
 */
export function penThrough({verbs, points}, m, pen) {
  let at = 0, here = /** @type {Point} */ ([0, 0]), begun = here
  const next = () => /** @type {Point} */ ([points[at++], points[at++]])
  const line = (/** @type {Point} */ to) => {
    // A straight line is seen as one; where it comes near, as straight as its ends allow.
    pen.lineTo(...mapped(m, to))
    here = to
  }
  for (const verb of verbs)
    if (verb === "M") pen.moveTo(...mapped(m, begun = here = next()))
    else if (verb === "L") line(next())
    else if (verb === "Z") here = begun
    else {
      const [a, b, c] = [next(), next(), next()]
      for (const [, p, q, to] of piecesOf([here, a, b, c])) pen.bezierCurveTo(...mapped(m, p), ...mapped(m, q), ...mapped(m, to))
      here = c
    }
}

/** @typedef {[Point, Point, Point, Point]} Curve */

/** A curve in pieces. @param {Curve} curve @returns {Curve[]} */
export function piecesOf(curve) {
  const found = []
  for (let left = PIECES, rest = curve; left > 0; left--) {
    const [first, after] = left > 1 ? cutAt(rest, 1 / left) : [rest, rest]
    found.push(first)
    rest = after
  }
  return found
}

/** @param {Curve} curve @param {number} share @returns {[Curve, Curve]} */
function cutAt([a, b, c, d], share) {
  const mid = (/** @type {Point} */ p, /** @type {Point} */ q) => /** @type {Point} */ ([p[0] + share * (q[0] - p[0]), p[1] + share * (q[1] - p[1])])
  const ab = mid(a, b), bc = mid(b, c), cd = mid(c, d), abc = mid(ab, bc), bcd = mid(bc, cd), on = mid(abc, bcd)
  return [[a, ab, abc, on], [on, bcd, cd, d]]
}
