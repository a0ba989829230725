/**
 * The graph under the lanes, on their time axis: speed, distance, place or a property over time, to be shaped by
 * hand.
 */

import {frameAtShare, shareOf, spanOf} from "./axis.js"
import {GraphDrags} from "./graphdrags.js"
import {BOTTOM, GraphPaint, MOST_POINTS, TOP} from "./graphpaint.js"
import {plotOf} from "./plots.js"
import {shown} from "./store.js"

/** @import {Point, State} from "./types.js" */
/** @import {Plot, Scale} from "./plots.js" */

/** Share of the values' height that is left free above and below them, where nothing sets their foot. */
const FREE = 0.12
const SHOWS = /** @type {const} */ (["chosen", "graph", "property", "span", "picked", "prefs", "rider", "arrived"])
const ZOOMS_OUT = /** @type {const} */ (["graph", "property", "chosen"])

export class Graph {
  /** Values at the graph's foot and top, where a person has zoomed. @type {[number, number]|null} */
  #zoom = null
  /** The same while a drag is under way: what is held must not move away under the pointer. @type {[number, number]} */
  #held = [0, 1]
  /** What is drawn by hand, while it is. @type {Point[]} */
  #stroke = []
  #due = 0

  /**
   * @param {SVGSVGElement} root
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string) => void}} tools
   */
  constructor(root, {store, edits, say}) {
    this.root = root
    this.store = store
    this.width = root.clientWidth
    this.height = root.clientHeight
    const show = (/** @type {Point[]} */ points) => {
      this.#stroke = points
      this.#soon()
    }
    this.drags = new GraphDrags(root, {store, edits, say, show, scale: () => this.#scale()})
    root.addEventListener("wheel", event => this.#wheel(event), {passive: false})
    root.addEventListener("dblclick", () => {
      this.#zoom = null
      this.#soon()
    })
    new ResizeObserver(() => {
      this.width = root.clientWidth
      this.height = root.clientHeight
      this.#draw()
    }).observe(root)
  }

  cancel() { return this.drags.cancel() }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (ZOOMS_OUT.some(part => state[part] !== previous[part])) this.#zoom = null
    if (SHOWS.some(part => state[part] !== previous[part]) || shown(state) !== shown(previous)) this.#soon()
    if (state.draws !== previous.draws) this.root.classList.toggle("draws", state.draws)
  }

  /** With the next picture on the screen, however often it is asked for until then. */
  #soon() {
    cancelAnimationFrame(this.#due)
    this.#due = requestAnimationFrame(() => this.#draw())
  }

  #draw() {
    new GraphPaint(this.root, this.#scale(), this.store.state).draw(this.#stroke)
  }

  /** @returns {Scale} */
  #scale() {
    const {state} = this.store, {width, height} = this, plot = plotOf(state)
    if (!this.drags.busy) this.#held = this.#zoom ?? extent(plot, state)
    const [low, high] = this.#held, reach = high - low, foot = height - BOTTOM
    const tall = Math.max(foot - TOP, 1)
    return {
      plot, width, height,
      x: frame => shareOf(state, frame) * width, frame: x => frameAtShare(state, x / width),
      y: value => foot - ((value - low) / reach) * tall, value: y => low + ((foot - y) / tall) * reach,
    }
  }

  /** The wheel zooms the values about the pointer; a double click shows all of them again. @param {WheelEvent} event */
  #wheel(event) {
    if (event.ctrlKey || event.altKey || event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) return
    event.preventDefault()
    const on = this.#scale(), about = on.value(event.clientY - this.root.getBoundingClientRect().top)
    const factor = Math.exp(event.deltaY / 400)
    const [low, high] = [on.value(this.height - BOTTOM), on.value(TOP)]
    this.#zoom = [about - (about - low) * factor, about + (high - about) * factor]
    this.#soon()
  }
}

/** The values at the foot and at the top. @param {Plot} plot @param {State} state @returns {[number, number]} */
function extent(plot, state) {
  const [from, to] = spanOf(state)
  let low = plot.floor ?? Infinity, high = -Infinity
  const take = (/** @type {number} */ value) => {
    low = Math.min(low, value)
    high = Math.max(high, value)
  }
  for (const {at, rows} of plot.lines)
    for (const frame of rows.frames(Math.floor(from), Math.ceil(to), MOST_POINTS)) take(at(frame))
  for (const mark of plot.marks) if (mark.time >= from && mark.time <= to) mark.values.forEach(take)
  if (high < low) return [0, 1]
  const room = (high - low) * (plot.floor === null ? FREE : 0)
  return high - low < 1e-9 ? [plot.floor ?? low - 1, high + 1] : [low - room, high + room]
}
