/** How the scene lies on the stage: one scale and one shift, from scene px to the bench's px. */

import {shown} from "./store.js"

/** @import {Point, State, View} from "./types.js" */
/** @typedef {{scale: number, x: number, y: number}} Lies how large the scene is seen, and its place in the middle of the window */

const MARGIN = {left: 24, right: 24, top: 44, bottom: 60}
const SMALLEST = 0.02, LARGEST = 64
/** A box that is looked at is shown with so many px of the window round it, however small it is. */
const SMALLEST_BOX = 40

/** @implements {View} */
export class StageView {
  /** Px of the window per px of the scene, and where the scene's corner lies on the bench. */
  scale = 1
  left = 0
  top = 0
  /** Whether the whole frame is shown, and is to stay whole when the window changes. */
  #fitted = true
  /** @type {State|null} */
  #last = null

  /**
   * @param {HTMLElement} bench
   * @param {(resized: boolean) => void} changed called after the view has changed by itself
   */
  constructor(bench, changed) {
    this.bench = bench
    this.changed = changed
    this.parts = /** @type {HTMLElement[]} */ ([...bench.querySelectorAll(".frame, .ground")])
    this.ground = /** @type {HTMLElement} */ (bench.querySelector(".ground"))
    this.badge = /** @type {HTMLElement} */ (bench.querySelector("[data-zoom]"))
    this.size = /** @type {HTMLElement} */ (bench.querySelector("[data-size]"))
    // Measured when it changes: asking the page each time makes it lay itself out anew.
    this.room = bench.getBoundingClientRect()
    const measure = () => { this.room = bench.getBoundingClientRect() }
    window.addEventListener("resize", measure)
    new ResizeObserver(() => {
      measure()
      if (this.#fitted) this.#fit()
      changed(true)
    }).observe(bench)
  }

  get width() { return this.room.width }

  get height() { return this.room.height }

  /** @param {number} sceneX */
  x(sceneX) { return this.left + sceneX * this.scale }

  /** @param {number} sceneY */
  y(sceneY) { return this.top + sceneY * this.scale }

  /** From a pointer event to scene px. @param {MouseEvent} event @returns {Point} */
  point(event) {
    const {room, left, top, scale} = this
    return [(event.clientX - room.left - left) / scale, (event.clientY - room.top - top) / scale]
  }

  /** The path whose rail is there. @param {number} clientX @param {number} clientY px of the window */
  railAt(clientX, clientY) {
    const under = document.elementsFromPoint(clientX, clientY)
    const rail = under.map(each => each.closest("[data-rail]")).find(each => each && this.bench.contains(each))
    return rail instanceof SVGElement ? rail.dataset.rail ?? "" : ""
  }

  /** Shows the whole frame, and keeps it whole when the window changes. */
  fit() {
    this.#fitted = true
    this.#fit()
    this.changed(false)
  }

  /** @param {[number, number, number, number]} box */
  fitBox([x, y, width, height]) {
    const least = SMALLEST_BOX / this.scale
    this.#show([x - Math.max(least - width, 0) / 2, y - Math.max(least - height, 0) / 2, Math.max(width, least), Math.max(height, least)])
    this.#moved()
  }

  /**
   * Scales about a point of the window that stays where it is; without one, about the middle.
   * @param {number} factor @param {{clientX: number, clientY: number}} [event]
   */
  zoom(factor, event) {
    const {room} = this
    const x = event ? event.clientX - room.left : room.width / 2, y = event ? event.clientY - room.top : room.height / 2
    const scale = Math.min(Math.max(this.scale * factor, SMALLEST), LARGEST)
    this.left = x - ((x - this.left) * scale) / this.scale
    this.top = y - ((y - this.top) * scale) / this.scale
    this.scale = scale
    // At 100 % px of the scene lie on px of the window: what is sharp is shown sharp.
    if (Math.abs(scale - 1) < 1e-9) Object.assign(this, {scale: 1, left: Math.round(this.left), top: Math.round(this.top)})
    this.#moved()
  }

  /** @param {number} dx @param {number} dy in the window's px */
  pan(dx, dy) {
    this.left += dx
    this.top += dy
    this.#moved()
  }

  /** How the scene lies now, for a window of any size; null where all of it is shown. @returns {Lies|null} */
  get lies() {
    if (this.#fitted) return null
    const {room, scale} = this
    return {scale, x: (room.width / 2 - this.left) / scale, y: (room.height / 2 - this.top) / scale}
  }

  /** @param {Lies} lies */
  lie({scale, x, y}) {
    const {room} = this
    this.scale = scale
    this.left = room.width / 2 - x * scale
    this.top = room.height / 2 - y * scale
    this.#moved()
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    this.#last = state
    const now = shown(state)?.settings, then = shown(previous)?.settings
    if (!now || (now.width === then?.width && now.height === then?.height && now.background === then?.background)) return
    if (this.#fitted) this.#fit()
    else this.#lay()
  }

  get #settings() { return this.#last && shown(this.#last)?.settings }

  #moved() {
    this.#fitted = false
    this.#lay()
    this.changed(false)
  }

  /** Shows a box of the scene, as large as it fits. @param {[number, number, number, number]} box */
  #show([x, y, width, height]) {
    const {room} = this
    const wide = room.width - MARGIN.left - MARGIN.right, high = room.height - MARGIN.top - MARGIN.bottom
    this.scale = Math.min(Math.max(Math.min(wide / width, high / height), SMALLEST), LARGEST)
    this.left = Math.round((room.width - width * this.scale) / 2 - x * this.scale)
    this.top = Math.round(MARGIN.top + (high - height * this.scale) / 2 - y * this.scale)
  }

  /** Makes the frame whole px wide, so that its edge is sharp. */
  #fit() {
    const frame = this.#settings
    if (!frame) return
    this.#show([0, 0, frame.width, frame.height])
    this.scale = Math.max(2 * Math.floor((frame.width * this.scale) / 2), 2) / frame.width
    this.left = Math.round((this.room.width - frame.width * this.scale) / 2)
    this.#lay()
  }

  #lay() {
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
