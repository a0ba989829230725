/** How far along its path the chosen rider is at the playhead: shown everywhere, set where a peg is. */

import {rideAt} from "./layers.js"
import {itemOf} from "./stops.js"
import {chosenLayer, shown} from "./store.js"

/** @import {State} from "./types.js" */

export class PegControl {
  /**
   * @param {HTMLElement} root
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
   */
  constructor(root, {store, edits}) {
    this.root = root
    this.store = store
    this.edits = edits
    const control = (/** @type {Event} */ event) => {
      const input = /** @type {HTMLInputElement} */ (event.target)
      return input.matches("[data-peg-number], [data-peg-range]") ? input : null
    }
    root.addEventListener("input", event => {
      const edit = this.#moved(control(event))
      if (edit) edits.look(edit)
    })
    root.addEventListener("change", event => {
      const edit = this.#moved(control(event))
      if (edit) void edits.commit(edit)
    })
    root.addEventListener("click", event => {
      const button = /** @type {Element} */ (event.target).closest("[data-peg-add], [data-peg-remove]")
      if (button) this.#change("pegAdd" in /** @type {HTMLElement} */ (button).dataset)
    })
  }

  /** @param {HTMLInputElement|null} input */
  #moved(input) {
    const layer = chosenLayer(this.store.state), peg = this.#pegHere()
    if (!input || !layer || !peg || input.value.trim() === "") return null
    return {form: "peg", fields: {layer: layer.id, peg: peg.id, percent: input.value}}
  }

  /** Put a peg at the playhead, or take out that which is there. @param {boolean} adds */
  #change(adds) {
    const layer = chosenLayer(this.store.state), peg = this.#pegHere()
    if (!layer || !(adds || peg)) return
    /** @type {Record<string, string>} */
    const how = adds ? {add_at: String(this.store.state.frame)} : {remove: peg?.id ?? ""}
    void this.edits.commit({form: "peg", fields: {layer: layer.id, ...how}}).then(head => {
      const made = adds && head ? this.#pegHere() : null
      // It is picked, but the hand is on where it stands, not on its pace.
      this.root.dataset.stays = ""
      if (made) this.store.set({picked: [itemOf(layer.id, "peg", made.id)]})
    })
  }

  /** The peg at the playhead, of the ride as it is kept. */
  #pegHere() {
    const {state} = this.store
    const layer = state.scene?.layers.find(each => each.id === state.chosen?.id)
    return layer?.ride?.pegs.find(peg => Math.abs(peg.time - state.frame) < 1e-6 || isLast(peg.time, state))
  }

  draw() {
    const {root} = this, {state} = this.store, layer = chosenLayer(state)
    const range = /** @type {HTMLInputElement|null} */ (root.querySelector("[data-peg-range]"))
    const number = /** @type {HTMLInputElement|null} */ (root.querySelector("[data-peg-number]"))
    if (!range || !number || !layer?.ride) return
    const peg = this.#pegHere()
    const percent = rideAt(layer, state.frame + (peg && isLast(peg.time, state) ? 1 : 0))?.percent ?? 0
    if (document.activeElement !== number) number.value = String(+percent.toFixed(2))
    if (document.activeElement !== range || !peg) {
      range.max = String(Math.max(100, Math.ceil(percent / 100) * 100))
      range.min = String(Math.min(0, Math.floor(percent / 100) * 100))
      range.value = String(percent)
    }
    range.disabled = number.disabled = !peg
    const [add, remove] = ["[data-peg-add]", "[data-peg-remove]"].map(name => /** @type {HTMLElement} */ (root.querySelector(name)))
    add.hidden = Boolean(peg)
    remove.hidden = !peg
    remove.toggleAttribute("disabled", layer.ride.pegs.length < 2)
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (state.frame !== previous.frame || shown(state) !== shown(previous) || state.chosen !== previous.chosen) this.draw()
  }
}

/** The last frame stands for a peg that lies on the seam. @param {number} time @param {State} state */
function isLast(time, state) {
  const length = state.scene?.settings.length ?? 0
  return time === length && state.frame === length - 1
}
