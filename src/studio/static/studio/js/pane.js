/** How something flat lies in a part of the window: one scale and one shift, from its px to those of its bench. */

/** @import {Point} from "./types.js" */
/** @typedef {[number, number, number, number]} Box left, top, width, height */

const SMALLEST = 0.02, LARGEST = 64
/** A box that is looked at is shown with so many px of the window round it, however small it is. */
const SMALLEST_BOX = 40

export class Pane {
  /** Px of the window per px of what is shown, and where its corner lies on the bench. */
  scale = 1
  left = 0
  top = 0
  /** Whether all of it is shown, and is to stay whole when the window changes. */
  fitted = true
  margin = {left: 24, right: 24, top: 44, bottom: 60}

  /**
   * @param {HTMLElement} bench
   * @param {() => void} changed called after the view has changed by itself
   */
  constructor(bench, changed) {
    this.bench = bench
    this.changed = changed
    // Measured when it changes: asking the page each time makes it lay itself out anew.
    this.room = bench.getBoundingClientRect()
    const measure = () => { this.room = bench.getBoundingClientRect() }
    window.addEventListener("resize", measure)
    new ResizeObserver(() => {
      measure()
      if (this.fitted) this.fitAll()
      changed()
    }).observe(bench)
  }

  get width() { return this.room.width }

  get height() { return this.room.height }

  /** @param {number} px of what is shown */
  x(px) { return this.left + px * this.scale }

  /** @param {number} px of what is shown */
  y(px) { return this.top + px * this.scale }

  /** From a pointer event to px of what is shown. @param {MouseEvent} event @returns {Point} */
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

  /** Shows all of it, and keeps it whole when the window changes. */
  fit() {
    this.fitted = true
    this.fitAll()
    this.changed()
  }

  /** @param {Box} box */
  fitBox([x, y, width, height]) {
    const least = SMALLEST_BOX / this.scale
    this.show([x - Math.max(least - width, 0) / 2, y - Math.max(least - height, 0) / 2, Math.max(width, least), Math.max(height, least)])
    this.moved()
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
    this.moved()
  }

  /** @param {number} dx @param {number} dy in the window's px */
  pan(dx, dy) {
    this.left += dx
    this.top += dy
    this.moved()
  }

  /** Shows a box as large as it fits. @param {Box} box */
  show([x, y, width, height]) {
    const {room, margin} = this
    const wide = Math.max(room.width - margin.left - margin.right, 1), high = Math.max(room.height - margin.top - margin.bottom, 1)
    this.scale = Math.min(Math.max(Math.min(wide / width, high / height), SMALLEST), LARGEST)
    this.left = Math.round(margin.left + (wide - width * this.scale) / 2 - x * this.scale)
    this.top = Math.round(margin.top + (high - height * this.scale) / 2 - y * this.scale)
  }

  moved() {
    this.fitted = false
    this.lay()
    this.changed()
  }

  /** Makes it lie so that all of it is seen. */
  fitAll() {}

  /** Puts what lies on the bench beside where it lies now. */
  lay() {}
}
