/**
 * What the pointer does in the graph: pegs and keys move, reaches stretch, a speed is drawn; elsewhere time is
 * scrubbed.
 */

import {room} from "./stops.js"
import {asks, nothing, StripDrags} from "./stripdrag.js"
import {propertyOf} from "./tables.js"
import {tr} from "./words.js"

/** @import {Point} from "./types.js" */
/** @import {Mark, Scale} from "./plots.js" */
/** @typedef {Mark["knobs"][0]} Knob */
/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string) => void,
 *   scale: () => Scale, show: (stroke: Point[]) => void}} Tools how the graph lies, and what shows a line drawn over it
 */

const NEAR = 9

export class GraphDrags extends StripDrags {
  /** @param {SVGSVGElement} root @param {Tools} tools */
  constructor(root, tools) {
    super(root, tools)
    this.tools = tools
    root.addEventListener("pointerdown", event => { if (event.button === 0) this.#press(event) })
    root.addEventListener("pointermove", event => {
      if (this.busy) return
      const over = this.#under(tools.scale(), this.place(event)) ? "move" : ""
      root.style.cursor = this.store.state.draws ? "crosshair" : over
    })
  }

  /** @param {PointerEvent} event */
  #press(event) {
    const {store, root} = this
    if (store.state.draws) return this.#stroke(event)
    const on = this.tools.scale(), found = this.#under(on, this.place(event))
    if (!found) {
      if (event.shiftKey && on.plot.marks.length) return this.#band(event, on)
      root.dispatchEvent(new CustomEvent("scrub", {bubbles: true, detail: {place: root, pressed: event}}))
      return
    }
    const {mark, knob} = found
    if (knob) return this.#knob(event, mark, knob, on)
    const {picked} = store.state
    if (!picked.includes(mark.item))
      store.set({chosen: {kind: "layer", id: mark.layer}, picked: event.shiftKey ? [...picked, mark.item] : [mark.item]})
    if (mark.property === "peg") this.#peg(event, mark, on)
    else this.#key(event, mark, on)
  }

  /**
   * The nearest knob of what is picked, else the nearest mark.
   * @param {Scale} on @param {Point} at @returns {{mark: Mark, knob: Knob|null}|null}
   */
  #under(on, [x, y]) {
    const {picked} = this.store.state
    const away = (/** @type {number} */ time, /** @type {number} */ value) => Math.hypot(on.x(time) - x, on.y(value) - y)
    const knobs = on.plot.marks.filter(mark => picked.includes(mark.item))
      .flatMap(mark => mark.knobs.map(knob => ({mark, knob, far: away(knob.time, knob.value)})))
    const marks = on.plot.marks.flatMap(mark => mark.values.map(value => ({mark, knob: null, far: away(mark.time, value)})))
    return nearest(knobs) ?? nearest(marks)
  }

  /**
   * How far a mark is moved in time, no farther than there is room.
   * @param {Mark} mark @param {Scale} on @param {PointerEvent} pressed
   */
  #shifts(mark, on, pressed) {
    const [x0] = this.place(pressed), [back, forth] = room(this.store.state)
    return (/** @type {number} */ x) => {
      const to = Math.round(on.frame(x) - on.frame(x0) + mark.time)
      return Math.min(Math.max(to - mark.time, back), forth)
    }
  }

  /**
   * A peg: up and down its speed or place, sideways its time.
   * @param {PointerEvent} pressed @param {Mark} mark @param {Scale} on
   */
  #peg(pressed, mark, on) {
    const [x0, y0] = this.place(pressed), shift = this.#shifts(mark, on, pressed), sideways = axis(pressed)
    // With Alt one side alone: the one that was pressed.
    const side = pressed.altKey && mark.knobs.length > 1 ? (x0 < on.x(mark.time) ? "arrive" : "leave") : "speed"
    const from = side === "leave" ? mark.values[1] : mark.values[0]
    this.editing(pressed, event => {
      const [x, y] = this.place(event)
      if (sideways(event)) return this.#later(mark, mark.item, shift(x))
      const wanted = from + on.value(y) - on.value(y0)
      return on.plot.unit === "px/s" ? paced(mark, side, wanted) : this.#placed(mark, wanted)
    }, this.#picks(mark))
  }

  /** @param {Mark} mark @param {string} items @param {number} by */
  #later(mark, items, by) {
    return by ? asks(this.seconds(mark.time + by), "keys-move", {items, by: String(by)}) : nothing
  }

  /** @param {Mark} mark @param {number} wanted px along its path */
  #placed(mark, wanted) {
    const length = this.store.state.scene?.layers.find(layer => layer.id === mark.layer)?.ride?.length ?? 0
    const percent = (wanted / length) * 100
    const fields = {layer: mark.layer, peg: mark.id, percent: percent.toFixed(3)}
    return length ? asks(`${percent.toFixed(1)} %`, "peg", fields) : nothing
  }

  /** Where several are picked, a click picks the one. @param {Mark} mark */
  #picks(mark) {
    return (/** @type {PointerEvent} */ event) => {
      if (!event.shiftKey && this.store.state.picked.length > 1) this.store.set({picked: [mark.item]})
    }
  }

  /** @param {PointerEvent} pressed @param {Mark} mark @param {Knob} knob @param {Scale} on */
  #knob(pressed, mark, knob, on) {
    const way = knob.side === "in" ? -1 : 1
    this.editing(pressed, event => {
      const [x, y] = this.place(event)
      const reach = Math.min(Math.max(((on.frame(x) - mark.time) * way) / knob.section, 0), 1)
      const words = tr`reach ${Math.round(reach * 100)} %`
      if (mark.property === "peg")
        return asks(words, "peg-pace", {layer: mark.layer, peg: mark.id, [`reach_${knob.side}`]: (reach * 100).toFixed(2)})
      const gain = knob.gain ? (on.value(y) - mark.values[0]) / knob.gain : 0
      return asks(words, "keys-value", {items: mark.item, side: knob.side, reach: reach.toFixed(4), gain: gain.toFixed(4)})
    })
  }

  /**
   * A key: its time and its value together; with Shift one of them; several keep their distances.
   * @param {PointerEvent} pressed @param {Mark} mark @param {Scale} on
   */
  #key(pressed, mark, on) {
    const [, y0] = this.place(pressed), shift = this.#shifts(mark, on, pressed), sideways = axis(pressed)
    const {picked} = this.store.state, items = picked.join(" "), {digits, unit} = on.plot
    // A colour is chosen in the card; up and down there is only its lightness to be seen.
    const flat = propertyOf(mark.property).kind === "colour"
    this.editing(pressed, event => {
      const [x, y] = this.place(event), by = shift(x), rise = on.value(y) - on.value(y0)
      if (flat || (picked.length > 1 && sideways(event))) return this.#later(mark, items, by)
      if (picked.length > 1) return asks(`${rise >= 0 ? "+" : ""}${rise.toFixed(digits)} ${unit}`, "keys-value", {items, by: rise.toFixed(4)})
      const across = event.shiftKey && !sideways(event) ? 0 : by, up = event.shiftKey && sideways(event) ? 0 : rise
      const time = mark.time + across, value = mark.values[0] + up
      const words = `${this.seconds(time)}, ${value.toFixed(digits)} ${unit}`
      return asks(words, "keys-value", {items, time_f: String(time), value: value.toFixed(4)})
    }, this.#picks(mark))
  }

  /** A speed drawn freely, from left to right or right to left. @param {PointerEvent} pressed */
  #stroke(pressed) {
    const {store, edits} = this, {say, show} = this.tools, on = this.tools.scale()
    if (on.plot.unit !== "px/s" || !on.plot.layer) return say(tr`Choose a rider and show its speed to draw it.`)
    /** @type {Point[]} */
    const points = [this.place(pressed)]
    this.begin(pressed, {
      move: event => {
        const [x, y] = this.place(event)
        points.push([x, Math.min(y, on.y(0))])
        show([...points])
      },
      drop: () => {
        show([])
        if (points.length < 3) return
        const stroke = points.map(([x, y]) => `${on.frame(x).toFixed(2)},${Math.max(on.value(y), 0).toFixed(2)}`).join(" ")
        store.set({draws: false})
        void edits.commit({form: "pace-drawn", fields: {layer: on.plot.layer, stroke}})
      },
      cancel: () => show([]),
    })
  }

  /** With Shift a band takes keys. @param {PointerEvent} pressed @param {Scale} on */
  #band(pressed, on) {
    const [x0, y0] = this.place(pressed), {store} = this, {show} = this.tools, before = store.state.picked
    this.begin(pressed, {
      move: event => {
        const [x, y] = this.place(event)
        const inside = on.plot.marks.filter(mark => {
          const mx = on.x(mark.time), my = on.y(mark.values[0])
          return mx >= Math.min(x, x0) && mx <= Math.max(x, x0) && my >= Math.min(y, y0) && my <= Math.max(y, y0)
        })
        show([[x0, y0], [x, y0], [x, y], [x0, y], [x0, y0]])
        store.set({picked: [...new Set([...before, ...inside.map(mark => mark.item)])]})
      },
      drop: () => show([]),
      cancel: () => {
        show([])
        store.set({picked: before})
      },
    })
  }
}

/** @param {{mark: Mark, knob: Knob|null, far: number}[]} found */
function nearest(found) {
  let best = null, least = NEAR
  for (const each of found) if (each.far < least) [best, least] = [each, each.far]
  return best
}

/** Which way a drag went first: it keeps to that. @param {PointerEvent} pressed */
function axis(pressed) {
  let sideways = /** @type {boolean|null} */ (null)
  return (/** @type {PointerEvent} */ event) => {
    sideways ??= Math.abs(event.clientX - pressed.clientX) > Math.abs(event.clientY - pressed.clientY)
    return sideways
  }
}

/** The limit stops the hand. @param {Mark} mark @param {string} side @param {number} wanted px/s */
function paced(mark, side, wanted) {
  const kept = Math.min(Math.max(wanted, 0), mark.most)
  const held = wanted > mark.most ? tr`, no faster in this time` : ""
  const speed = (Math.floor(kept * 1000) / 1000).toFixed(3)
  return asks(`${Math.round(kept)} px/s${held}`, "peg-pace", {layer: mark.layer, peg: mark.id, [side]: speed})
}
