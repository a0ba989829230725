/**
 * Controls that name their form and their target, wherever they are: what is typed or dragged is looked ahead to at
 * once, and kept when the control is let go.
 */

import {typesIn} from "./typing.js"

/** @import {Edit, State} from "./types.js" */
/** @typedef {HTMLInputElement|HTMLSelectElement} Control */

/** @param {HTMLElement} control @param {State} state @returns {Edit} */
function editOf(control, {frame, nodes, picked, pin}) {
  const {dataset} = control, {form = "", target = "", fields = "", from = ""} = dataset
  const posted = Object.fromEntries(new URLSearchParams(`${target}&${fields}`))
  const named = [control, ...("withGroup" in dataset ? groupOf(control) : [])]
  const other = document.getElementById(from)
  if (other) named.push(other)
  for (const each of named) {
    const input = /** @type {HTMLInputElement} */ (each)
    if (input.name) posted[input.name] = valueOf(input)
  }
  if ("withFrame" in dataset) Object.assign(posted, {frame: String(frame), ...(pin ? {pin: "true"} : {})})
  if ("withPicked" in dataset) posted.items = picked.join(" ")
  if (dataset.withNodes === "pivot") Object.assign(posted, pivotTyped())
  else if ("withNodes" in dataset) posted.nodes = nodes.join(" ")
  return {form, fields: posted}
}

/** @param {HTMLInputElement} control */
const valueOf = control => (control.type === "checkbox" ? String(control.checked) : control.value)

/** Those that are only said together. @param {HTMLElement} control @returns {HTMLElement[]} */
function groupOf(control) {
  const found = control.closest("[data-group]")?.querySelectorAll("[data-in-group]")
  return [.../** @type {NodeListOf<HTMLElement>} */ (found ?? [])]
}

/** Where a path is scaled and turned about, if that is typed. @returns {Record<string, string>} */
function pivotTyped() {
  const inputs = [...document.querySelectorAll("[data-pivot]")].map(each => /** @type {HTMLInputElement} */ (each))
  return Object.fromEntries(inputs.filter(input => input.value.trim()).map(input => [`pivot_${input.dataset.pivot}`, input.value]))
}

export class Controls {
  /** The field that Enter was pressed in last: who pressed it has not gone on to something else. @type {EventTarget|null} */
  #enteredIn = null

  /**
   * @param {HTMLElement} root
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, refusal: import("./refusal.js").Refusal}} tools
   */
  constructor(root, {store, edits, refusal}) {
    this.root = root
    this.store = store
    this.edits = edits
    this.refusal = refusal
    document.addEventListener("input", event => {
      const found = controlOf(event)
      if (found) this.#typed(found)
    })
    document.addEventListener("change", event => {
      const found = controlOf(event)
      if (found) void this.keep(found)
    })
    document.addEventListener("click", event => {
      const button = /** @type {Element} */ (event.target).closest("button[data-form]")
      if (button instanceof HTMLElement) void edits.commit(editOf(button, store.state))
    })
    root.addEventListener("focusout", event => this.#left(event))
    root.addEventListener("keydown", event => this.#entered(event))
  }

  /** @param {Control} found */
  #typed(found) {
    found.dataset.dirty = ""
    this.twins(found)
    // A title may be empty; of what else is not a choice, nothing is to be seen before something is typed.
    if (found.name === "title" || (found.type !== "checkbox" && found.value.trim() === "")) return
    if (!["radio", "checkbox", "select-one"].includes(found.type)) this.look(found)
  }

  /** @param {Control} control */
  look(control) { this.edits.look(editOf(control, this.store.state)) }

  /**
   * What was only looked at goes when its field is left, unless its own button is pressed.
   * @param {FocusEvent} event
   */
  #left({target, relatedTarget}) {
    const left = /** @type {HTMLElement} */ (target), to = /** @type {HTMLElement|null} */ (relatedTarget)
    const field = "lookOnly" in left.dataset ? left.id : left.dataset.from
    if (field && to?.id !== field && to?.dataset.from !== field) this.edits.lookAway()
  }

  /** Enter is the end of typing: keys are for the stage again. @param {KeyboardEvent} event */
  #entered({key, target}) {
    this.#enteredIn = key === "Enter" ? target : null
    if (key === "Enter" && target instanceof HTMLInputElement && typesIn(target) && !("lookOnly" in target.dataset)) target.blur()
  }

  /** @param {Control} control */
  async keep(control) {
    delete control.dataset.dirty
    if ("lookOnly" in control.dataset) return
    const chooses = control instanceof HTMLSelectElement
    if (chooses && !control.value && !("keepsBlank" in control.dataset)) return
    const typed = control instanceof HTMLInputElement && typesIn(control) ? control : null
    const back = control === this.#enteredIn
    const atField = typed ? (/** @type {string} */ words) => this.refusal.say(typed, words, back) : undefined
    const done = await this.edits.commit(editOf(control, this.store.state), atField)
    if (typed?.ariaInvalid) return
    const asks = chooses && !control.options[0]?.defaultSelected && !control.options[0]?.value
    if (control.isConnected && (!done || asks)) this.#putBack(control)
  }

  /** Show what is kept. @param {Control} control */
  #putBack(control) {
    if (control instanceof HTMLSelectElement) {
      for (const option of control.options) option.selected = option.defaultSelected
      return
    }
    const group = control.type === "radio" ? this.root.querySelectorAll(`[name="${control.name}"][type="radio"]`) : [control]
    for (const each of group) {
      const input = /** @type {HTMLInputElement} */ (each)
      input.checked = input.defaultChecked
      if (input.type !== "checkbox" && input.type !== "radio") input.value = input.defaultValue
    }
    this.twins(control)
  }

  /** A slider and its number show the same value. @param {Control} control */
  twins(control) {
    for (const other of this.root.querySelectorAll(`[name="${control.name}"][data-form="${control.dataset.form}"]`)) {
      const twin = /** @type {HTMLInputElement} */ (other)
      if (twin !== control && (twin.type === "range" || control.type === "range")) twin.value = control.value
    }
  }
}

/** @param {Event} event @returns {Control|null} */
function controlOf(event) {
  const found = /** @type {Element} */ (event.target).closest("[data-form]")
  return found && !(found instanceof HTMLButtonElement) ? /** @type {Control} */ (found) : null
}
