/** Two versions of a scene over each other, with a line between them that is dragged: what is left of it is the other. */

import {Hold} from "./hold.js"
import {Picture} from "./picture.js"
import {tr} from "./words.js"

/** @import {StageScene, State} from "./types.js" */

/** By so many percent of the stage the line goes with an arrow key, with Shift by ten times that. */
const STEP = 1

export class Compare {
  /** The other version. @type {StageScene|null} */
  #other = null
  /** Which frame of it, where that is not the one on the stage. @type {number|null} */
  #frame = null
  /** Where the line is, percent of the stage. */
  #at = 50

  /**
   * @param {HTMLElement} stage
   * @param {{store: import("./store.js").Store, options: ConstructorParameters<typeof Picture>[1]}} tools
   */
  constructor(stage, {store, options}) {
    this.stage = stage
    this.store = store
    this.canvas = /** @type {HTMLCanvasElement} */ (stage.querySelector("canvas.compared"))
    this.own = /** @type {HTMLCanvasElement} */ (stage.querySelector("canvas"))
    this.line = /** @type {HTMLElement} */ (stage.querySelector("[data-wipe]"))
    this.words = /** @type {HTMLElement} */ (stage.querySelector("[data-compared-words]"))
    this.sign = /** @type {HTMLElement} */ (stage.querySelector("[data-compared]"))
    this.picture = new Picture(this.canvas, options)
    const hold = new Hold(this.line)
    this.line.addEventListener("pointerdown", event => {
      event.stopPropagation()
      const before = this.#at
      const move = (/** @type {PointerEvent} */ now) => this.#put(this.#share(now.clientX))
      hold.begin(event, {move, drop: move, cancel: () => this.#put(before)})
    })
    this.line.addEventListener("keydown", event => this.#key(event))
    this.sign.querySelector("button")?.addEventListener("click", () => this.end())
  }

  /** Whether two are compared. */
  get on() { return Boolean(this.#other) }

  /** @param {StageScene} scene @param {string} name what it is called @param {number|null} [frame] in place of the one on the stage */
  begin(scene, name, frame = null) {
    this.#other = scene
    this.#frame = frame
    this.words.textContent = tr`Left of the line: ${name}`
    for (const part of [this.canvas, this.line, this.sign]) part.hidden = false
    this.#put(this.#at)
    const {state} = this.store
    this.picture.update({state: this.#its(state), previous: {...state, scene: null, look: null}})
    this.line.focus()
  }

  end() {
    this.#other = null
    this.own.style.clipPath = ""
    for (const part of [this.canvas, this.line, this.sign]) part.hidden = true
  }

  redraw() { if (this.#other) this.picture.redraw() }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (this.#other) this.picture.update({state: this.#its(state), previous: this.#its(previous)})
  }

  /** What is seen of the other: all as it is now, but for the scene. @param {State} state @returns {State} */
  #its(state) {
    const last = (this.#other?.settings.length ?? 1) - 1
    return {...state, scene: this.#other, look: null, chosen: null, solo: [], frame: this.#frame ?? Math.min(state.frame, last)}
  }

  /** @param {number} x of the window */
  #share(x) {
    const {left, width} = this.stage.getBoundingClientRect()
    return ((x - left) / width) * 100
  }

  /** @param {number} percent */
  #put(percent) {
    this.#at = Math.min(Math.max(percent, 0), 100)
    this.line.style.left = `${this.#at}%`
    this.line.setAttribute("aria-valuenow", String(Math.round(this.#at)))
    this.canvas.style.clipPath = `inset(0 ${100 - this.#at}% 0 0)`
    // What is transparent must not show the one version through the other.
    this.own.style.clipPath = `inset(0 0 0 ${this.#at}%)`
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    const way = {ArrowLeft: -1, ArrowRight: 1}[event.key]
    if (event.key === "Escape") this.end()
    else if (way) this.#put(this.#at + way * STEP * (event.shiftKey ? 10 : 1))
    else return
    event.preventDefault()
    event.stopPropagation()
  }
}
