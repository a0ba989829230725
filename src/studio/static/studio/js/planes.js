/**
 * Planes on the stage: pictures in perspective, and those whose colours are washed by light. Each is drawn flat, and
 * laid by the graphics processor; where there is none px by px, as long as these are not too many.
 */

import {composed, edgeOf, nearby} from "./matrices.js"
import {bytesOf, patchFor, sheetOf, washed} from "./patch.js"
import {common, grown} from "./sheets.js"
import {Warp, washOf} from "./warp.js"

/** @import {Matrix} from "./types.js" */
/** @import {Box} from "./sheets.js" */
/** @import {Look} from "./warp.js" */
/** @typedef {{sheet: import("./patch.js").Sheet, box: readonly number[]}} Flat its px, and where they are in the px of its layer */

/** Px of all in one picture that are laid px by px. */
const MOST_LAID = 4e6

export class Planes {
  #warp = new Warp()
  /** What was laid px by px and is not on its canvas yet. @type {{on: CanvasRenderingContext2D, box: Box}|null} */
  #waits = null
  #left = MOST_LAID
  /** Of each thing as large as it was wanted. @type {WeakMap<object, Map<number, Flat>>} */
  #flats = new WeakMap()

  /** Before another picture. */
  begin() { this.#left = MOST_LAID }

  /**
   * Lays what is drawn flat on a canvas; it is there after ``flush``.
   * @param {CanvasRenderingContext2D} on
   * @param {Matrix} m nine numbers, onto the canvas @param {readonly number[]} box in the px of its layer
   * @param {number} strength
   * @param {ArrayLike<number>|null} tint what lies over it
   * @param {Look} look
   */
  lay(on, m, box, strength, tint, look) {
    const touched = common(edgeOf(m, box), on.canvas, 1), px = touched[2] * touched[3]
    if (!px || !strength) return
    if (this.#warp.quick || (px > this.#left && this.#warp.works)) {
      this.#putDown()
      return this.#warp.lay(on, m, touched, strength, tint, look)
    }
    this.#warp.flush()
    this.#left -= px
    const flat = this.#flat(m, box, look)
    if (!flat) return
    const {sheet, box: [left, top, width, height]} = flat
    if (this.#waits && this.#waits.on !== on) this.#putDown()
    this.#waits = {on, box: this.#waits ? grown(this.#waits.box, touched) : touched}
    const whole = composed(m, [width / sheet.width, 0, 0, height / sheet.height, left, top])
    patchFor(on.canvas).layDeep(tint ? washed(sheet, washOf(tint)) : sheet, whole, strength, touched)
  }

  /**
   * What lies in a box of a canvas with washed colours.
   * @param {CanvasRenderingContext2D} on which was drawn apart @param {Box} box @param {ArrayLike<number>} tint
   */
  wash(on, [left, top, width, height], tint) {
    if (!this.#warp.quick) {
      const {words} = washed(sheetOf(on.getImageData(left, top, width, height)), washOf(tint))
      return on.putImageData(new ImageData(bytesOf(words), width, height), left, top)
    }
    const image = new OffscreenCanvas(width, height)
    image.getContext("2d")?.drawImage(on.canvas, left, top, width, height, 0, 0, width, height)
    on.setTransform(1, 0, 0, 1, 0, 0)
    on.clearRect(left, top, width, height)
    on.globalCompositeOperation = "source-over"
    const draw = () => ({image, box: [0, 0, width, height]})
    this.#warp.lay(on, [1, 0, 0, 1, left, top, 0, 0, 1], [left, top, width, height], 1, tint, {key: null, size: 1, most: 1, draw})
    this.#warp.flush()
  }

  /** Lays on what waits. */
  flush() {
    this.#warp.flush()
    this.#putDown()
  }

  #putDown() {
    const waits = this.#waits
    this.#waits = null
    if (waits) patchFor(waits.on.canvas).putOn(waits.on, waits.box)
  }

  /** @param {Matrix} m @param {readonly number[]} box @param {Look} look */
  #flat(m, box, {key, most, draw}) {
    // As a graphics processor does: as coarse as it is seen where it is squeezed most, else it would flicker.
    const size = Math.min(2 ** Math.round(Math.log2(Math.max(squeezed(m, box), 1e-4))), most)
    const known = key && this.#flats.get(key), found = known?.get(size)
    if (found) return found
    const drawn = draw(size)
    if (!drawn) return null
    const {image} = drawn, {width, height} = image
    const on = /** @type {CanvasRenderingContext2D|OffscreenCanvasRenderingContext2D} */ (image.getContext("2d"))
    const flat = {sheet: sheetOf(on.getImageData(0, 0, width, height)), box: drawn.box}
    if (key) this.#flats.set(key, (known || new Map()).set(size, flat))
    return flat
  }
}

/** Px of the canvas that a px of a box is seen as, the way it is squeezed, on the average of some places. @param {Matrix} m @param {readonly number[]} box */
function squeezed(m, [left, top, width, height]) {
  const places = [0.2, 0.8].flatMap(x => [0.2, 0.8].map(y => /** @type {const} */ ([left + x * width, top + y * height])))
  return Math.exp(places.reduce((sum, [x, y]) => {
    const [a, b, c, d] = Array.from(nearby(m, [x, y])), both = a * a + b * b + c * c + d * d, area = Math.abs(a * d - b * c)
    return sum + Math.log(Math.max(area / Math.sqrt((both + Math.sqrt(Math.max(both * both - 4 * area * area, 0))) / 2), 1e-9)) / places.length
  }, 0))
}
