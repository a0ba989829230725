/** Keys. Typing goes to the field that is typed in; everything else works from anywhere. */

import {show} from "./dialogs.js"
import {canStand, layerOf} from "./layers.js"
import {chosenIds, chosenLayer} from "./store.js"

const ARROWS = {ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1]}
const TOOLS = ["pick", "pen", "figure", "text", "shape", "hand", "record"]
/** Keys that stand for an act by name. @type {Record<string, string>} */
const ACTS = {
  "[": "previous", "]": "next", "{": "first", "}": "last", j: "jump", q: "rails", s: "snap", f: "fit", g: "fit-chosen",
  "0": "actual", "+": "in", "=": "in", "-": "out", n: "pin", ",": "previous-stop", ".": "next-stop", "<": "range-from", ">": "range-to", o: "ghosts", c: "compare", u: "unturned",
}

/** @param {Element|null} element */
const typesIn = element =>
  element instanceof HTMLTextAreaElement || element instanceof HTMLSelectElement ||
  (element instanceof HTMLInputElement && !["range", "checkbox", "radio", "color", "button"].includes(element.type))

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, player: import("./player.js").Player,
 *   cancel: () => boolean, upload: () => void, acts: import("./acts.js").Acts, menu: () => void,
 *   pointer: {pickTool: (tool: string) => void, tell: () => void, hold: (on: boolean) => void, key: (event: KeyboardEvent) => boolean}}} tools
 */
export function wireKeys({store, edits, player, cancel, upload, acts, menu, pointer}) {
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

  /** Moves chosen nodes or, with Alt, a still layer: 1 px, with Shift 10; nodes with Alt 0.1. @param {KeyboardEvent} event */
  function nudge(event) {
    const [dx, dy] = ARROWS[/** @type {keyof typeof ARROWS} */ (event.key)]
    const by = event.shiftKey ? 10 : event.altKey && store.state.nodes.length ? 0.1 : 1
    if (store.state.nodes.length) return acts.nudge(dx * by, dy * by)
    const layer = chosenLayer(store.state)
    if (!event.altKey) return false
    if (!layer || layer.ride || !canStand(layer)) return true
    const {frame, pin} = store.state
    const fields = {layer: layer.id, dx: String(dx * by), dy: String(dy * by), frame: String(frame), nudge: "true"}
    void edits.commit({form: "place", fields: pin ? {...fields, pin: "true"} : fields})
    return true
  }

  function remove() {
    const {chosen, frame, nodes, picked} = store.state
    if (nodes.length || picked.length) return acts.run("delete")
    if (!chosen) return
    store.set({chosen: null})
    const named = chosen.kind === "layer" ? chosenIds({...store.state, chosen}).join(" ") : chosen.id
    void edits.commit({form: "delete", fields: {[chosen.kind]: named, frame: String(frame)}})
  }

  /** Out of a group: it is chosen itself then. @param {string} group */
  function leave(group) {
    store.set({inside: layerOf(store.state.scene, group)?.parent ?? null, chosen: {kind: "layer", id: group}})
  }

  document.addEventListener("click", event => {
    const button = /** @type {Element} */ (event.target).closest("[data-delete]")
    if (!button) return
    store.set({nodes: [], picked: []}) // the whole thing is meant
    remove()
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
    if (event.key === "Escape" && cancel()) return
    if (!typesIn(active) && pointer.key(event)) {
      event.preventDefault()
      return pointer.tell()
    }
    if (event.key === "Escape") {
      if (typesIn(active)) {
        const input = /** @type {HTMLInputElement} */ (active)
        input.value = input.defaultValue
        delete input.dataset.dirty
        edits.lookAway()
        input.blur()
      } else if (store.state.tool !== "pick") pointer.pickTool("pick")
      else if (store.state.draws) store.set({draws: false})
      else if (store.state.picked.length) store.set({picked: []})
      else if (store.state.nodes.length) store.set({nodes: []})
      else if (store.state.inside) leave(store.state.inside)
      else store.set({chosen: null})
      return
    }
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
      if (active instanceof HTMLElement && "dirty" in active.dataset) return // the field's own undo
      event.preventDefault()
      step(event.shiftKey ? "redo" : "undo")
      return
    }
    if (event.ctrlKey || event.metaKey) {
      const act = {a: "all", d: "duplicate", g: event.shiftKey ? "ungroup" : "group"}[event.key.toLowerCase()]
      if (!act || typesIn(active)) return
      event.preventDefault()
      acts.run(act)
      return
    }
    const arrow = event.key in ARROWS && !typesIn(active) && !(byKeyboard && keepsOwnKeys(event))
    if (arrow && nudge(event)) return event.preventDefault()
    if (event.key === "ContextMenu" || (event.shiftKey && event.key === "F10")) {
      event.preventDefault()
      return menu()
    }
    if (event.altKey || keepsOwnKeys(event)) return
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
    const act = plain[key]
    if (act) {
      event.preventDefault()
      act(event)
    } else if (ACTS[key]) acts.run(ACTS[key])
    else if (/^[1-7]$/.test(key)) pointer.pickTool(TOOLS[Number(key) - 1])
    else if (key === "h") pointer.hold(true)
  })
  // The hand goes with its key; space on a clicked button must not press it again.
  document.addEventListener("keyup", event => {
    if (event.key.toLowerCase() === "h") pointer.hold(false)
    if (event.key === " " && !keepsOwnKeys(event) && !document.querySelector("dialog[open]")) event.preventDefault()
  })
}
