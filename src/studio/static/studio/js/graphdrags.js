/** What the pointer does in the graph: pegs and keys move, reaches stretch, a speed is drawn; elsewhere time is scrubbed. */

import {room} from "./stops.js"
import {asks, createDrags, nothing} from "./stripdrag.js"
import {propertyOf} from "./tables.js"

/** @import {Point} from "./types.js" */
/** @import {Mark, Scale} from "./plots.js" */

const NEAR = 9

/**
 * @param {SVGSVGElement} root
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string) => void, scale: () => Scale,
 *   show: (stroke: Point[]) => void}} tools
 * @returns {ReturnType<typeof createDrags>}
 */
export function wireGraph(root, {store, edits, say, scale, show}) {
  const drags = createDrags(root, edits), {begin, editing, place} = drags

  /** The nearest knob of what is picked, else the nearest mark. @param {Scale} on @param {Point} at @returns {{mark: Mark, knob: Mark["knobs"][0]|null}|null} */
  function under(on, [x, y]) {
    /** @type {{mark: Mark, knob: Mark["knobs"][0]|null}|null} */
    let best = null
    let least = NEAR
    for (const mark of on.plot.marks) {
      const picked = store.state.picked.includes(mark.item)
      for (const knob of picked ? mark.knobs : []) {
        const away = Math.hypot(on.x(knob.time) - x, on.y(knob.value) - y)
        if (away < least) [best, least] = [{mark, knob}, away]
      }
    }
    if (best) return best
    for (const mark of on.plot.marks)
      for (const value of mark.values) {
        const away = Math.hypot(on.x(mark.time) - x, on.y(value) - y)
        if (away < least) [best, least] = [{mark, knob: null}, away]
      }
    return best
  }

  const seconds = (/** @type {number} */ frames) => `${(frames / (store.state.scene?.settings.fps ?? 1)).toFixed(2)} s`

  /** Which way a drag went first: it keeps to that. @param {PointerEvent} pressed */
  function axis(pressed) {
    let sideways = /** @type {boolean|null} */ (null)
    return (/** @type {PointerEvent} */ event) => {
      sideways ??= Math.abs(event.clientX - pressed.clientX) > Math.abs(event.clientY - pressed.clientY)
      return sideways
    }
  }

  /** A peg: up and down its speed or place, sideways its time. @param {PointerEvent} pressed @param {Mark} mark @param {Scale} on */
  function dragPeg(pressed, mark, on) {
    const [x0, y0] = place(pressed), fields = {layer: mark.layer, peg: mark.id}
    const [back, forth] = room(store.state), sideways = axis(pressed)
    const speed = on.plot.unit === "px/s"
    // With Alt one side alone: the one that was pressed.
    const side = pressed.altKey && mark.knobs.length > 1 ? (x0 < on.x(mark.time) ? "arrive" : "leave") : "speed"
    const from = side === "leave" ? mark.values[1] : mark.values[0]
    const length = store.state.scene?.layers.find(layer => layer.id === mark.layer)?.ride?.length ?? 0
    editing(pressed, event => {
      const [x, y] = place(event)
      if (sideways(event)) {
        const by = Math.min(Math.max(Math.round(on.frame(x) - on.frame(x0) + mark.time) - mark.time, back), forth)
        return by ? asks(seconds(mark.time + by), "keys-move", {items: mark.item, by: String(by)}) : nothing
      }
      const wanted = from + on.value(y) - on.value(y0)
      if (!speed) {
        const percent = (wanted / length) * 100
        return length ? asks(`${percent.toFixed(1)} %`, "peg", {...fields, percent: percent.toFixed(3)}) : nothing
      }
      // The limit stops the hand.
      const kept = Math.min(Math.max(wanted, 0), mark.most)
      const held = wanted > mark.most ? ", no faster in this time" : ""
      return asks(`${Math.round(kept)} px/s${held}`, "peg-pace", {...fields, [side]: (Math.floor(kept * 1000) / 1000).toFixed(3)})
    }, click(mark))
  }

  /** Where several are picked, a click picks the one. @param {Mark} mark */
  const click = mark => (/** @type {PointerEvent} */ event) => {
    if (!event.shiftKey && store.state.picked.length > 1) store.set({picked: [mark.item]})
  }

  /** @param {PointerEvent} pressed @param {Mark} mark @param {Mark["knobs"][0]} knob @param {Scale} on */
  function dragKnob(pressed, mark, knob, on) {
    const way = knob.side === "in" ? -1 : 1
    editing(pressed, event => {
      const [x, y] = place(event)
      const reach = Math.min(Math.max(((on.frame(x) - mark.time) * way) / knob.section, 0), 1)
      const words = `reach ${Math.round(reach * 100)} %`
      if (mark.property === "peg") return asks(words, "peg-pace", {layer: mark.layer, peg: mark.id, [`reach_${knob.side}`]: (reach * 100).toFixed(2)})
      const gain = knob.gain ? (on.value(y) - mark.values[0]) / knob.gain : 0
      return asks(words, "keys-value", {items: mark.item, side: knob.side, reach: reach.toFixed(4), gain: gain.toFixed(4)})
    })
  }

  /** A key: its time and its value together; with Shift one of them; several keep their distances. @param {PointerEvent} pressed @param {Mark} mark @param {Scale} on */
  function dragKey(pressed, mark, on) {
    const [x0, y0] = place(pressed), [back, forth] = room(store.state), sideways = axis(pressed)
    const several = store.state.picked.length > 1, items = store.state.picked.join(" ")
    editing(pressed, event => {
      const [x, y] = place(event)
      const by = Math.min(Math.max(Math.round(on.frame(x) - on.frame(x0) + mark.time) - mark.time, back), forth)
      const rise = on.value(y) - on.value(y0)
      // A colour is chosen in the card; up and down there is only its lightness to be seen.
      if (propertyOf(mark.property).kind === "colour") return by ? asks(seconds(mark.time + by), "keys-move", {items, by: String(by)}) : nothing
      if (several && sideways(event)) return asks(seconds(mark.time + by), "keys-move", {items, by: String(by)})
      if (several) return asks(`${rise >= 0 ? "+" : ""}${rise.toFixed(on.plot.digits)} ${on.plot.unit}`, "keys-value", {items, by: rise.toFixed(4)})
      const across = event.shiftKey && !sideways(event) ? 0 : by, up = event.shiftKey && sideways(event) ? 0 : rise
      const value = mark.values[0] + up
      return asks(`${seconds(mark.time + across)}, ${value.toFixed(on.plot.digits)} ${on.plot.unit}`, "keys-value", {items, time_f: String(mark.time + across), value: value.toFixed(4)})
    }, click(mark))
  }

  /** A speed drawn freely, from left to right or right to left. @param {PointerEvent} pressed */
  function dragStroke(pressed) {
    const on = scale()
    if (on.plot.unit !== "px/s" || !on.plot.layer) return say("Choose a rider and show its speed to draw it.")
    /** @type {Point[]} */
    const points = [place(pressed)]
    begin(pressed, {
      move(event) {
        const [x, y] = place(event)
        points.push([x, Math.min(y, on.y(0))])
        show([...points])
      },
      drop() {
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
  function dragBand(pressed, on) {
    const [x0, y0] = place(pressed), before = store.state.picked
    begin(pressed, {
      move(event) {
        const [x, y] = place(event)
        const inside = on.plot.marks.filter(mark => {
          const [mx, my] = [on.x(mark.time), on.y(mark.values[0])]
          return mx >= Math.min(x, x0) && mx <= Math.max(x, x0) && my >= Math.min(y, y0) && my <= Math.max(y, y0)
        })
        show([[x0, y0], [x, y0], [x, y], [x0, y], [x0, y0]])
        store.set({picked: [...new Set([...before, ...inside.map(mark => mark.item)])]})
      },
      drop: () => show([]),
      cancel() {
        show([])
        store.set({picked: before})
      },
    })
  }

  root.addEventListener("pointerdown", event => {
    if (event.button !== 0) return
    if (store.state.draws) return dragStroke(event)
    const on = scale(), found = under(on, place(event))
    if (!found) {
      if (event.shiftKey && on.plot.marks.length) return dragBand(event, on)
      root.dispatchEvent(new CustomEvent("scrub", {bubbles: true, detail: {place: root, pressed: event}}))
      return
    }
    const {mark, knob} = found
    if (knob) return dragKnob(event, mark, knob, on)
    const {picked} = store.state, had = picked.includes(mark.item)
    if (event.shiftKey && !had) store.set({chosen: {kind: "layer", id: mark.layer}, picked: [...picked, mark.item]})
    else if (!had) store.set({chosen: {kind: "layer", id: mark.layer}, picked: [mark.item]})
    if (mark.property === "peg") dragPeg(event, mark, on)
    else dragKey(event, mark, on)
  })
  root.addEventListener("pointermove", event => {
    if (!drags.busy) root.style.cursor = store.state.draws ? "crosshair" : under(scale(), place(event)) ? "move" : ""
  })

  return drags
}
