/**
 * Figures of one colour in perspective, or under light: as the renderer does (render/inks.py), their edges are drawn where
 * they are seen. That is sharp at any size, and there are no px to be laid.
 */

import {NEAR, depthAt, penThrough} from "./matrices.js"
import {washOf} from "./warp.js"

/** @import {Matrix, Outline} from "./types.js" */

/** Figures of more points are sooner laid as px, which are kept. */
const MOST_POINTS = 1500

/**
 * Whether all that is drawn can be filled: of colours, before the viewer, and, where it is faint, nothing of it over another.
 * @param {readonly Outline[]} outlines @param {Matrix} m @param {readonly number[]} box round all of them @param {number} strength
 */
export function areFills(outlines, m, [left, top, width, height], strength) {
  const corners = /** @type {const} */ ([[left, top], [left + width, top], [left, top + height], [left + width, top + height]])
  const isSimple = outlines.length === 1 || (outlines.length > 0 && strength === 1)
  return isSimple && outlines.every(({fill, stroke, width}) => typeof fill === "string" && !(stroke && width > 0)) &&
    outlines.reduce((sum, {figure}) => sum + figure.points.length, 0) <= 2 * MOST_POINTS && corners.every(corner => depthAt(m, ...corner) >= NEAR)
}

/**
 * @param {CanvasRenderingContext2D} on @param {readonly Outline[]} outlines @param {Matrix} m onto the canvas
 * @param {number} strength @param {ArrayLike<number>|null} tint what lies over them
 */
export function fillThrough(on, outlines, m, strength, tint) {
  on.setTransform(1, 0, 0, 1, 0, 0)
  on.globalAlpha = strength
  for (const {figure, fill} of outlines) {
    on.fillStyle = /** @type {string} */ (fill)
    if (tint) on.fillStyle = washedColour(String(on.fillStyle), washOf(tint))
    on.beginPath()
    penThrough(figure, m, on)
    on.fill()
  }
}

/** A colour as a canvas gives it, with each part times a factor, and more of it. @param {string} colour @param {ArrayLike<number>} wash */
export function washedColour(colour, wash) {
  const isHex = colour.startsWith("#"), found = colour.match(isHex ? /[0-9a-f]{2}/gi : /[\d.]+/g) ?? []
  const [r, g, b, alpha = 1] = found.map(part => isHex ? parseInt(part, 16) : Number(part))
  return `rgba(${[r, g, b].map((level, i) => Math.min(255, level * wash[i] + 255 * wash[3 + i])).join()}, ${alpha})`
}
