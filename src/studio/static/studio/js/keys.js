/** Keys. Typing goes to the field that is typed in; everything else works from anywhere. */

import {show} from "./dialogs.js"
import {chosenLayer} from "./store.js"

const ARROWS = {ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1]}
const TOOLS = ["pick", "text", "rectangle", "ellipse", "star"]

/** @param {Element|null} element */
const typesIn = element =>
  element instanceof HTMLTextAreaElement || element instanceof HTMLSelectElement ||
  (element instanceof HTMLInputElement && !["range", "checkbox", "radio", "color", "button"].includes(element.type))

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, player: import("./player.js").Player,
 *   cancel: () => boolean, pickTool: (tool: string) => void, upload: () => void}} tools
 */
export function wireKeys({store, edits, player, cancel, pickTool, upload}) {
  // A control reached with the keyboard keeps its own use of space and arrows; one that was
  // clicked does not, so that playing is one key away after every change.
  let byKeyboard = false
  document.addEventListener("pointerdown", () => { byKeyboard = false }, true)
  document.addEventListener("keydown", event => { if (event.key === "Tab") byKeyboard = true }, true)

  /** @param {KeyboardEvent} event */
  function keepsOwnKeys(event) {
    const active = document.activeElement
    if (typesIn(active)) return true
    const held = active instanceof HTMLElement && active.matches("button, input, a, summary")
    if (!held || !byKeyboard) return false
    if (event.key === " ") return true
    return event.key.startsWith("Arrow") && active.matches("input")
  }

  /** @param {string} step */
  const step = step => void edits.step(step === "undo" ? "undo" : "redo")

  /** @param {KeyboardEvent} event */
  function nudge(event) {
    const layer = chosenLayer(store.state)
    const [dx, dy] = ARROWS[/** @type {keyof typeof ARROWS} */ (event.key)]
    if (!layer || layer.ride || layer.type === "line") return
    const by = event.shiftKey ? 10 : 1
    const [x, y] = layer.position
    void edits.commit({form: "place", fields: {layer: layer.id, x: String(x + dx * by), y: String(y + dy * by)}})
  }

  function remove() {
    const {chosen, frame} = store.state
    if (!chosen) return
    store.set({chosen: null})
    void edits.commit({form: "delete", fields: {[chosen.kind]: chosen.id, frame: String(frame)}})
  }

  document.addEventListener("click", event => {
    const button = /** @type {Element} */ (event.target).closest("[data-delete]")
    if (button) remove()
  })

  /** @type {Record<string, (event: KeyboardEvent) => void>} */
  const plain = {
    " ": event => (event.shiftKey ? player.play(true) : player.toggle()),
    p: () => player.toggle(),
    ArrowLeft: event => player.step(event.shiftKey ? -10 : -1),
    ArrowRight: event => player.step(event.shiftKey ? 10 : 1),
    Home: () => player.go(0),
    End: () => player.go(Infinity),
    l: () => store.set({loop: !store.state.loop}),
    Delete: remove,
    Backspace: remove,
    i: upload,
    r: () => /** @type {HTMLElement|null} */ (document.querySelector("[data-opens='renders']"))?.click(),
    "?": () => show("keys"),
  }

  document.addEventListener("keydown", event => {
    if (document.querySelector("dialog[open]")) return
    const active = document.activeElement
    if (event.key === "Escape") {
      if (cancel()) return
      if (typesIn(active)) {
        const input = /** @type {HTMLInputElement} */ (active)
        input.value = input.defaultValue
        delete input.dataset.dirty
        edits.lookAway()
        input.blur()
      } else if (store.state.tool !== "pick") pickTool("pick")
      else store.set({chosen: null})
      return
    }
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
      if (active instanceof HTMLElement && "dirty" in active.dataset) return // the field's own undo
      event.preventDefault()
      step(event.shiftKey ? "redo" : "undo")
      return
    }
    if (event.ctrlKey || event.metaKey) return
    if (event.altKey && event.key in ARROWS && !typesIn(active)) {
      event.preventDefault()
      nudge(event)
      return
    }
    if (event.altKey || keepsOwnKeys(event)) return
    const act = plain[event.key.length === 1 ? event.key.toLowerCase() : event.key]
    if (act) {
      event.preventDefault()
      act(event)
    } else if (/^[1-5]$/.test(event.key)) pickTool(TOOLS[Number(event.key) - 1])
  })
  // Space on a clicked button must not press it again.
  document.addEventListener("keyup", event => {
    if (event.key === " " && !keepsOwnKeys(event) && !document.querySelector("dialog[open]")) event.preventDefault()
  })
}
