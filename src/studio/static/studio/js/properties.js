/** Properties with keys in the card: their values at the playhead, and a button that puts a key in or takes it out. */

import {FACTORS} from "./plots.js"
import {NAMES} from "./lanes.js"
import {chosenLayer, shown} from "./store.js"

/** @import {State, View} from "./types.js" */

/**
 * @param {HTMLElement} root the card
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
 * @returns {View & {redraw: () => void}}
 */
export function createProperties(root, {store, edits}) {
  /** @param {State} state */
  function draw(state) {
    const layer = chosenLayer(state)
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (root.querySelectorAll("[data-key-of]"))) {
      const property = button.dataset.keyOf ?? ""
      const track = layer?.keys.find(each => each.property === property)
      const here = Boolean(track?.keys.some(([, time]) => Math.abs(time - state.frame) < 1e-6))
      button.classList.toggle("has", Boolean(track))
      button.classList.toggle("here", here)
      button.setAttribute("aria-pressed", String(here))
      const name = NAMES[property]?.toLowerCase() ?? property
      const count = track ? `${track.keys.length} ${track.keys.length === 1 ? "key" : "keys"}. ` : ""
      button.title = here ? `${count}Take the key of ${name} out here` : `${count}Put a key of ${name} here`
      if (!track) continue
      if (track.colours) {
        const at = Math.min(state.frame, track.values.length - 1) * 4
        const hex = "#" + [0, 1, 2].map(i => Math.round(/** @type {Float32Array} */ (track.colours)[at + i] * 255).toString(16).padStart(2, "0")).join("")
        const input = /** @type {HTMLInputElement|null} */ (button.parentElement?.querySelector("input[type=color]"))
        if (input && !("dirty" in input.dataset)) input.value = hex
        continue
      }
      const value = String(+(track.values[Math.min(state.frame, track.values.length - 1)] * (FACTORS[property] ?? 1)).toFixed(3))
      const field = {shift: "offset", size_x: "width", size_y: "height", width: layer?.type === "line" ? "width" : "stroke_width"}[property] ?? property
      for (const input of /** @type {NodeListOf<HTMLInputElement>} */ (root.querySelectorAll(`[name="${field}"][data-with-frame]`)))
        if (document.activeElement !== input || !("dirty" in input.dataset)) input.value = value
    }
  }

  root.addEventListener("click", event => {
    const button = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-key-of]"))
    const layer = chosenLayer(store.state), property = button?.dataset.keyOf
    if (!button || !layer || !property) return
    const to = button.classList.contains("here") ? "remove" : "add"
    store.set({graph: "keys", property})
    void edits.commit({form: "key", fields: {layer: layer.id, property, frame: String(store.state.frame), to}})
  })

  return {
    redraw: () => draw(store.state),
    update({state, previous}) {
      if (state.frame !== previous.frame || shown(state) !== shown(previous) || state.chosen !== previous.chosen) draw(state)
    },
  }
}
