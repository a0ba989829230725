/**
 * The pointer on a bench: it presses, drags, pans and zooms there, with one pointer or two fingers, and makes sure that
 * nothing is left half done when a drag breaks off.
 */

import {Hold} from "./hold.js"

/** @import {At, Drag, Tool} from "./types.js" */

const NEAR_PX = 9, NEAR_TOUCH_PX = 20
const DOUBLE_MS = 400, SAME_PLACE_PX = 4
const PX_A_LINE = 16, MOST_TURNED = 300
/** What lies over a bench and does its own. */
const OWN_CONTROLS = "button, a, input, textarea, label, .menu, .badge, .toolbox"

/**
 * @typedef {{view: import("./pane.js").Pane, tool: () => Pick<Tool, "press"|"hover"|"double">, pans: () => boolean, tell: () => void}} Parts the tool
 *   that is up, whether the main button moves the view, and what is called after something was done
 */

export class Hand {
  /** Where two fingers were last. @type {{x: number, y: number, apart: number}|null} */
  #pinch = null
  /** @type {Map<number, PointerEvent>} */
  #touches = new Map()
  #lastPress = {time: -Infinity, x: 0, y: 0}

  /** @param {HTMLElement} bench @param {Parts} parts */
  constructor(bench, {view, tool, pans, tell}) {
    this.bench = bench
    this.view = view
    this.tool = tool
    this.pans = pans
    this.tell = tell
    this.hold = new Hold(bench)
    bench.addEventListener("pointerdown", event => this.#press(event))
    bench.addEventListener("pointermove", event => this.#move(event))
    bench.addEventListener("pointerup", event => {
      this.#touches.delete(event.pointerId)
      this.#pinch = null
    })
    for (const name of /** @type {const} */ (["pointercancel", "lostpointercapture"]))
      bench.addEventListener(name, event => this.#touches.delete(event.pointerId))
    bench.addEventListener("wheel", event => this.#wheel(event), {passive: false})
  }

  /** @param {PointerEvent} event @returns {At} */
  #at(event) {
    const px = event.pointerType === "touch" ? NEAR_TOUCH_PX : NEAR_PX
    const target = /** @type {Element} */ (event.target)
    return {event, target, point: this.view.point(event), near: px / this.view.scale}
  }

  /** @param {PointerEvent} event */
  #press(event) {
    if (/** @type {Element} */ (event.target).closest(OWN_CONTROLS)) return
    if (event.pointerType === "touch") this.#touches.set(event.pointerId, event)
    if (this.#touches.size === 2) {
      this.hold.cancel()
      this.#pinch = null
      return
    }
    if (this.hold.busy) return
    const pans = event.button === 1 || (event.button === 0 && this.pans())
    if (event.button !== 0 && !pans) return
    event.preventDefault()
    const focused = /** @type {HTMLElement|null} */ (document.activeElement)
    if (focused && focused !== document.body) focused.blur()
    const work = pans ? this.#panning(event) : this.tool().press(this.#at(event))
    if (work) this.#carry(event, work)
    this.tell()
  }

  /** @param {PointerEvent} pressed @param {Drag} work */
  #carry(pressed, work) {
    this.hold.begin(pressed, {
      eager: work.eager,
      move: event => work.move(this.#at(event)),
      cancel: () => work.cancel(),
      drop: event => {
        work.drop(this.#at(event))
        this.tell()
        this.#again(event)
      },
    })
  }

  /** @param {PointerEvent} from @returns {Drag} */
  #panning(from) {
    let {clientX, clientY} = from
    this.bench.style.cursor = "grabbing"
    return {
      move: ({event}) => {
        this.view.pan(event.clientX - clientX, event.clientY - clientY)
        clientX = event.clientX
        clientY = event.clientY
      },
      drop: () => this.tell(),
      cancel: () => this.tell(),
    }
  }

  /** A second press at the same place, soon after the first, is a double one. @param {PointerEvent} event */
  #again(event) {
    const {clientX: x, clientY: y, timeStamp: time} = event, last = this.#lastPress
    const twice = Math.hypot(x - last.x, y - last.y) < SAME_PLACE_PX && time - last.time < DOUBLE_MS
    // A third press begins anew.
    this.#lastPress = {time: twice ? -Infinity : time, x, y}
    if (twice) this.tool().double?.(this.#at(event))
  }

  /** @param {PointerEvent} event */
  #move(event) {
    if (this.#touches.size === 2 && this.#touches.has(event.pointerId)) return this.#spread(event)
    const target = /** @type {Element} */ (event.target)
    if (this.hold.busy || this.pans() || (target !== this.bench && !target.closest(".overlay, .ground, canvas"))) return
    const cursor = this.tool().hover?.(this.#at(event))
    if (typeof cursor === "string") this.bench.style.cursor = cursor
  }

  /** Two fingers move and scale the view. @param {PointerEvent} event */
  #spread(event) {
    this.#touches.set(event.pointerId, event)
    const [a, b] = [...this.#touches.values()], {view} = this, was = this.#pinch
    const x = (a.clientX + b.clientX) / 2, y = (a.clientY + b.clientY) / 2
    const apart = Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY)
    if (was) view.pan(x - was.x, y - was.y)
    if (was && was.apart > 0) view.zoom(apart / was.apart, {clientX: x, clientY: y})
    this.#pinch = {x, y, apart}
  }

  /** @param {WheelEvent} event */
  #wheel(event) {
    if (/** @type {Element} */ (event.target).closest(".menu")) return
    event.preventDefault()
    const lines = event.deltaMode === 1 ? PX_A_LINE : 1
    if (event.shiftKey) return this.view.pan(-(event.deltaX || event.deltaY) * lines, 0)
    const turned = Math.max(-MOST_TURNED, Math.min(MOST_TURNED, event.deltaY * lines))
    // Touch pads tell of two fingers spread as of a wheel with Ctrl, in smaller steps.
    this.view.zoom(Math.exp(-turned * (event.ctrlKey ? 0.01 : 0.0018)), event)
  }
}
