/** Masks on the stage: what is drawn apart is cut out by the same covers that the renderer cuts with. */

import {boundsOf, path2dOf} from "./figures.js"
import {growth, isDeep, onCanvas, penThrough, sixOf} from "./matrices.js"
import {Sheet, around, common} from "./sheets.js"

/** @import {Cover, Cut} from "./types.js" */
/** @import {Box} from "./sheets.js" */

/** So many standard deviations of a blur are seen. */
export const REACH = 3
const MEETS = /** @type {const} */ ({add: "source-over", take: "destination-out", meet: "destination-in"})

/** @typedef {[scale: number, left: number, top: number]} Lies how the scene lies on the canvas */
/** @typedef {{width: number, height: number}} Size */

export class Covers {
  #sharp = new Sheet()
  #part = new Sheet()
  #soft = new Sheet()
  #faint = new Sheet()
  /** Covers that stand still, drawn, and of which size and place. @type {WeakMap<Cover, {key: string, sheet: Sheet}>} */
  #kept = new WeakMap()

  /**
   * Takes away, of what is on a canvas, all that a cover does not show.
   * @param {CanvasRenderingContext2D} on @param {Cover} cover @param {number} frame @param {Lies} lies
   * @param {boolean} stays whether it is drawn again soon, as it is; what is dragged is another in a moment
   */
  cutOut(on, cover, frame, lies, stays) {
    const {canvas} = this.#drawn(cover, frame, lies, on.canvas, stays), strength = cover.strength.at(frame)[0]
    on.setTransform(1, 0, 0, 1, 0, 0)
    on.globalAlpha = cover.inverted ? strength : 1
    on.globalCompositeOperation = cover.inverted ? "destination-out" : "destination-in"
    on.drawImage(cover.inverted || strength === 1 ? canvas : this.#paled(canvas, strength), 0, 0)
    on.globalCompositeOperation = "source-over"
  }

  /** What is masked away is seen a little: 1 - s everywhere, and s times the cover. @param {HTMLCanvasElement} canvas @param {number} strength */
  #paled(canvas, strength) {
    const on = this.#faint.open(canvas, [0, 0, canvas.width, canvas.height])
    on.globalAlpha = 1 - strength
    on.fillRect(0, 0, canvas.width, canvas.height)
    on.globalAlpha = strength
    on.globalCompositeOperation = "lighter"
    on.drawImage(canvas, 0, 0)
    this.#faint.close()
    return this.#faint.canvas
  }

  /** @param {Cover} cover @param {number} frame @param {Lies} lies @param {Size} size @param {boolean} stays @returns {Sheet} */
  #drawn(cover, frame, lies, size, stays) {
    const key = [...lies, size.width, size.height].join(), known = this.#kept.get(cover)
    if (known?.key === key) return known.sheet
    if (!stays || !isStill(cover)) return this.#draw(cover, frame, lies, size, this.#soft)
    const sheet = this.#draw(cover, 0, lies, size, new Sheet())
    this.#kept.set(cover, {key, sheet})
    return sheet
  }

  /** @param {Cover} cover @param {number} frame @param {Lies} lies @param {Size} size @param {Sheet} into */
  #draw(cover, frame, lies, size, into) {
    const blur = cover.blur.at(frame)[0] * lies[0]
    const box = coverBox(cover, frame, lies, size, REACH * blur), sheet = blur ? this.#sharp : into
    const on = sheet.open(size, box)
    for (const cut of cover.cuts) this.#cut(on, cut, cover.grow.at(frame)[0], frame, lies, box)
    sheet.close()
    if (blur) {
      const soft = into.open(size, box)
      soft.filter = `blur(${blur}px)`
      soft.drawImage(sheet.canvas, 0, 0)
      into.close()
    }
    return into
  }

  /** @param {CanvasRenderingContext2D} on @param {Cut} cut @param {number} grow @param {number} frame @param {Lies} lies @param {Box} box */
  #cut(on, cut, grow, frame, lies, box) {
    // By itself first: its edge is taken from it, and it meets the others as a whole.
    const part = this.#part.open(on.canvas, box)
    const seen = onCanvas(cut.maps.at(frame), lies), deep = isDeep(seen), path = deep ? new Path2D() : path2dOf(cut.figure)
    if (deep) penThrough(cut.figure, seen, path)
    else part.setTransform(...sixOf(seen))
    part.fill(path)
    if (grow) {
      part.globalCompositeOperation = grow > 0 ? "source-over" : "destination-out"
      part.lineWidth = 2 * Math.abs(grow) * (deep ? growth(seen, middleOf(boundsOf(cut.figure))) : 1)
      part.lineJoin = "round"
      part.stroke(path)
    }
    this.#part.close()
    on.globalCompositeOperation = MEETS[cut.how]
    on.drawImage(this.#part.canvas, 0, 0)
  }
}

/** @param {readonly number[]} box @returns {import("./types.js").Point} */
const middleOf = ([left, top, width, height]) => [left + width / 2, top + height / 2]

/** @param {Cover} cover */
const isStill = ({cuts, grow, blur}) => [grow, blur, ...cuts.map(cut => cut.maps)].every(rows => rows.single)

/**
 * Where the cuts of a cover are on a canvas, with some room.
 * @param {Cover} cover @param {number} frame @param {Lies} lies @param {Size} size @param {number} room @returns {Box}
 */
function coverBox({cuts, grow}, frame, lies, size, room) {
  const out = Math.max(grow.at(frame)[0], 0)
  const corners = cuts.flatMap(({figure, maps}) => around(boundsOf(figure), out, maps.at(frame), lies))
  return common(corners, size, room)
}

/**
 * Where anything at all may be seen through a cover; null for everywhere.
 * @param {Cover} cover @param {number} frame @param {Lies} lies @param {Size} size
 */
export function shownBy(cover, frame, lies, size) {
  if (cover.inverted || cover.strength.at(frame)[0] < 1) return null
  return coverBox(cover, frame, lies, size, REACH * cover.blur.at(frame)[0] * lies[0])
}
