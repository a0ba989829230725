/**
 * The card's controls. A control names its form and its target; what is typed or dragged is looked
 * ahead to at once, and kept when the control is let go.
 */

import {Hold} from "./hold.js"
import {rideAt} from "./layers.js"
import {NODE} from "./protocol.js"
import {chosenLayer, chosenPath, shown} from "./store.js"

/** @import {Edit, State, View} from "./types.js" */

/** @param {HTMLElement} control @param {State} state @returns {Edit} */
function editOf(control, {frame, nodes, picked, pin}) {
  const {form = "", target = "", fields = ""} = control.dataset
  const posted = Object.fromEntries(new URLSearchParams(`${target}&${fields}`))
  const {name} = /** @type {HTMLInputElement} */ (control)
  if (name) posted[name] = valueOf(/** @type {HTMLInputElement} */ (control))
  const from = control.dataset.from && document.getElementById(control.dataset.from)
  if (from instanceof HTMLInputElement) posted[from.name] = valueOf(from)
  if ("withFrame" in control.dataset) {
    posted.frame = String(frame)
    if (pin) posted.pin = "true"
  }
  if ("withPicked" in control.dataset) posted.items = picked.join(" ")
  if ("withGroup" in control.dataset)
    for (const input of control.closest("[data-group]")?.querySelectorAll("[data-in-group]") ?? []) {
      const {name: field, value} = /** @type {HTMLInputElement} */ (input)
      posted[field] = value
    }
  if (control.dataset.withNodes === "pivot") {
    for (const input of document.querySelectorAll("[data-pivot]")) {
      const {dataset, value} = /** @type {HTMLInputElement} */ (input)
      if (value.trim()) posted[`pivot_${dataset.pivot}`] = value
    }
  } else if ("withNodes" in control.dataset) posted.nodes = nodes.join(" ")
  return {form, fields: posted}
}

/** @param {HTMLInputElement} control */
const valueOf = control => (control.type === "checkbox" ? String(control.checked) : control.value)

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits,
 *   server: import("./server.js").Server, say: (words: string, bad?: boolean) => void}} tools
 * @returns {View & {swapped: () => void, cancel: () => boolean}}
 */
export function createCard(root, {store, edits, server, say}) {
  let tab = "ride"
  const hold = new Hold(root)

  const control = (/** @type {Event} */ event) => {
    const found = /** @type {Element} */ (event.target).closest("[data-form]")
    return found instanceof HTMLElement && !(found instanceof HTMLButtonElement) ? found : null
  }

  document.addEventListener("input", event => {
    const found = control(event)
    if (!found) return
    found.dataset.dirty = ""
    twins(/** @type {HTMLInputElement} */ (found))
    const typed = /** @type {HTMLInputElement} */ (found)
    if (typed.name === "title" || (typed.type !== "checkbox" && typed.value.trim() === "")) return
    if (!["radio", "checkbox", "select-one"].includes(typed.type)) edits.look(editOf(found, store.state))
  })

  document.addEventListener("change", event => {
    const found = control(event)
    if (found) void keep(/** @type {HTMLInputElement} */ (found))
    const input = /** @type {HTMLInputElement} */ (event.target)
    if (input.matches("[data-tab]")) showTab(input.value)
    if (input.dataset.renameScene) void renameScene(input)
    if (input.matches("[data-peg-number], [data-peg-range]")) void movePeg(input, true)
  })
  root.addEventListener("input", event => {
    const input = /** @type {HTMLInputElement} */ (event.target)
    if (input.matches("[data-peg-number], [data-peg-range]")) void movePeg(input, false)
  })

  // What was only looked at goes when its field is left, unless its own button is pressed.
  root.addEventListener("focusout", event => {
    const [left, to] = [event.target, event.relatedTarget].map(part => /** @type {HTMLElement|null} */ (part))
    const field = left && "lookOnly" in left.dataset ? left.id : left?.dataset.from
    if (field && to?.id !== field && to?.dataset.from !== field) edits.lookAway()
  })

  /** @param {HTMLInputElement} input */
  async function keep(input) {
    delete input.dataset.dirty
    if ("lookOnly" in input.dataset) return
    if (input instanceof HTMLSelectElement && !input.value && !("keepsBlank" in input.dataset)) return
    const done = await edits.commit(editOf(input, store.state))
    if (input.isConnected && (!done || (input instanceof HTMLSelectElement && !input.options[0]?.defaultSelected && !input.options[0]?.value))) putBack(input)
  }

  /** Show what is kept. @param {HTMLInputElement|HTMLSelectElement} input */
  function putBack(input) {
    const group = input.type === "radio" ? root.querySelectorAll(`[name="${input.name}"][type="radio"]`) : [input]
    if (input instanceof HTMLSelectElement) for (const option of input.options) option.selected = option.defaultSelected
    else for (const each of group) {
      const control = /** @type {HTMLInputElement} */ (each)
      control.checked = control.defaultChecked
      if (control.type !== "checkbox" && control.type !== "radio") control.value = control.defaultValue
    }
    if (input instanceof HTMLInputElement) twins(input)
  }

  /** A slider and its number show the same value. @param {HTMLInputElement} input */
  function twins(input) {
    for (const other of root.querySelectorAll(`[name="${input.name}"][data-form="${input.dataset.form}"]`)) {
      const twin = /** @type {HTMLInputElement} */ (other)
      if (twin !== input && (twin.type === "range" || input.type === "range")) twin.value = input.value
    }
  }

  /** @param {HTMLInputElement} input */
  async function renameScene(input) {
    try {
      const {name} = await (await server.postTo(input.dataset.renameScene ?? "", {name: input.value})).json()
      document.title = `${name} · Coaster`
      const title = document.getElementById("scene-name")
      if (title) title.textContent = name
      input.defaultValue = name
    } catch (error) {
      say(error instanceof Error ? error.message : String(error), true)
      input.value = input.defaultValue
    }
  }

  document.addEventListener("click", event => {
    const button = /** @type {Element} */ (event.target).closest("button[data-form], [data-peg-add], [data-peg-remove], [data-order]")
    if (!(button instanceof HTMLElement)) return
    const layer = chosenLayer(store.state)
    if (button.dataset.form) void edits.commit(editOf(button, store.state))
    else if ("pegAdd" in button.dataset && layer)
      void edits.commit({form: "peg", fields: {layer: layer.id, add_at: String(store.state.frame)}})
    else if ("pegRemove" in button.dataset && layer) {
      const peg = pegHere(store.state)
      if (peg) void edits.commit({form: "peg", fields: {layer: layer.id, remove: peg.id}})
    } else if (button.dataset.order && layer) void edits.commit({form: "order", fields: {layer: layer.id, to: button.dataset.order}})
  })

  /** @param {HTMLInputElement} input @param {boolean} done */
  async function movePeg(input, done) {
    const layer = chosenLayer(store.state), peg = pegHere(store.state)
    if (!layer?.ride || !peg || input.value.trim() === "") return
    const edit = {form: "peg", fields: {layer: layer.id, peg: peg.id, percent: input.value}}
    if (done) await edits.commit(edit)
    else edits.look(edit)
  }

  /** The peg at the playhead, of the ride as it is kept. @param {State} state */
  function pegHere(state) {
    const layer = state.scene?.layers.find(l => l.id === state.chosen?.id)
    return layer?.ride?.pegs.find(peg => Math.abs(peg.time - state.frame) < 1e-6 || isLast(peg.time, state))
  }

  /** The last frame stands for a peg that lies on the seam. @param {number} time @param {State} state */
  const isLast = (time, state) => {
    const length = state.scene?.settings.length ?? 0
    return time === length && state.frame === length - 1
  }

  /** @param {State} state */
  function drawPeg(state) {
    const layer = chosenLayer(state)
    const range = /** @type {HTMLInputElement|null} */ (root.querySelector("[data-peg-range]"))
    const number = /** @type {HTMLInputElement|null} */ (root.querySelector("[data-peg-number]"))
    if (!range || !number || !layer?.ride) return
    const peg = pegHere(state)
    const end = peg && isLast(peg.time, state) ? 1 : 0
    const percent = rideAt(layer, state.frame + end)?.percent ?? 0
    if (document.activeElement !== number) number.value = String(+percent.toFixed(2))
    if (document.activeElement !== range || !peg) {
      range.max = String(Math.max(100, Math.ceil(percent / 100) * 100))
      range.min = String(Math.min(0, Math.floor(percent / 100) * 100))
      range.value = String(percent)
    }
    range.disabled = number.disabled = !peg
    const add = /** @type {HTMLElement} */ (root.querySelector("[data-peg-add]"))
    add.hidden = Boolean(peg)
    const remove = /** @type {HTMLElement} */ (root.querySelector("[data-peg-remove]"))
    remove.hidden = !peg
    remove.toggleAttribute("disabled", layer.ride.pegs.length < 2)
  }

  /** The place of the one chosen node, while it is dragged too. @param {State} state */
  function drawNode(state) {
    const path = chosenPath(state)
    const index = state.nodes.length === 1 ? path?.ids.indexOf(state.nodes[0]) ?? -1 : -1
    if (!path || index < 0) return
    ;["x", "y"].forEach((name, axis) => {
      const input = /** @type {HTMLInputElement|null} */ (root.querySelector(`[name="${name}"][data-form="node-move"]`))
      if (input && document.activeElement !== input) input.value = String(+path.nodes[index * NODE + axis].toFixed(2))
    })
  }

  /** @param {State} state */
  function drawSaid(state) {
    for (const place of root.querySelectorAll("[data-said]")) {
      const said = state.notes[/** @type {HTMLElement} */ (place).dataset.said ?? ""]
      if (said) place.textContent = said
    }
  }

  /** What is likely to be wanted of what was chosen. @param {State} state */
  function firstTab(state) {
    const layer = chosenLayer(state)
    if (state.chosen?.kind === "path") {
      if (state.nodes.length) return "nodes"
      return chosenPath(state)?.drawn ? "take" : ["nodes", "whole", "rail", "riders"].includes(tab) ? tab : "whole"
    }
    if (layer && !layer.can.fill && !layer.can.stroke && !layer.ride) return "ride"
    if (layer?.ride && state.picked.length === 1 && state.picked[0].startsWith(`${layer.id}/peg/`)) return "pace"
    return tab === "look" || (tab === "pace" && layer?.ride) ? tab : "ride"
  }

  /** @param {string} wanted */
  function showTab(wanted) {
    tab = wanted
    for (const panel of root.querySelectorAll("[data-panel]"))
      /** @type {HTMLElement} */ (panel).hidden = /** @type {HTMLElement} */ (panel).dataset.panel !== tab
    for (const radio of root.querySelectorAll("[data-tab]"))
      /** @type {HTMLInputElement} */ (radio).checked = /** @type {HTMLInputElement} */ (radio).value === tab
  }

  // A label that scrubs: dragging it sideways changes its number by its step a few px.
  root.addEventListener("pointerdown", event => {
    const label = /** @type {Element} */ (event.target).closest("[data-scrubs]")
    if (!(label instanceof HTMLElement) || event.button !== 0) return
    const input = /** @type {HTMLInputElement|null} */ (root.querySelector(`[name="${label.dataset.scrubs}"][data-step]`))
    if (!input) return
    event.preventDefault()
    scrub(input, event)
  })

  /** @param {HTMLInputElement} input @param {PointerEvent} pressed */
  function scrub(input, pressed) {
    const from = Number(input.value), step = Number(input.dataset.step)
    const low = input.dataset.min === undefined ? -Infinity : Number(input.dataset.min)
    const put = (/** @type {number} */ value) => {
      input.value = String(value)
      twins(input)
    }
    hold.begin(pressed, {
      move(event) {
        const moved = Math.round((event.clientX - pressed.clientX) / 2) * step * (event.shiftKey ? 10 : 1)
        put(+Math.max(from + moved, low).toFixed(3))
        edits.look(editOf(input, store.state))
      },
      drop() {
        if (Number(input.value) !== from) void keep(input)
      },
      cancel() {
        put(from)
        edits.lookAway()
      },
    })
  }

  return {
    cancel: () => hold.cancel(),
    swapped() {
      showTab(tab)
      drawPeg(store.state)
      drawNode(store.state)
    },
    update({state, previous}) {
      if (state.chosen !== previous.chosen || (state.picked !== previous.picked && state.picked.length) || (state.nodes !== previous.nodes && state.nodes.length)) tab = firstTab(state)
      if (shown(state) !== shown(previous) || state.nodes !== previous.nodes) drawNode(state)
      if (state.notes !== previous.notes) drawSaid(state)
      if (state.frame !== previous.frame || shown(state) !== shown(previous) || state.chosen !== previous.chosen) drawPeg(state)
    },
  }
}
