/** A value that another one is to follow, picked by a click: in the card of its layer, or among the figures of a ride. */

import {chosenLayer, tellingRider} from "./store.js"
import {tr} from "./words.js"

/** @typedef {{layer: string, property: string}} Aim what is to follow */

const ASKS = tr`Choose the layer that leads, and click one of its values, here or among the figures of its ride. Esc leaves.`

export class LinkPick {
  /** @type {Aim|null} */
  #aim = null

  /**
   * @param {HTMLElement} card @param {HTMLElement} figures
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string) => void}} tools
   */
  constructor(card, figures, {store, edits, say}) {
    this.card = card
    this.figures = figures
    this.store = store
    this.edits = edits
    document.addEventListener("click", event => {
      const button = /** @type {Element} */ (event.target).closest("[data-picks]")
      if (!(button instanceof HTMLElement)) return
      const {of = "", picks = ""} = button.dataset
      this.#aimAt({layer: of, property: picks})
      say(ASKS)
    })
    // Before what would put the hand into the field.
    document.addEventListener("pointerdown", event => this.#take(event), true)
    document.addEventListener("keydown", event => {
      if (event.key !== "Escape" || !this.#aim) return
      event.stopPropagation()
      this.#aimAt(null)
    }, true)
  }

  /** @param {Aim|null} aim */
  #aimAt(aim) {
    this.#aim = aim
    document.body.toggleAttribute("data-picking", Boolean(aim))
  }

  /** @param {PointerEvent} event */
  #take(event) {
    const aim = this.#aim, found = aim && this.#valueAt(/** @type {Element} */ (event.target))
    if (!aim || !found || found.source === aim.layer) return
    event.preventDefault()
    event.stopPropagation()
    this.#aimAt(null)
    void this.edits.commit({form: "follows", fields: {...aim, ...found}})
    this.store.set({chosen: {kind: "layer", id: aim.layer}})
  }

  /** Whose value it is that was clicked, and which, if it is one that may be followed. @param {Element} target */
  #valueAt(target) {
    const {state} = this.store, figure = target.closest("[data-value]")
    if (figure instanceof HTMLElement && this.figures.contains(figure)) {
      const rider = tellingRider(state)
      return rider ? {source: rider.id, value: figure.dataset.value ?? ""} : null
    }
    // What has keys is what can be followed.
    const key = target.closest(".keyed")?.querySelector("[data-key-of]"), layer = chosenLayer(state)
    if (!(key instanceof HTMLElement) || !layer || !this.card.contains(key)) return null
    return {source: layer.id, value: key.dataset.keyOf ?? ""}
  }
}
