/** The shelf: choosing one or several, folding groups, going into them, and small switches. */

import {Carry} from "./carry.js"
import {children} from "./layers.js"
import {chosenIds, layersChosen} from "./store.js"

/** @import {Chosen, State, View} from "./types.js" */

/** @param {string} text @returns {Chosen|null} */
export function chosenFrom(text) {
  const [kind, id] = text.split(":")
  return (kind === "layer" || kind === "path") && id ? {kind, id} : null
}

/**
 * What a click chooses: with Ctrl one layer more, or one less; with Shift all from the one chosen last up to it, with
 * both of them these, too.
 * @param {State} state @param {Chosen|null} clicked @param {{ctrlKey: boolean, metaKey: boolean, shiftKey: boolean}} keys
 * @param {string[]} order of the layers as they are listed
 * @returns {Chosen|null}
 */
export function chosenAfter(state, clicked, {ctrlKey, metaKey, shiftKey}, order) {
  const before = chosenIds(state)
  if (clicked?.kind !== "layer" || !before.length || !(ctrlKey || metaKey || shiftKey)) return clicked
  const others = before.filter(id => id !== clicked.id), adds = ctrlKey || metaKey
  if (!shiftKey) return layersChosen(others.length < before.length ? others : [...before, clicked.id])
  const last = before[before.length - 1], from = order.indexOf(last), to = order.indexOf(clicked.id)
  const between = from < 0 || to < 0 ? [clicked.id] : order.slice(Math.min(from, to), Math.max(from, to) + 1)
  // The one it began with stays the last, so that another click with Shift begins there again.
  const wanted = new Set([...(adds ? before : []), ...between])
  wanted.delete(last)
  return layersChosen([...wanted, last])
}

/** @implements {View} */
export class Shelf {
  /**
   * @param {HTMLElement} root
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, stage: HTMLElement, rename: () => void,
   *   layerOn: (event: PointerEvent) => string|null}} tools
   */
  constructor(root, {store, edits, stage, rename, layerOn}) {
    this.root = root
    this.store = store
    this.edits = edits
    this.carry = new Carry(root, {store, stage, layerOn, carryOut(edit, choose) {
      if (choose) store.set({chosen: {kind: "layer", id: choose}})
      void edits.commit(edit)
    }})
    document.addEventListener("click", event => {
      const button = /** @type {Element} */ (event.target).closest("[data-choose], [data-commands], [data-fold], [data-enter]")
      if (this.carry.ended) event.preventDefault()
      else if (button instanceof HTMLElement) this.#press(button, event)
      this.carry.ended = false
    })
    root.addEventListener("dblclick", event => {
      const target = /** @type {Element} */ (event.target), row = target.closest("[data-group]")
      if (row instanceof HTMLElement) this.#enter(row.dataset.layer ?? "")
      else if (target.closest("[data-choose]")) rename()
    })
    root.addEventListener("click", event => {
      const add = /** @type {Element} */ (event.target).closest("[data-add]")
      if (add instanceof HTMLElement) void this.#addLayer(add.dataset.add ?? "")
    })
  }

  cancel() { return this.carry.cancel() }

  /** The list was drawn anew. */
  swapped() { this.#show(this.store.state) }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (state.chosen !== previous.chosen || state.folded !== previous.folded || state.inside !== previous.inside) this.#show(state)
  }

  /** @returns {HTMLElement[]} */
  #rows() { return [.../** @type {NodeListOf<HTMLElement>} */ (this.root.querySelectorAll("[data-layer]"))] }

  /** @param {HTMLElement} button @param {MouseEvent} event */
  #press({dataset}, event) {
    const {store} = this
    // The layers as they are listed, but for those that are folded away.
    const listed = () => this.#rows().filter(row => !row.hidden).map(row => row.dataset.layer ?? "")
    if (dataset.commands) void this.edits.commit({commands: JSON.parse(dataset.commands)})
    else if (dataset.choose) store.set({chosen: chosenAfter(store.state, chosenFrom(dataset.choose), event, listed())})
    else if (dataset.fold) this.#fold(dataset.fold)
    else if (dataset.enter) this.#enter(dataset.enter)
  }

  /** @param {string} group */
  #fold(group) {
    const {folded} = this.store.state
    this.store.set({folded: folded.includes(group) ? folded.filter(id => id !== group) : [...folded, group]})
  }

  /** Its members are picked on the stage then, the frontmost first. @param {string} group */
  #enter(group) {
    const {scene, folded} = this.store.state, front = scene && children(scene, group).at(-1)
    this.store.set({
      inside: group, folded: folded.filter(id => id !== group),
      chosen: {kind: "layer", id: front?.id ?? group},
    })
  }

  /** @param {string} what */
  async #addLayer(what) {
    const {store} = this, before = new Set(store.state.scene?.layers.map(layer => layer.id))
    await this.edits.commit({form: "add", fields: {what}})
    const made = store.state.scene?.layers.find(layer => !before.has(layer.id))
    if (made) store.set({chosen: {kind: "layer", id: made.id}})
  }

  /** @param {State} state */
  #show(state) {
    const on = new Set(state.chosen?.kind === "path" ? [`path:${state.chosen.id}`] : chosenIds(state).map(id => `layer:${id}`))
    for (const button of this.root.querySelectorAll("[data-choose]")) {
      const chosen = on.has(/** @type {HTMLElement} */ (button).dataset.choose ?? "")
      // What is written anew is laid out anew, though it says the same: of 300 rows two change.
      if (button.getAttribute("aria-pressed") !== String(chosen)) button.setAttribute("aria-pressed", String(chosen))
      const face = button.classList.contains("tile") ? button : button.parentElement
      face?.classList.toggle("chosen", chosen)
    }
    for (const row of this.#rows()) {
      row.hidden = (row.dataset.inside ?? "").split(" ").some(group => state.folded.includes(group))
      row.classList.toggle("entered", row.dataset.layer === state.inside)
      if ("group" in row.dataset) row.querySelector("[data-fold]")?.setAttribute("aria-expanded", String(!state.folded.includes(row.dataset.layer ?? "")))
    }
  }
}
