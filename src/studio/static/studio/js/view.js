/** How the scene lies on the stage: one scale and one shift, from scene px to the bench's px. */

import {shown} from "./store.js"

/** @import {State} from "./types.js" */

const MARGIN = {left: 24, right: 24, top: 44, bottom: 60}

/**
 * @param {HTMLElement} bench
 * @param {() => void} changed called after the view has changed by itself
 */
export function createStageView(bench, changed) {
  const frame = /** @type {HTMLElement} */ (bench.querySelector(".frame"))
  const badge = /** @type {HTMLElement} */ (bench.querySelector("[data-zoom]"))
  const size = /** @type {HTMLElement} */ (bench.querySelector("[data-size]"))
  /** @type {State|null} */
  let last = null

  const view = {
    scale: 1, left: 0, top: 0,
    /** @param {number} sceneX */
    x: sceneX => view.left + sceneX * view.scale,
    /** @param {number} sceneY */
    y: sceneY => view.top + sceneY * view.scale,
    /** From a pointer event to scene px. @param {MouseEvent} event @returns {[number, number]} */
    point(event) {
      const box = bench.getBoundingClientRect()
      return [(event.clientX - box.left - view.left) / view.scale, (event.clientY - box.top - view.top) / view.scale]
    },
    /** Shows the whole frame, as large as it fits. */
    fit() {
      const settings = last && shown(last)?.settings
      if (!settings) return
      const wide = bench.clientWidth - MARGIN.left - MARGIN.right, high = bench.clientHeight - MARGIN.top - MARGIN.bottom
      view.scale = Math.max(Math.min(wide / settings.width, high / settings.height), 0.01)
      view.left = Math.round((bench.clientWidth - settings.width * view.scale) / 2)
      view.top = Math.round(MARGIN.top + (high - settings.height * view.scale) / 2)
      frame.style.left = `${view.left}px`
      frame.style.top = `${view.top}px`
      frame.style.width = `${settings.width * view.scale}px`
      frame.style.height = `${settings.height * view.scale}px`
      frame.classList.toggle("checks", !settings.background)
      badge.textContent = `${Math.round(view.scale * 100)} %`
      size.textContent = `${settings.width} × ${settings.height}`
    },
    /** @param {{state: State, previous: State}} change */
    update({state, previous}) {
      last = state
      const now = shown(state)?.settings, then = shown(previous)?.settings
      if (now && (now.width !== then?.width || now.height !== then?.height || now.background !== then?.background)) view.fit()
    },
  }
  new ResizeObserver(() => { view.fit(); changed() }).observe(bench)
  return view
}

/** @typedef {ReturnType<typeof createStageView>} StageView */
