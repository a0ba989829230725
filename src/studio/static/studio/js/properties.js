/** Properties with keys in the card: their values at the playhead, and a button that puts a key in or takes it out. */

import {chosenLayer, shown} from "./store.js"
import {propertyOf, wordsOf} from "./tables.js"
import {small, tr} from "./words.js"

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
      const name = small(wordsOf(property))
      const count = track ? (track.keys.length === 1 ? tr`1 key. ` : tr`${track.keys.length} keys. `) : ""
      button.title = (here ? tr`${count}Take the key of ${name} out here` : tr`${count}Put a key of ${name} here`) + (track ? tr`; with Alt clear all` : "")
      if (!track) continue
      if (track.colours) {
        const rgb = [...track.colours.at(state.frame)].slice(0, 3)
        const hex = "#" + rgb.map(v => Math.round(v * 255).toString(16).padStart(2, "0")).join("")
        const input = /** @type {HTMLInputElement|null} */ (button.parentElement?.querySelector("input[type=color]"))
        if (input && !("dirty" in input.dataset)) input.value = hex
        const alpha = /** @type {HTMLInputElement|null} */ (button.parentElement?.querySelector("[data-alpha]"))
        if (alpha && !("dirty" in alpha.dataset)) alpha.value = String(+(track.colours.at(state.frame)[3] * 100).toFixed(1))
        continue
      }
      const value = String(+(track.values.at(state.frame)[0] * propertyOf(property).factor).toFixed(3))
      for (const input of /** @type {NodeListOf<HTMLInputElement>} */ (root.querySelectorAll(`[data-property="${property}"]`)))
        if (document.activeElement !== input || !("dirty" in input.dataset)) input.value = value
    }
  }

  root.addEventListener("click", event => {
    const button = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-key-of]"))
    const layer = chosenLayer(store.state), property = button?.dataset.keyOf
    if (!button || !layer || !property) return
    const to = event.altKey && button.classList.contains("has") ? "clear" : button.classList.contains("here") ? "remove" : "add"
    store.set({graph: "keys", property})
    void edits.commit({form: "key", fields: {layer: layer.id, property, frame: String(store.state.frame), to}})
  })

  return {
    redraw: () => draw(store.state),
    update({state, previous}) {
      const other = /** @type {const} */ (["frame", "arrived", "chosen"]).some(part => state[part] !== previous[part])
      if (other || shown(state) !== shown(previous)) draw(state)
    },
  }
}
