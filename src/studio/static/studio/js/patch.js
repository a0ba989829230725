/**
 * Pictures laid px by px: without a graphics processor a browser takes several times as long for many small ones, and
 * for any in perspective.
 *
 * A px is red, green, blue and alpha, premultiplied, the bytes of one number; two of them are multiplied at once.
 * The renderer's mathematics (render/kernel.py): bilinear, within 3 of 255, by the bytes that are rounded.
 */

import {edgeOf, inverse} from "./matrices.js"

/** @import {Matrix} from "./types.js" */
/** @import {Box} from "./sheets.js" */
/** @typedef {{words: Int32Array<ArrayBuffer>, width: number, height: number}} Sheet px of a picture, the outermost of them clear */

const EVEN = 0xff00ff, NO_AREA = 1e-12, NO_STEP = 1e-9
/** Px at the edge of a picture that are left out. Rounding leads on by less than a px: to what is clear, round the corner, too. */
const EDGE = 1e-3
/** Px by which places are wrong at most that are taken to go evenly between two of a row, where a px is seen as about one. */
const OFF = 0.03
const {imul} = Math

/** Px as a canvas has them, each byte beside its alpha. @param {Pick<ImageData, "data"|"width"|"height">} image @returns {Sheet} */
export function sheetOf({data, width, height}) {
  const words = new Int32Array(data.slice().buffer)
  for (let i = 0; i < words.length; i++) {
    const word = words[i], alpha = word >>> 24
    if (alpha < 255) words[i] = alpha && word & 0xff000000 | scaled(word, alpha / 255)
  }
  return {words, width, height}
}

/**
 * Makes px what a canvas takes, in their place: as far as they are to go there.
 * @param {Int32Array<ArrayBuffer>} words @param {number} [from] @param {number} [to]
 */
export function bytesOf(words, from = 0, to = words.length) {
  for (let i = from; i < to; i++) {
    const word = words[i], alpha = word >>> 24
    if (alpha && alpha < 255) words[i] = word & 0xff000000 | scaled(word, 255 / alpha)
  }
  return new Uint8ClampedArray(words.buffer)
}

/** Red, green and blue, all times a factor. @param {number} word @param {number} by */
const scaled = (word, by) => level((word >>> 16 & 255) * by) << 16 | level((word >>> 8 & 255) * by) << 8 | level((word & 255) * by)
/** @param {number} value */
const level = value => Math.min(255, value + 0.5 | 0)

/**
 * A sheet with red, green and blue each times a factor, and as much of something else as there is of it.
 * @param {Sheet} sheet @param {ArrayLike<number>} wash three factors 0.., and what is added, 0..1 @returns {Sheet}
 */
export function washed({words: from, width, height}, wash) {
  const words = new Int32Array(from.length), [red, green, blue, r, g, b] = Array.from(wash)
  for (let i = 0; i < words.length; i++) {
    const word = from[i], alpha = word >>> 24
    if (!alpha) continue
    const x = Math.min(alpha, (word & 255) * red + r * alpha + 0.5), y = Math.min(alpha, (word >>> 8 & 255) * green + g * alpha + 0.5)
    words[i] = alpha << 24 | Math.min(alpha, (word >>> 16 & 255) * blue + b * alpha + 0.5) << 16 | y << 8 | x
  }
  return {words, width, height}
}

/** The one used last: most are laid for one canvas, again and again. @type {Patch|null} */
let known = null

/** What is as large as a canvas, for px that are to be put there; clear until something is laid on. @param {{width: number, height: number}} canvas */
export function patchFor({width, height}) {
  return known?.width === width && known.height === height ? known : known = new Patch(width, height)
}

/** A clear picture, on which others are laid. */
export class Patch {
  /** By what its px go over to a canvas: they are put there, but drawn from there. @type {{on: CanvasRenderingContext2D, image: ImageData}|null} */
  #way = null

  /** @param {number} width @param {number} height */
  constructor(width, height) {
    this.width = width
    this.height = height
    this.words = new Int32Array(width * height)
  }

  /** @param {Sheet} sheet @param {number[]} m from its px to those of the patch, flat @param {number} strength 0..1 */
  lay({words: from, width: wide, height: high}, [a, b, c, d, e, f], strength) {
    const area = a * d - b * c, strong = Math.round(256 * strength), {words, width, height} = this
    if (Math.abs(area) < NO_AREA || !strong) return
    const right = turned(d / area), down = turned(-b / area)
    const first = f + Math.min(0, b * wide) + Math.min(0, d * high), last = first + Math.abs(b * wide) + Math.abs(d * high) + 2
    for (let row = Math.max(0, Math.trunc(first)); row < Math.min(height, last); row++) {
      // Px are told by their middles.
      const y = row + 0.5 - f, u = (d * (0.5 - e) - c * y) / area - 0.5, v = (a * y - b * (0.5 - e)) / area - 0.5
      const [low, most] = within(u - EDGE, right, wide - 1 - 2 * EDGE, ...within(v - EDGE, down, high - 1 - 2 * EDGE, 0, width))
      layRun(words, row * width + low, row * width + most, from, wide, u + right * low, v + down * low, right, down, strong)
    }
  }

  /**
   * The same in perspective.
   * @param {Sheet} sheet @param {Matrix} m nine numbers @param {number} strength 0..1 @param {Box} box beyond which nothing is laid
   */
  layDeep({words: from, width: wide, height: high}, m, strength, [left, top, across, down]) {
    const [a, b, c, d, e, f, g, h, w] = Array.from(inverse(m)), strong = Math.round(256 * strength), {words, width} = this
    if (!strong || Number.isNaN(a)) return
    const inset = 0.5 + EDGE, sides = sidesOf(edgeOf(m, [inset, inset, wide - 2 * inset, high - 2 * inset]))
    for (let row = top; row < top + down; row++) {
      const y = row + 0.5
      let low = Infinity, most = -Infinity
      for (const {from, to, x, slope} of sides) {
        if (y < from || y >= to) continue
        low = Math.min(low, x + slope * y)
        most = Math.max(most, x + slope * y)
      }
      const begin = Math.max(left, Math.ceil(low - 0.5)), end = Math.min(left + across, Math.ceil(most - 0.5))
      const base = h * y + w, steep = Math.abs(g) / Math.min(base + g * low, base + g * most)
      const span = steep > 0 ? Math.max(1, Math.sqrt(4 * OFF / steep) | 0) : Infinity
      for (let at = begin; at < end; at += span) {
        const more = Math.min(span, end - at), x = at + 0.5, near = 1 / (g * x + base), far = x + more - 1, away = 1 / (g * far + base)
        const u = (a * x + c * y + e) * near, v = (b * x + d * y + f) * near, steps = Math.max(1, more - 1)
        const right = ((a * far + c * y + e) * away - u) / steps, below = ((b * far + d * y + f) * away - v) / steps
        layRun(words, row * width + at, row * width + at + more, from, wide, u - 0.5, v - 0.5, right, below, strong)
      }
    }
  }

  /** Puts what was laid within a box where it lies on a canvas, and takes it off. @param {CanvasRenderingContext2D} to @param {Box} box */
  putOn(to, [left, top, across, down]) {
    if (!across || !down) return
    const {on, image} = this.#way ??= this.#wayOver()
    this.given([left, top, across, down])
    on.putImageData(image, 0, 0, left, top, across, down)
    for (let at = top * this.width + left, row = 0; row < down; row++, at += this.width) this.words.fill(0, at, at + across)
    to.setTransform(1, 0, 0, 1, 0, 0)
    to.globalAlpha = 1
    to.drawImage(on.canvas, left, top, across, down, left, top, across, down)
  }

  /** Makes px within a box what a canvas takes. @param {Box} box */
  given([left, top, across, down]) {
    for (let at = top * this.width + left, row = 0; row < down; row++, at += this.width) bytesOf(this.words, at, at + across)
  }

  #wayOver() {
    const {width, height, words} = this, canvas = Object.assign(document.createElement("canvas"), {width, height})
    const on = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"))
    return {on, image: new ImageData(new Uint8ClampedArray(words.buffer), width, height)}
  }
}

/**
 * Lays px in a row.
 * @param {Int32Array} words @param {number} at @param {number} end which of them
 * @param {Int32Array} from @param {number} wide px of a sheet, and of a row there
 * @param {number} u @param {number} v where the first is, from the middle of the sheet's first px
 * @param {number} right @param {number} down how far the next is from there @param {number} strong of 256
 */
function layRun(words, at, end, from, wide, u, v, right, down, strong) {
  const across = right * 65536 | 0, downwards = down * 65536 | 0
  for (let x16 = u * 65536 | 0, y16 = v * 65536 | 0; at < end; at++, x16 += across, y16 += downwards) {
    const spot = (y16 >> 16) * wide + (x16 >> 16)
    const p = from[spot], q = from[spot + 1], r = from[spot + wide], s = from[spot + wide + 1]
    if (!(p | q | r | s)) continue
    // Within an even, full colour there is nothing to be mixed.
    if (p === q && p === r && p === s && p >>> 24 === 255 && strong === 256) {
      words[at] = p
      continue
    }
    const i = x16 >> 8 & 255, j = y16 >> 8 & 255, both = i * j >> 8, none = 256 - i - j + both
    let even = (imul(p & EVEN, none) + imul(q & EVEN, i - both) + imul(r & EVEN, j - both) + imul(s & EVEN, both)) >>> 8 & EVEN
    let odd = (imul(p >>> 8 & EVEN, none) + imul(q >>> 8 & EVEN, i - both) + imul(r >>> 8 & EVEN, j - both) + imul(s >>> 8 & EVEN, both)) >>> 8 & EVEN
    if (strong < 256) {
      even = imul(even, strong) >>> 8 & EVEN
      odd = imul(odd, strong) >>> 8 & EVEN
    }
    const alpha = odd >>> 16, left = 256 - alpha - (alpha >> 7), under = words[at]
    if (left && under) {
      even += imul(under & EVEN, left) >>> 8 & EVEN
      odd += imul(under >>> 8 & EVEN, left) >>> 8 & EVEN
    }
    words[at] = odd << 8 | even
  }
}

/**
 * The sides of a figure that rows cross: from and to which y, and where x is there, `x + slope * y`.
 * @param {import("./types.js").Point[]} corners
 */
function sidesOf(corners) {
  return corners.flatMap(([x, y], i) => {
    const [nextX, nextY] = corners[(i + 1) % corners.length], slope = (nextX - x) / (nextY - y)
    return y === nextY ? [] : [{from: Math.min(y, nextY), to: Math.max(y, nextY), x: x - slope * y, slope}]
  })
}

/** A step that is not quite none, so that there is one by it. @param {number} step */
const turned = step => Math.abs(step) > NO_STEP ? step : NO_STEP

/** From where to where `first + x * step` lies in 0..size. @param {number} first @param {number} step @param {number} size @param {number} low @param {number} high @returns {[number, number]} */
function within(first, step, size, low, high) {
  const a = -first / step, b = (size - first) / step
  return [Math.max(low, Math.ceil(Math.min(a, b))), Math.min(high, Math.ceil(Math.max(a, b)))]
}
