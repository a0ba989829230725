/** The one module that knows htmx: fetches the server-rendered parts and puts them in place. */

/** @import {State, View} from "./types.js" */

const MOST_NAMED = 100
const ENDS = ["pointerup", "pointercancel", "blur"]

/** @type {any} */
const {htmx, Idiomorph} = /** @type {any} */ (window)

// What is put on parts once they are swapped in, such as which rows are chosen, would go again when htmx settles.
htmx.config.attributesToSettle = []

// What was typed and refused stays until it is mended.
Idiomorph.defaults.callbacks.beforeNodeMorphed = (/** @type {Node} */ old) => !(old instanceof Element && old.ariaInvalid === "true")

/** @typedef {"shelf"|"card"} Part */

/** @implements {View} */
export class Partials {
  /** What is to be fetched next. @type {Set<Part>} */
  #due = new Set()
  #running = Promise.resolve()
  /** Fetches that are asked for and not yet done. */
  #rounds = 0
  /** Until the hand lets go of the card. @type {Promise<unknown>} */
  #held = Promise.resolve()
  /** @type {(() => void)|null} */
  #letGo = null

  /**
   * @param {{store: import("./store.js").Store, base: string, shelf: HTMLElement, card: HTMLElement}} places
   * @param {(part: Part) => void} swapped
   */
  constructor({store, base, shelf, card}, swapped) {
    this.store = store
    this.base = base
    this.parts = {shelf, card}
    card.addEventListener("pointerdown", () => this.#hold())
    this.swapped = swapped
  }

  refresh() { this.#ask("shelf", "card") }

  /** @param {HTMLElement} place @param {string} html */
  put(place, html) {
    place.innerHTML = html
    htmx.process(place)
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const other = /** @type {const} */ (["chosen", "nodes", "picked"]).some(part => state[part] !== previous[part])
    if (state.scene && (!previous.scene || other)) this.#ask("card")
  }

  /** @param {Part[]} parts */
  #ask(...parts) {
    const idle = !this.#due.size
    for (const part of parts) this.#due.add(part)
    if (!idle) return
    this.#busy(1)
    this.#running = this.#running.then(() => this.#fetch()).catch(() => undefined).then(() => this.#busy(-1))
  }

  /** Until the parts say what holds, readers of the page are told that they do not yet. @param {number} by */
  #busy(by) {
    this.#rounds += by
    for (const part of Object.values(this.parts)) part.ariaBusy = String(this.#rounds > 0)
  }

  /** What is held of the card is not drawn anew under the hand. */
  #hold() {
    if (this.#letGo) return
    this.#held = new Promise(go => { this.#letGo = () => go(undefined) })
    const ended = () => {
      for (const name of ENDS) removeEventListener(name, ended, true)
      // After the control's own change: that is what the card is to show then.
      setTimeout(() => {
        this.#letGo?.()
        this.#letGo = null
      })
    }
    for (const name of ENDS) addEventListener(name, ended, true)
  }

  async #fetch() {
    await this.#held
    const due = this.#due
    this.#due = new Set()
    for (const part of /** @type {const} */ (["shelf", "card"])) {
      if (!due.has(part)) continue
      await this.#load(`${this.base}${part}${part === "card" ? queryOf(this.store.state) : ""}`, this.parts[part])
      this.swapped(part)
    }
  }

  /** @param {string} address @param {HTMLElement} target */
  async #load(address, target) {
    const active = document.activeElement
    // What is being typed stays; what was only clicked shows the kept value again.
    Idiomorph.defaults.ignoreActiveValue = active instanceof HTMLElement && "dirty" in active.dataset
    const same = address.split("&")[0] === target.dataset.address?.split("&")[0]
    target.dataset.address = address
    const inside = target.contains(active)
    await htmx.ajax("GET", address, {target, swap: same ? "morph:innerHTML" : "innerHTML"})
    // If what had the focus is gone, Tab goes on from where it was.
    if (inside && !target.contains(document.activeElement)) target.focus({preventScroll: true})
  }
}

/**
 * What the card is to be about: only as many nodes are named as it takes to say what they have in common.
 * @param {State} state
 */
function queryOf({chosen, nodes, picked}) {
  if (!chosen) return ""
  /** @type {Record<string, string>} */
  const asked = {[chosen.kind]: chosen.id}
  if (chosen.ids && chosen.ids.length > 1) asked.layers = chosen.ids.join(" ")
  if (nodes.length) Object.assign(asked, {nodes: nodes.slice(0, MOST_NAMED).join(" "), chosen: String(nodes.length)})
  if (picked.length) Object.assign(asked, {picked: picked.slice(0, MOST_NAMED).join(" "), count: String(picked.length)})
  return "?" + new URLSearchParams(asked)
}
