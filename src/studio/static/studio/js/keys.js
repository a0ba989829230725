/** The keyboard. Typing goes to the field that is typed in; everything else works from anywhere. */

import {commandFor, fits} from "./commands.js"
import {canStand, isOnItsPath} from "./layers.js"
import {chosenIds, chosenLayer} from "./store.js"
import {holdsText, typesIn} from "./typing.js"

/** In the middle of a drag these take it back, and nothing else: what was kept before stays. */
const TAKE_BACK = ["undo", "redo", "delete"]
const ARROWS = {ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1]}

/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, cancel: () => boolean, seenFrom: () => string,
 *   player: import("./player.js").Player, acts: import("./acts.js").Acts, menu: () => void, alone: (on: boolean) => void,
 *   pointer: {pickTool: (tool: string) => void, tell: () => void, handHeld: (on: boolean) => void, key: (event: KeyboardEvent) => boolean}}} Tools
 */

/** @param {Tools} tools */
export function wireKeys(tools) {
  const keyboard = new Keyboard(tools)
  document.addEventListener("pointerdown", event => {
    keyboard.byKeyboard = false
    keyboard.pressed(event)
  }, true)
  document.addEventListener("keydown", event => { if (event.key === "Tab") keyboard.byKeyboard = true }, true)
  document.addEventListener("change", event => {
    const {target} = event
    if (target instanceof HTMLSelectElement && !keyboard.byKeyboard) target.blur()
  })
  document.addEventListener("keydown", event => {
    if (!document.querySelector("dialog[open]")) keyboard.down(event)
  })
  document.addEventListener("keyup", event => keyboard.up(event))
  // Keys that are let go in another window are not heard of here.
  window.addEventListener("blur", () => keyboard.letGo())
  document.addEventListener("click", event => {
    if (/** @type {Element} */ (event.target).closest("[data-delete]")) tools.acts.run("delete-thing")
  })
}

class Keyboard {
  /**
   * A control reached with the keyboard keeps its own use of space and arrows; one that was clicked does not,
   * so that playing is one key away after every change; a list in which one chose lets go of the keys. A slider keeps
   * its arrows: it is set by hand, then finely.
   */
  byKeyboard = false
  /** Whether it played, and where, before Space was pressed that is still held. @type {{playing: boolean, frame: number}|null} */
  #spaced = null

  /** @param {Tools} tools */
  constructor(tools) { this.tools = tools }

  /** @param {KeyboardEvent} event */
  down(event) {
    const {acts, cancel, menu, pointer} = this.tools
    if (event.key === "Escape" && cancel()) return
    if (!typesIn() && pointer.key(event)) {
      event.preventDefault()
      return pointer.tell()
    }
    if (event.key === "Escape") return this.escape()
    if (this.nudged(event)) return event.preventDefault()
    if (event.key === "ContextMenu" || (event.shiftKey && event.key === "F10")) {
      event.preventDefault()
      return menu()
    }
    const command = commandFor(event)
    if (!command || this.belongsToControl(event)) return
    event.preventDefault()
    if (TAKE_BACK.includes(command.name) && cancel()) return
    if (command.held) return this.hold(command.name, true)
    if (command.name === "play") {
      if (event.repeat) return
      const {playing, frame} = this.tools.store.state
      if (event.key === " ") this.#spaced = {playing, frame}
    }
    if (fits(command.name, this.tools.store.state)) acts.run(command.name)
  }

  /** The hand goes with its key; space on a clicked button must not press it again. @param {KeyboardEvent} event */
  up(event) {
    const command = commandFor(event)
    if (command?.held) this.hold(command.name, false)
    if (event.key === " ") {
      this.#spaced = null
      this.tools.pointer.handHeld(false)
    }
    if (event.key === " " && !this.keepsOwn(event) && !document.querySelector("dialog[open]")) event.preventDefault()
  }

  letGo() {
    this.#spaced = null
    this.tools.pointer.handHeld(false)
  }

  /** A press on the stage while Space is held moves about: then Space was not to play. @param {PointerEvent} event */
  pressed(event) {
    const before = this.#spaced, {player, pointer} = this.tools
    if (!before || !/** @type {Element} */ (event.target).closest("#stage")) return
    this.#spaced = null
    if (before.playing) player.play()
    else player.pause()
    player.go(before.frame)
    pointer.handHeld(true)
  }

  /** @param {string} name @param {boolean} on */
  hold(name, on) {
    if (name === "hold-hand") this.tools.pointer.handHeld(on)
    else this.tools.alone(on)
  }

  /** Whether a key is a field's own: text, and its undo while it is being changed. @param {KeyboardEvent} event */
  belongsToControl(event) {
    const active = document.activeElement, ctrl = event.ctrlKey || event.metaKey
    if (ctrl && event.key.toLowerCase() === "z") return active instanceof HTMLElement && "dirty" in active.dataset
    if (commandFor(event)?.anywhere) return false
    if (ctrl) return holdsText(active)
    return event.altKey || this.keepsOwn(event)
  }

  /** @param {KeyboardEvent} event */
  keepsOwn(event) {
    const active = document.activeElement
    if (typesIn(active)) return true
    if (active instanceof HTMLInputElement && active.type === "range" && event.key.startsWith("Arrow")) return true
    const held = active instanceof HTMLElement && active.matches("button, input, a, summary")
    if (!held || !this.byKeyboard) return false
    if (event.key === " ") return true
    return event.key.startsWith("Arrow") && active.matches("input")
  }

  /** Lets go of one thing: what is typed, the tool, what is drawn or picked, the group, the selection. */
  escape() {
    const {store, edits, acts, pointer} = this.tools, {state} = store
    const active = document.activeElement
    if (typesIn(active)) {
      const input = /** @type {HTMLInputElement} */ (active)
      input.value = input.defaultValue
      delete input.dataset.dirty
      edits.lookAway()
      input.blur()
    } else if (state.tool !== "pick") pointer.pickTool("pick")
    else if (state.draws) store.set({draws: false})
    else if (state.picked.length) store.set({picked: []})
    else if (state.nodes.length) store.set({nodes: []})
    else if (state.inside) acts.run("leave-group")
    else store.set({chosen: null})
  }

  /** Moves chosen nodes or, with Alt, a layer: 1 px, with Shift 10; nodes with Alt 0.1. @param {KeyboardEvent} event */
  nudged(event) {
    if (!(event.key in ARROWS) || typesIn() || this.keepsOwn(event)) return false
    const {store, edits} = this.tools, {state} = store
    const nodes = state.nodes.length > 0
    if (!nodes && !event.altKey) return false
    const by = event.shiftKey ? 10 : event.altKey && nodes ? 0.1 : 1
    const [dx, dy] = ARROWS[/** @type {keyof typeof ARROWS} */ (event.key)].map(step => String(+(step * by).toFixed(3)))
    const edit = nodes ? this.nodesMoved(dx, dy) : this.layerMoved(dx, dy)
    if (edit) void edits.commit(edit)
    return true
  }

  /** From where what is moved is seen: the pointer says which view is meant. @returns {Record<string, string>} */
  side() {
    const side = this.tools.seenFrom()
    return side ? {seen_from: side} : {}
  }

  /** @param {string} dx @param {string} dy */
  nodesMoved(dx, dy) {
    const {state} = this.tools.store
    const path = state.chosen?.kind === "path" ? state.chosen.id : chosenLayer(state)?.ride?.path ?? ""
    const fields = {path, nodes: state.nodes.join(" "), dx, dy, seen_at: String(state.frame), nudge: "true"}
    return {form: "node-move", fields: {...fields, ...this.side()}}
  }

  /** @param {string} dx @param {string} dy */
  layerMoved(dx, dy) {
    const {state} = this.tools.store, layer = chosenLayer(state)
    if (!layer || !canStand(layer) || (isOnItsPath(layer) && chosenIds(state).length === 1)) return null
    const fields = {layer: layer.id, layers: chosenIds(state).join(" "), dx, dy, frame: String(state.frame), nudge: "true"}
    return {form: "place", fields: {...fields, ...(state.pin ? {pin: "true"} : {}), ...this.side()}}
  }
}
