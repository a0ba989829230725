/**
 * The stage without a pointer: with a tool that draws, arrows move a cursor over it, and Enter presses there. What is
 * dragged with a pointer goes from one Enter to the next.
 */

import {shown} from "./store.js"

/** @import {At, Drag, Point, Tool} from "./types.js" */

const ARROWS = /** @type {Record<string, Point>} */ ({ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1]})
const STEP = 10, LARGE = 50, FINE = 1
/** Tools that are pressed at once; all others that draw are held until the next Enter. */
const AT_ONCE = ["pen", "text", "shape"], HELD = ["figure", "record"]

export class StageCursor {
  /** Where it is, in scene px; none before the first arrow. @type {Point|null} */
  #point = null
  /** What was pressed and is not let go yet. @type {Drag|null} */
  #work = null

  /**
   * @param {HTMLElement} stage
   * @param {{store: import("./store.js").Store, view: import("./view.js").StageView, tool: () => Tool}} parts
   */
  constructor(stage, {store, view, tool}) {
    this.stage = stage
    this.store = store
    this.view = view
    this.tool = tool
    this.mark = Object.assign(document.createElement("div"), {className: "stage-cursor", hidden: true})
    this.told = Object.assign(document.createElement("span"), {className: "sr-only"})
    this.told.setAttribute("role", "status")
    stage.append(this.mark, this.told)
    stage.addEventListener("pointermove", () => { if (!this.#work) this.hide() })
  }

  /** @param {KeyboardEvent} event @returns {boolean} whether the key was for it */
  key(event) {
    const {tool} = this.store.state, arrow = ARROWS[event.key]
    const other = document.activeElement?.matches("input, select, textarea, [role=separator], [role=slider], .pill")
    if (other || event.ctrlKey || event.metaKey || ![...AT_ONCE, ...HELD].includes(tool)) return false
    if (arrow) return this.#move(arrow, event.shiftKey ? LARGE : event.altKey ? FINE : STEP)
    if (event.key === "Enter" && this.#point) return this.#press(AT_ONCE.includes(tool))
    if (event.key !== "Escape" || !this.#work) return false
    this.cancel()
    return true
  }

  /** Leaves things as they were. */
  cancel() {
    const work = this.#work
    this.#work = null
    work?.cancel()
    return work !== null
  }

  hide() {
    this.#point = null
    this.mark.hidden = true
  }

  redraw() {
    if (!this.#point) return
    this.mark.style.left = `${this.view.x(this.#point[0])}px`
    this.mark.style.top = `${this.view.y(this.#point[1])}px`
  }

  /** @param {Point} way @param {number} step */
  #move([dx, dy], step) {
    const settings = shown(this.store.state)?.settings
    if (!settings) return false
    const [x, y] = this.#point ?? [settings.width / 2, settings.height / 2]
    const first = !this.#point
    this.#point = first ? [x, y] : [x + dx * step, y + dy * step]
    this.mark.hidden = false
    this.redraw()
    this.told.textContent = `${Math.round(this.#point[0])}, ${Math.round(this.#point[1])}`
    const at = this.#at(this.#point)
    if (this.#work) this.#work.move(at)
    else this.tool().hover?.(at)
    return true
  }

  /** @param {boolean} atOnce */
  #press(atOnce) {
    const at = this.#at(/** @type {Point} */ (this.#point))
    if (this.#work) {
      const work = this.#work
      this.#work = null
      work.drop(at)
      return true
    }
    const work = this.tool().press(at) ?? null
    if (work && !atOnce) this.#work = work
    else if (work) work.drop(at)
    // A second press in one place ends a drawing, as there is nothing more to draw there.
    else if (atOnce) this.tool().key?.(new KeyboardEvent("keydown", {key: "Enter"}))
    return true
  }

  /** The place as a pointer would tell it. @param {Point} point @returns {At} */
  #at(point) {
    const {room} = this.view, clientX = room.left + this.view.x(point[0]), clientY = room.top + this.view.y(point[1])
    // Snapping would hold what is moved by small steps where it is.
    const event = new PointerEvent("pointermove", {clientX, clientY, ctrlKey: true, pointerType: "mouse", buttons: 1})
    return {event, point, target: document.elementFromPoint(clientX, clientY) ?? this.stage, near: STEP / 2 / this.view.scale}
  }
}
