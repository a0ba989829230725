/** How the scene lies on the stage: one scale and one shift, from scene px to the bench's px. */

import {shown} from "./store.js"

/** @import {Point, State} from "./types.js" */

const MARGIN = {left: 24, right: 24, top: 44, bottom: 60}
const SMALLEST = 0.02, LARGEST = 64

/**
 * @param {HTMLElement} bench
 * @param {(resized: boolean) => void} changed called after the view has changed by itself
 */
export function createStageView(bench, changed) {
  const parts = /** @type {HTMLElement[]} */ ([...bench.querySelectorAll(".frame, .ground")])
  const ground = /** @type {HTMLElement} */ (bench.querySelector(".ground"))
  const badge = /** @type {HTMLElement} */ (bench.querySelector("[data-zoom]"))
  const size = /** @type {HTMLElement} */ (bench.querySelector("[data-size]"))
  /** @type {State|null} */
  let last = null
  let fitted = true
  // Measured when it changes: asking the page each time makes it lay itself out anew.
  let room = bench.getBoundingClientRect()

  const settings = () => last && shown(last)?.settings

  function lay() {
    const frame = settings()
    if (!frame) return
    for (const part of parts) {
      part.style.left = `${view.left}px`
      part.style.top = `${view.top}px`
      part.style.width = `${frame.width * view.scale}px`
      part.style.height = `${frame.height * view.scale}px`
    }
    ground.classList.toggle("checks", !frame.background)
    badge.textContent = `${+(view.scale * 100).toPrecision(view.scale < 0.1 ? 2 : 3)} %`
    size.textContent = `${frame.width} × ${frame.height}`
  }

  /** Shows a box of the scene, as large as it fits. @param {[number, number, number, number]} box */
  function show([x, y, width, height]) {
    const wide = room.width - MARGIN.left - MARGIN.right, high = room.height - MARGIN.top - MARGIN.bottom
    view.scale = Math.min(Math.max(Math.min(wide / width, high / height), SMALLEST), LARGEST)
    view.left = Math.round((room.width - width * view.scale) / 2 - x * view.scale)
    view.top = Math.round(MARGIN.top + (high - height * view.scale) / 2 - y * view.scale)
  }

  /** Makes the frame whole px wide, so that its edge is sharp. */
  function fit() {
    const frame = settings()
    if (!frame) return
    show([0, 0, frame.width, frame.height])
    view.scale = Math.max(2 * Math.floor((frame.width * view.scale) / 2), 2) / frame.width
    view.left = Math.round((room.width - frame.width * view.scale) / 2)
    lay()
  }

  function moved() {
    fitted = false
    lay()
    changed(false)
  }

  const view = {
    scale: 1, left: 0, top: 0,
    get width() { return room.width },
    get height() { return room.height },
    /** @param {number} sceneX */
    x: sceneX => view.left + sceneX * view.scale,
    /** @param {number} sceneY */
    y: sceneY => view.top + sceneY * view.scale,
    /** From a pointer event to scene px. @param {MouseEvent} event @returns {Point} */
    point(event) {
      return [(event.clientX - room.left - view.left) / view.scale, (event.clientY - room.top - view.top) / view.scale]
    },
    /** Shows the whole frame, and keeps it whole when the window changes. */
    fit() {
      fitted = true
      fit()
      changed(false)
    },
    /** @param {[number, number, number, number]} box */
    fitBox([x, y, width, height]) {
      const least = 40 / view.scale
      show([x - Math.max(least - width, 0) / 2, y - Math.max(least - height, 0) / 2, Math.max(width, least), Math.max(height, least)])
      moved()
    },
    /**
     * Scales about a point of the window that stays where it is; without one, about the middle.
     * @param {number} factor @param {{clientX: number, clientY: number}} [event]
     */
    zoom(factor, event) {
      const x = event ? event.clientX - room.left : room.width / 2, y = event ? event.clientY - room.top : room.height / 2
      const scale = Math.min(Math.max(view.scale * factor, SMALLEST), LARGEST)
      view.left = x - ((x - view.left) * scale) / view.scale
      view.top = y - ((y - view.top) * scale) / view.scale
      view.scale = scale
      moved()
    },
    /** @param {number} dx @param {number} dy in the window's px */
    pan(dx, dy) {
      view.left += dx
      view.top += dy
      moved()
    },
    /** @param {{state: State, previous: State}} change */
    update({state, previous}) {
      last = state
      const now = shown(state)?.settings, then = shown(previous)?.settings
      if (!now || (now.width === then?.width && now.height === then?.height && now.background === then?.background)) return
      if (fitted) fit()
      else lay()
    },
  }
  const measure = () => { room = bench.getBoundingClientRect() }
  window.addEventListener("resize", measure)
  new ResizeObserver(() => {
    measure()
    if (fitted) fit()
    changed(true)
  }).observe(bench)
  return view
}

/** @typedef {ReturnType<typeof createStageView>} StageView */
