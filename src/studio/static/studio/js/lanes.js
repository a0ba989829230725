/**
 * A lane a layer: its own time, its ride as a bar, pegs as pills, keys as dots; the chosen layer's properties
 * each have a lane below. Bars slide, stretch and trim; what is chosen of pegs and keys moves together.
 */

import {LaneDrags} from "./lanedrags.js"
import {LaneRows, lookOf} from "./lanerows.js"
import {bringIn} from "./scrolls.js"
import {shown} from "./store.js"
import {tr} from "./words.js"

/** @import {Layer, State} from "./types.js" */

const NOTHING = tr`Put a layer on a path, or turn on Pin and drag it: the time it takes shows here.`

export class Lanes {
  /** Rows as they were drawn last, by what they show. @type {Map<string, {look: unknown[], rows: HTMLElement[]}>} */
  #known = new Map()

  /**
   * @param {HTMLElement} root
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
   */
  constructor(root, {store, edits}) {
    this.root = root
    this.drags = new LaneDrags(root, {store, edits})
    root.addEventListener("keydown", event => this.#key(event))
    /** Asked for only when it changes: to ask lays the page out anew. */
    this.width = root.clientWidth
    new ResizeObserver(() => {
      this.width = root.clientWidth
      this.#draw(store.state)
    }).observe(root)
  }

  cancel() { return this.drags.cancel() }

  /** Arrows on a peg move it in time, or make it faster. @param {KeyboardEvent} event */
  #key(event) {
    const pill = event.target instanceof HTMLElement && event.target.closest(".pill")
    const {store, edits} = this.drags, step = event.shiftKey ? 10 : 1
    const frames = Number(event.key === "ArrowRight") - Number(event.key === "ArrowLeft")
    const faster = Number(event.key === "ArrowUp") - Number(event.key === "ArrowDown")
    if (!(pill instanceof HTMLElement) || event.altKey || event.ctrlKey || (!frames && !faster)) return
    const {of: layer = "", peg = ""} = pill.dataset
    const found = shown(store.state)?.layers.find(each => each.id === layer)?.ride?.pegs.find(each => each.id === peg)
    if (!found) return
    event.preventDefault()
    event.stopPropagation()
    const speed = Math.max(...found.speeds.slice(0, 2).map(each => each ?? 0)) + faster * step * 10
    /** @type {Record<string, string>} */
    const change = frames ? {time_f: String(found.time + frames * step)} : {speed: speed.toFixed(2)}
    void edits.commit({form: "peg-pace", fields: {layer, peg, ...change}})
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const parts = /** @type {const} */ (["chosen", "picked", "nodes", "span"])
    const other = parts.some(part => state[part] !== previous[part])
    if (shown(state) !== shown(previous) || other) this.#draw(state)
    if (state.chosen?.kind === "layer" && state.chosen.id !== previous.chosen?.id) this.#bringIn(state.chosen.id)
  }

  /** Scrolls the lanes to one. @param {string} id */
  #bringIn(id) {
    const {root} = this, lane = root.querySelector(`.lane[data-lane="${CSS.escape(id)}"]`)
    if (lane) bringIn(root, [lane])
  }

  /** @param {State} state */
  #draw(state) {
    /** @type {Map<string, {look: unknown[], rows: HTMLElement[]}>} */
    const drawn = new Map()
    for (const layer of [...(shown(state)?.layers ?? [])].reverse()) drawn.set(layer.id, this.#lane(layer, state))
    this.#known = drawn
    const rows = [...drawn.values()].flatMap(lane => lane.rows)
    this.#show(rows.length ? rows : [Object.assign(document.createElement("p"), {className: "empty mt-2", textContent: NOTHING})])
  }

  /** @param {Layer} layer @param {State} state */
  #lane(layer, state) {
    const look = lookOf(layer, state, this.width), before = this.#known.get(layer.id), scene = shown(state)
    if (before && look.every((part, i) => part === before.look[i])) return before
    return {look, rows: scene ? new LaneRows(layer, state, scene, this.width).all() : []}
  }

  /** Put rows in place of those that are there; what had the focus has it again. @param {HTMLElement[]} rows */
  #show(rows) {
    const {root} = this
    if (rows.length === root.childElementCount && rows.every((row, i) => row === root.children[i])) return
    const {peg, of = "", layer} = /** @type {HTMLElement|null} */ (document.activeElement)?.dataset ?? {}
    root.replaceChildren(...rows)
    const bar = layer ? `.bar[data-layer="${CSS.escape(layer)}"]` : ""
    const again = peg ? `[data-peg="${CSS.escape(peg)}"][data-of="${CSS.escape(of)}"]` : bar
    if (again) /** @type {HTMLElement|null} */ (root.querySelector(again))?.focus()
  }
}
