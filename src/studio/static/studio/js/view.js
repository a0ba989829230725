/** How the scene lies on the stage, with its frame and its ground. */

import {Pane} from "./pane.js"
import {shown} from "./store.js"

/** @import {State, View} from "./types.js" */
/** @typedef {{scale: number, x: number, y: number}} Lies how large the scene is seen, and its place in the middle of the window */

/** @implements {View} */
export class StageView extends Pane {
  /** @type {State|null} */
  #last = null

  /**
   * @param {HTMLElement} bench
   * @param {() => void} changed called after the view has changed by itself
   */
  constructor(bench, changed) {
    super(bench, changed)
    this.parts = /** @type {HTMLElement[]} */ ([...bench.querySelectorAll(".frame, .ground")])
    this.ground = /** @type {HTMLElement} */ (bench.querySelector(".ground"))
    this.badge = /** @type {HTMLElement} */ (bench.querySelector("[data-zoom]"))
    this.size = /** @type {HTMLElement} */ (bench.querySelector("[data-size]"))
  }

  /** How the scene lies now, for a window of any size; null where all of it is shown. @returns {Lies|null} */
  get lies() {
    if (this.fitted) return null
    const {room, scale} = this
    return {scale, x: (room.width / 2 - this.left) / scale, y: (room.height / 2 - this.top) / scale}
  }

  /** @param {Lies} lies */
  lie({scale, x, y}) {
    const {room} = this
    this.scale = scale
    this.left = room.width / 2 - x * scale
    this.top = room.height / 2 - y * scale
    this.moved()
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    this.#last = state
    const now = shown(state)?.settings, then = shown(previous)?.settings
    if (!now || (now.width === then?.width && now.height === then?.height && now.background === then?.background)) return
    if (this.fitted) this.fitAll()
    else this.lay()
  }

  get #settings() { return this.#last && shown(this.#last)?.settings }

  /** Makes the frame whole px wide, so that its edge is sharp. */
  fitAll() {
    const frame = this.#settings
    if (!frame) return
    this.show([0, 0, frame.width, frame.height])
    this.scale = Math.max(2 * Math.floor((frame.width * this.scale) / 2), 2) / frame.width
    this.left = Math.round((this.room.width - frame.width * this.scale) / 2)
    this.lay()
  }

  lay() {
    const frame = this.#settings, {scale} = this
    if (!frame) return
    for (const part of this.parts) {
      part.style.left = `${this.left}px`
      part.style.top = `${this.top}px`
      part.style.width = `${frame.width * scale}px`
      part.style.height = `${frame.height * scale}px`
    }
    this.ground.classList.toggle("checks", !frame.background)
    this.badge.textContent = `${+(scale * 100).toPrecision(scale < 0.1 ? 2 : 3)} %`
    this.size.textContent = `${frame.width} × ${frame.height}`
  }
}
