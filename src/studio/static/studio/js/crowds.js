/** Crowds on the stage: one look, drawn once at the size in which it is seen, and laid many times over. */

import {boxOf, crowdAt, faceOf, outlinesOf} from "./layers.js"
import {boundsOf} from "./figures.js"
import {patchFor, sheetOf} from "./patch.js"

/** @import {Layer} from "./types.js" */
/** @typedef {(on: CanvasRenderingContext2D, layer: Layer, frame: number, stretched: number) => boolean|void} DrawLook */
/** @typedef {{image: HTMLCanvasElement, left: number, top: number, width: number, height: number, sheet?: import("./patch.js").Sheet}} Look as it was drawn, and where that is in the px of its layer */

/** How strong guides are, which no render shows. */
export const GUIDE = 0.45
/** Px up to which a look is laid as an image; larger ones are drawn each by itself. */
const LARGEST = 256
/** From so many on they are laid px by px, if these are not too many: those of all of them, and of where they are. */
const MANY = 200, MOST_LAID = 400_000, MOST_PATCH = 1_500_000
/** Px by which the box is larger than where the middles are, beside what each is large. */
const ROOM = 2

/** @typedef {ReturnType<typeof crowdAt>} Found */

export class Crowds {
  /** @type {WeakMap<object, Map<number, Look>>} */
  #looks = new WeakMap()

  /**
   * @param {CanvasRenderingContext2D} on @param {Layer} layer @param {number} frame @param {[number, number, number]} lies
   * @param {DrawLook} draw
   */
  draw(on, layer, frame, [s, left, top], draw) {
    const found = crowdAt(layer, frame), guide = layer.guide ? GUIDE : 1
    const stretched = s * found.reduce((most, [[a, b, c, d]]) => Math.max(most, Math.hypot(a, b), Math.hypot(c, d)), 0)
    const looks = new Map([...new Set(found.map(each => each[2]))].map(each => [each, this.#look(each, frame, stretched, draw)]))
    const [[, only] = []] = looks.size === 1 ? looks : []
    if (only && found.length >= MANY && this.#laid(on, found, only, [s, left, top], guide)) return
    for (const [[a, b, c, d, e, f], strength, own] of found) {
      const look = looks.get(own)
      on.setTransform(a * s, b * s, c * s, d * s, e * s + left, f * s + top)
      on.globalAlpha = strength * guide
      if (look) on.drawImage(look.image, look.left, look.top, look.width, look.height)
      else draw(on, own, frame, s * Math.max(Math.hypot(a, b), Math.hypot(c, d)))
    }
  }

  /**
   * Lays all of one look px by px; whether that was done.
   * @param {CanvasRenderingContext2D} on @param {Found} found @param {Look} look @param {[number, number, number]} lies @param {number} guide
   */
  #laid(on, found, look, [s, x, y], guide) {
    const sheet = this.#sheet(look), {width, height} = sheet, wide = s * look.width / width, high = s * look.height / height
    // From px of the sheet to those of the canvas.
    const maps = found.map(([[a, b, c, d, e, f]]) => [
      a * wide, b * wide, c * high, d * high,
      s * (a * look.left + c * look.top + e) + x, s * (b * look.left + d * look.top + f) + y,
    ])
    const laid = maps.reduce((sum, [a, b, c, d]) => sum + Math.abs(a * d - b * c), 0) * width * height
    const [left, top, right, bottom] = edges(maps, width, height, on.canvas)
    if (laid > MOST_LAID || (right - left) * (bottom - top) > MOST_PATCH) return false
    if (right <= left || bottom <= top) return true
    const patch = patchFor(on.canvas)
    maps.forEach((map, i) => patch.lay(sheet, map, found[i][1] * guide))
    patch.putOn(on, [left, top, right - left, bottom - top])
    return true
  }

  /** @param {Look} look */
  #sheet(look) {
    const {image} = look, {width, height} = image
    return look.sheet ??= sheetOf(/** @type {CanvasRenderingContext2D} */ (image.getContext("2d")).getImageData(0, 0, width, height))
  }

  /**
   * What all look like in a frame; null where each is drawn by itself: large, or not here yet.
   * @param {Layer} layer @param {number} frame @param {number} stretched @param {DrawLook} draw @returns {Look|null}
   */
  #look(layer, frame, stretched, draw) {
    // In steps of half an octave, so that few are drawn while they grow.
    const size = 2 ** (Math.ceil(2 * Math.log2(Math.max(stretched, 1e-4))) / 2), face = faceOf(layer, frame)
    if (face.picture || size * Math.max(...boxOf(layer, frame).slice(2)) > LARGEST) return null
    const known = layer.paints ? undefined : this.#looks.get(face)
    let look = known?.get(size)
    if (!look) {
      look = drawn(layer, frame, size, draw)
      if (!layer.paints) this.#looks.set(face, (known ?? new Map()).set(size, look))
    }
    return look
  }
}

/**
 * Where pictures of a size may touch a canvas: left, top, right, bottom, in whole px.
 * @param {number[][]} maps @param {number} width @param {number} height @param {HTMLCanvasElement} canvas
 */
function edges(maps, width, height, canvas) {
  const reach = maps.reduce((most, [a, b, c, d]) => Math.max(most, Math.hypot(a, b) * width + Math.hypot(c, d) * height), 0) + ROOM
  const [xs, ys] = [4, 5].map(i => maps.reduce(([least, most], m) => [Math.min(least, m[i]), Math.max(most, m[i])], [Infinity, -Infinity]))
  return [
    Math.max(0, Math.floor(xs[0] - reach)), Math.max(0, Math.floor(ys[0] - reach)),
    Math.min(canvas.width, Math.ceil(xs[1] + reach)), Math.min(canvas.height, Math.ceil(ys[1] + reach)),
  ]
}

/** A look drawn flat, a px of it so many large. @param {Layer} layer @param {number} frame @param {number} size @param {DrawLook} draw @returns {Look} */
export function drawn(layer, frame, size, draw) {
  const {picture, box: [left0, top0, wide0, high0]} = faceOf(layer, frame)
  const edges = outlinesOf(layer, frame).map(({figure, stroke, width, join, miter}) => {
    const [left, top, wide, high] = boundsOf(figure), room = stroke ? width * (join === "miter" ? miter : 1.5) : 0
    return [left - room, top - room, left + wide + room, top + high + room]
  })
  if (picture) edges.push([left0, top0, left0 + wide0, top0 + high0])
  const side = (/** @type {number} */ i, /** @type {(...of: number[]) => number} */ most) => most(...edges.map(edge => edge[i]))
  const left = side(0, Math.min), top = side(1, Math.min), image = document.createElement("canvas")
  const wide = Math.max(side(2, Math.max) - left, 1e-3), high = Math.max(side(3, Math.max) - top, 1e-3)
  // A clear edge of a px, beyond which nothing is mixed in.
  image.width = Math.ceil(wide * size) + 2
  image.height = Math.ceil(high * size) + 2
  const on = /** @type {CanvasRenderingContext2D} */ (image.getContext("2d"))
  on.setTransform(size, 0, 0, size, 1 - left * size, 1 - top * size)
  draw(on, layer, frame, size)
  return {image, left: left - 1 / size, top: top - 1 / size, width: image.width / size, height: image.height / size}
}
