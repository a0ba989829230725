/** What the pointer does in the lanes: bars slide, stretch and are trimmed; pegs and keys are chosen and move together. */

import {frameAtShare, spanOf} from "./axis.js"
import {itemOf, pickedStops, room, stopsOf} from "./stops.js"
import {asks, createDrags, nothing} from "./stripdrag.js"

/** @import {Layer, State} from "./types.js" */
/** @import {Stop} from "./stops.js" */

const EDGE = 9, NEAR = 6

/**
 * @param {HTMLElement} root the lanes
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
 * @returns {{cancel: () => boolean}}
 */
export function wireLanes(root, {store, edits}) {
  const drags = createDrags(root, edits), {begin, editing} = drags

  /** @param {MouseEvent} event */
  const frameAt = event => {
    const box = root.getBoundingClientRect()
    return frameAtShare(store.state, (event.clientX - box.left) / root.clientWidth)
  }

  /** Frames for so many px. @param {number} px */
  const frames = px => {
    const [from, to] = spanOf(store.state)
    return (px / root.clientWidth) * (to - from)
  }

  /** A time pulled to what is near: stops, bars' ends, the playhead, the range; else to a whole frame. @param {number} time @param {Set<string>} moving @param {PointerEvent} event */
  function snapped(time, moving, event) {
    const {state} = store
    const whole = Math.round(time)
    if (event.ctrlKey || event.metaKey || !state.prefs.snap) return whole
    let best = whole, least = frames(NEAR)
    const pull = (/** @type {number} */ to) => {
      if (Math.abs(to - time) < least) [best, least] = [to, Math.abs(to - time)]
    }
    pull(state.frame)
    for (const mark of state.range ?? []) pull(mark)
    for (const layer of state.scene?.layers ?? []) {
      for (const mark of layer.shown ?? []) pull(mark)
      for (const stop of stopsOf(layer)) if (!moving.has(stop.item)) pull(stop.time)
    }
    return best
  }

  const seconds = (/** @type {number} */ time) => `${(time / (store.state.scene?.settings.fps ?? 1)).toFixed(2)} s`

  /** @param {PointerEvent} pressed @param {Layer} layer */
  function dragBar(pressed, layer) {
    const bar = /** @type {HTMLElement} */ (root.querySelector(`.bar[data-layer="${CSS.escape(layer.id)}"]`))
    const box = bar.getBoundingClientRect()
    const part = pressed.clientX - box.left < EDGE ? "start" : box.right - pressed.clientX < EDGE ? "end" : "all"
    if (layer.ride) return dragRide(pressed, layer, part)
    const items = stopsOf(layer)
    const [first, last] = [items[0]?.time ?? 0, items.at(-1)?.time ?? 0]
    if (!items.length) return choose(layer)
    const all = items.map(stop => stop.item).join(" "), moving = new Set(items.map(stop => stop.item))
    editing(pressed, event => {
      const held = part === "end" ? last : first
      const to = snapped(held + frames(event.clientX - pressed.clientX), moving, event)
      if (part === "all") return asks(`from ${seconds(to)}`, "keys-move", {items: all, by: String(to - first)})
      const about = part === "end" ? first : last, reach = held - about
      const factor = reach ? (to - about) / reach : 1
      if (factor < 0.001) return nothing
      return asks(`${seconds(Math.min(to, about))} to ${seconds(Math.max(to, about))}`, "keys-move", {items: all, factor: String(factor), about: String(about)})
    }, () => choose(layer))
  }

  /** @param {PointerEvent} pressed @param {Layer} layer @param {"start"|"end"|"all"} part @param {string} [peg] its pill, where one was pressed */
  function dragRide(pressed, layer, part, peg = "") {
    const ride = /** @type {import("./types.js").Ride} */ (layer.ride)
    const {start, end, pegs} = ride, trim = pressed.altKey
    const moving = new Set(pegs.map(p => itemOf(layer.id, "peg", p.id)))
    editing(pressed, event => {
      const by = frames(event.clientX - pressed.clientX)
      const fields = {layer: layer.id}
      if (part === "all") {
        const to = snapped(start + by, moving, event)
        return asks(`${seconds(to)} to ${seconds(to + end - start)}`, "time", {...fields, start_f: String(to)})
      }
      const to = snapped((part === "end" ? end : start) + by, moving, event)
      if (trim) {
        const kept = Math.min(Math.max(to, start + (part === "end" ? 1 : 0)), end - (part === "end" ? 0 : 1))
        return asks(`trim at ${seconds(kept)}`, "time", {...fields, [part === "end" ? "trim_end" : "trim_start"]: String(kept)})
      }
      const [from, upto] = part === "end" ? [start, Math.max(to, Math.floor(start) + 1)] : [Math.min(to, Math.ceil(end) - 1), end]
      const words = `${seconds(from)} to ${seconds(upto)}, lasts ${seconds(upto - from)}`
      return asks(words, "time", {...fields, start_f: String(from), lasts_f: String(upto - from)})
    }, () => store.set({chosen: {kind: "layer", id: layer.id}, picked: peg ? [itemOf(layer.id, "peg", peg)] : []}))
  }

  /** @param {Layer} layer */
  const choose = layer => store.set({chosen: {kind: "layer", id: layer.id}, picked: []})

  /** Pegs or keys that are chosen, all of them; with Alt they are stretched about the far end. @param {PointerEvent} pressed @param {Stop} stop */
  function dragStops(pressed, stop) {
    const had = store.state.picked.includes(stop.item)
    if (pressed.shiftKey) {
      const {picked} = store.state
      store.set({chosen: {kind: "layer", id: stop.layer}, picked: had ? picked.filter(item => item !== stop.item) : [...picked, stop.item]})
    } else if (!had) store.set({chosen: {kind: "layer", id: stop.layer}, picked: [stop.item], ...graphFor(stop)})
    const chosen = pickedStops(store.state), moving = new Set(chosen.map(one => one.item))
    const items = [...moving].join(" ")
    const [back, on] = room(store.state)
    const [first, last] = [chosen[0]?.time ?? 0, chosen.at(-1)?.time ?? 0]
    const stretches = pressed.altKey && chosen.length > 1 && last > first
    editing(pressed, event => {
      const to = snapped(stop.time + frames(event.clientX - pressed.clientX), moving, event)
      if (stretches) {
        const about = stop.time - first > last - stop.time ? first : last
        const factor = (to - about) / (stop.time - about)
        if (!(factor > 0.001)) return nothing
        return asks(`${Math.round(factor * 100)} %`, "keys-move", {items, factor: String(factor), about: String(about)})
      }
      const by = Math.min(Math.max(to - stop.time, back), on)
      return by ? asks(seconds(stop.time + by), "keys-move", {items, by: String(by)}) : nothing
    }, () => {
      if (!pressed.shiftKey && had) store.set({picked: [stop.item]})
    })
  }

  /** The curve of what was chosen last. @param {Stop} stop @returns {Partial<State>} */
  const graphFor = stop => (stop.property === "peg" ? (store.state.graph === "keys" ? {graph: "speed"} : {}) : {graph: "keys", property: stop.property})

  /** @param {PointerEvent} pressed @param {Layer} layer */
  function dragClip(pressed, layer) {
    const clip = /** @type {HTMLElement} */ (/** @type {Element} */ (pressed.target).closest("[data-clip]"))
    const box = clip.getBoundingClientRect()
    const [from, to] = /** @type {[number, number]} */ (layer.shown)
    const part = pressed.clientX - box.left < EDGE ? "start" : box.right - pressed.clientX < EDGE ? "end" : "all"
    editing(pressed, event => {
      const by = frames(event.clientX - pressed.clientX)
      const begin = part === "end" ? from : Math.min(snapped(from + by, new Set(), event), part === "start" ? to - 1 : Infinity)
      const end = part === "start" ? to : part === "end" ? Math.max(snapped(to + by, new Set(), event), from + 1) : begin + to - from
      return asks(`shown ${seconds(begin)} to ${seconds(end)}`, "layer-time", {layer: layer.id, from_f: String(begin), to_f: String(end)})
    }, () => choose(layer))
  }

  /** A band that takes the pegs and keys inside it, over all lanes. @param {PointerEvent} pressed */
  function dragBand(pressed) {
    const box = root.getBoundingClientRect()
    const before = pressed.shiftKey ? store.state.picked : []
    const band = Object.assign(document.createElement("div"), {className: "lane-band"})
    const y0 = pressed.clientY - box.top + root.scrollTop, f0 = frameAt(pressed)
    begin(pressed, {
      move(event) {
        const y1 = event.clientY - box.top + root.scrollTop, f1 = frameAt(event)
        const [x0, x1] = [pressed.clientX, event.clientX].map(x => x - box.left)
        Object.assign(band.style, {left: `${Math.min(x0, x1)}px`, width: `${Math.abs(x1 - x0)}px`, top: `${Math.min(y0, y1)}px`, height: `${Math.abs(y1 - y0)}px`})
        const found = new Set(before)
        for (const row of /** @type {NodeListOf<HTMLElement>} */ (root.querySelectorAll("[data-lane]"))) {
          if (row.offsetTop > Math.max(y0, y1) || row.offsetTop + row.offsetHeight < Math.min(y0, y1)) continue
          const layer = store.state.scene?.layers.find(l => l.id === row.dataset.lane)
          for (const stop of layer ? stopsOf(layer) : []) {
            if (row.dataset.property && stop.property !== row.dataset.property) continue
            if (stop.time >= Math.min(f0, f1) && stop.time <= Math.max(f0, f1)) found.add(stop.item)
          }
        }
        const layer = [...found][0]?.split("/", 1)[0]
        store.set({picked: [...found], ...(layer ? {chosen: {kind: "layer", id: layer}} : {})})
        root.append(band)
      },
      drop: () => band.remove(),
      cancel: () => {
        band.remove()
        store.set({picked: before})
      },
    }, () => {
      if (!pressed.shiftKey) store.set({picked: []})
    })
  }

  /** The key that is nearest in a lane, if it is near. @param {PointerEvent} event @returns {Stop|null} */
  function keyAt(event) {
    const row = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-lane]"))
    const layer = store.state.scene?.layers.find(l => l.id === row?.dataset.lane)
    if (!row || !layer) return null
    const y = event.clientY - row.getBoundingClientRect().top
    // In a bar the dots lie along its lower edge.
    if (!row.dataset.property && Math.abs(y - 18) > NEAR) return null
    const time = frameAt(event)
    let best = null, least = frames(NEAR)
    for (const stop of stopsOf(layer)) {
      if (stop.property === "peg" || (row.dataset.property && stop.property !== row.dataset.property)) continue
      const away = Math.abs(stop.time - time)
      if (away < least) [best, least] = [stop, away]
    }
    return best
  }

  root.addEventListener("pointerdown", event => {
    if (event.button !== 0) return
    const target = /** @type {Element} */ (event.target)
    if (target.closest(".track-clear, .track-name")) return
    const layers = store.state.scene?.layers ?? []
    const pill = /** @type {HTMLElement|null} */ (target.closest(".pill"))
    const rider = pill && layers.find(l => l.id === pill.dataset.of)
    if (pill && rider?.ride) {
      const {pegs} = rider.ride, at = pegs.findIndex(peg => peg.id === pill.dataset.peg)
      const item = itemOf(rider.id, "peg", pegs[at].id)
      // The first and the last peg are the bar's ends: alone, they stretch the ride, and those between go along.
      const alone = !event.shiftKey && !(store.state.picked.includes(item) && store.state.picked.length > 1)
      if (alone && (at === 0 || at === pegs.length - 1)) return dragRide(event, rider, at === 0 ? "start" : "end", pegs[at].id)
      return dragStops(event, {item, layer: rider.id, property: "peg", id: pegs[at].id, time: pegs[at].time, value: 0})
    }
    const key = keyAt(event)
    if (key) return dragStops(event, key)
    const bar = /** @type {HTMLElement|null} */ (target.closest(".bar")), clip = /** @type {HTMLElement|null} */ (target.closest("[data-clip]"))
    const layer = layers.find(l => l.id === (bar?.dataset.layer ?? clip?.dataset.clip))
    if (bar && layer) return dragBar(event, layer)
    if (clip && layer) return dragClip(event, layer)
    dragBand(event)
  })
  root.addEventListener("click", event => {
    const target = /** @type {Element} */ (event.target)
    const name = /** @type {HTMLElement|null} */ (target.closest(".track-name")), clear = /** @type {HTMLElement|null} */ (target.closest(".track-clear"))
    if (name) store.set({graph: "keys", property: name.dataset.graph ?? ""})
    if (clear) void edits.commit({form: "key", fields: {layer: clear.dataset.of ?? "", property: clear.dataset.clear ?? "", to: "clear", frame: String(store.state.frame)}})
    // With the keyboard.
    const pill = /** @type {HTMLElement|null} */ (target.closest(".pill")), bar = /** @type {HTMLElement|null} */ (target.closest(".bar"))
    if (event.detail !== 0) return
    if (pill) store.set({chosen: {kind: "layer", id: pill.dataset.of ?? ""}, picked: [itemOf(pill.dataset.of ?? "", "peg", pill.dataset.peg ?? "")]})
    else if (bar) store.set({chosen: {kind: "layer", id: bar.dataset.layer ?? ""}})
  })

  return {cancel: drags.cancel}
}
