/**
 * What the pointer does in the lanes: bars slide, stretch and are trimmed; pegs and keys are chosen and move
 * together.
 */

import {frameAtShare, spanOf} from "./axis.js"
import {itemOf, pickedStops, room, stopsOf} from "./stops.js"
import {asks, nothing, StripDrags} from "./stripdrag.js"
import {tr} from "./words.js"

/** @import {Layer, State} from "./types.js" */
/** @import {Stop} from "./stops.js" */
/** @typedef {"start"|"end"|"all"} Part which part of a bar is held */

const EDGE = 9, NEAR = 6
/** Where in a bar's lane the dots of keys lie, px. */
const DOTS_AT = 18
const LEAST_FACTOR = 0.001

export class LaneDrags extends StripDrags {
  /**
   * @param {HTMLElement} root the lanes
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
   */
  constructor(root, tools) {
    super(root, tools)
    root.addEventListener("pointerdown", event => { if (event.button === 0) this.#press(event) })
    root.addEventListener("click", event => this.#click(event))
  }

  /** @param {PointerEvent} event */
  #press(event) {
    if (closest(event, ".track-clear, .track-name")) return
    const pill = closest(event, ".pill"), rider = this.#layer(pill?.dataset.of)
    if (pill && rider?.ride) return this.#peg(event, rider, rider.ride.pegs.findIndex(peg => peg.id === pill.dataset.peg))
    const key = this.#keyAt(event)
    if (key) return this.#stops(event, key)
    const bar = closest(event, ".bar"), clip = closest(event, "[data-clip]")
    const layer = this.#layer(bar?.dataset.layer ?? clip?.dataset.clip)
    if (bar && layer) return this.#bar(event, layer, partOf(event, bar))
    const film = closest(event, "[data-film]"), filmed = this.#layer(film?.dataset.film)
    if (film && filmed) return this.#film(event, filmed, partOf(event, film))
    const short = closest(event, "[data-accent]"), accented = this.#layer(short?.dataset.of)
    if (short && accented) return this.#accent(event, accented, short.dataset.accent ?? "", partOf(event, short))
    if (clip && layer) return this.#clip(event, layer, partOf(event, clip))
    this.#band(event)
  }

  /** @param {MouseEvent} event */
  #click(event) {
    const {store, edits} = this, name = closest(event, ".track-name"), clear = closest(event, ".track-clear")
    if (name) store.set({graph: "keys", property: name.dataset.graph ?? ""})
    if (clear) {
      const {of = "", clear: property = ""} = clear.dataset
      void edits.commit({form: "key", fields: {layer: of, property, to: "clear", frame: String(store.state.frame)}})
    }
    // With the keyboard; the pointer has chosen already.
    if (event.detail !== 0) return
    const pill = closest(event, ".pill"), bar = closest(event, ".bar"), film = closest(event, ".film")
    if (film) store.set({chosen: {kind: "layer", id: film.dataset.film ?? ""}})
    else if (pill) this.#chooseItem(pill.dataset.of ?? "", itemOf(pill.dataset.of ?? "", "peg", pill.dataset.peg ?? ""))
    else if (bar) store.set({chosen: {kind: "layer", id: bar.dataset.layer ?? ""}})
  }

  /** @param {string|undefined} id */
  #layer(id) { return this.store.state.scene?.layers.find(layer => layer.id === id) }

  /** @param {MouseEvent} event */
  #frameAt(event) {
    const {left} = this.root.getBoundingClientRect()
    return frameAtShare(this.store.state, (event.clientX - left) / this.root.clientWidth)
  }

  /** Frames for so many px. @param {number} px */
  #frames(px) {
    const [from, to] = spanOf(this.store.state)
    return (px / this.root.clientWidth) * (to - from)
  }

  /**
   * Where a time has come to that is dragged along, pulled to what is near.
   * @param {number} time @param {PointerEvent} from @param {PointerEvent} to @param {Set<string>} [moving]
   */
  #moved(time, from, to, moving = new Set()) {
    return this.#snapped(time + this.#frames(to.clientX - from.clientX), moving, to)
  }

  /**
   * A time pulled to what is near: stops, bars' ends, the playhead, the range; else to a whole frame.
   * @param {number} time @param {Set<string>} moving @param {PointerEvent} event
   */
  #snapped(time, moving, event) {
    const {state} = this.store
    let best = Math.round(time), least = this.#frames(NEAR)
    if (event.ctrlKey || event.metaKey || !state.prefs.snap) return best
    for (const mark of marksOf(state, moving))
      if (Math.abs(mark - time) < least) [best, least] = [mark, Math.abs(mark - time)]
    return best
  }

  /** @param {Layer} layer */
  #choose(layer) { this.store.set({chosen: {kind: "layer", id: layer.id}, picked: []}) }

  /** @param {string} layer @param {string} item */
  #chooseItem(layer, item) { this.store.set({chosen: {kind: "layer", id: layer}, picked: [item]}) }

  /** @param {PointerEvent} pressed @param {Layer} layer @param {Part} part */
  #bar(pressed, layer, part) {
    if (layer.ride) return this.#ride(pressed, layer, part)
    const stops = stopsOf(layer)
    if (!stops.length) return this.#choose(layer)
    const moving = new Set(stops.map(stop => stop.item)), items = [...moving].join(" ")
    const first = stops[0].time, last = stops[stops.length - 1].time
    this.editing(pressed, event => {
      const to = this.#moved(part === "end" ? last : first, pressed, event, moving)
      if (part === "all") return asks(tr`from ${this.seconds(to)}`, "keys-move", {items, by: String(to - first)})
      const about = part === "end" ? first : last, reach = part === "end" ? last - first : first - last
      const factor = reach ? (to - about) / reach : 1
      if (factor < LEAST_FACTOR) return nothing
      const words = tr`${this.seconds(Math.min(to, about))} to ${this.seconds(Math.max(to, about))}`
      return asks(words, "keys-move", {items, factor: String(factor), about: String(about)})
    }, () => this.#choose(layer))
  }

  /**
   * @param {PointerEvent} pressed @param {Layer} layer @param {Part} part
   * @param {string} [peg] its pill, where one was pressed
   */
  #ride(pressed, layer, part, peg = "") {
    const {start, end, pegs} = /** @type {import("./types.js").Ride} */ (layer.ride)
    const moving = new Set(pegs.map(each => itemOf(layer.id, "peg", each.id)))
    this.editing(pressed, event => {
      const to = this.#moved(part === "end" ? end : start, pressed, event, moving)
      if (part === "all") return asks(tr`${this.seconds(to)} to ${this.seconds(to + end - start)}`, "time", {layer: layer.id, start_f: String(to)})
      return pressed.altKey ? this.#trimmed(layer, part, to) : this.#stretched(layer, part, to)
    }, () => peg ? this.#chooseItem(layer.id, itemOf(layer.id, "peg", peg)) : this.#choose(layer))
  }

  /** At least a frame of it is left. @param {Layer} layer @param {Part} part @param {number} to */
  #trimmed(layer, part, to) {
    const {start, end} = /** @type {import("./types.js").Ride} */ (layer.ride), ends = part === "end"
    const kept = Math.min(Math.max(to, start + (ends ? 1 : 0)), end - (ends ? 0 : 1))
    return asks(tr`trim at ${this.seconds(kept)}`, "time", {layer: layer.id, [ends ? "trim_end" : "trim_start"]: String(kept)})
  }

  /** @param {Layer} layer @param {Part} part @param {number} to */
  #stretched(layer, part, to) {
    const {start, end} = /** @type {import("./types.js").Ride} */ (layer.ride)
    const [from, upto] = part === "end" ? [start, Math.max(to, Math.floor(start) + 1)] : [Math.min(to, Math.ceil(end) - 1), end]
    const words = tr`${this.seconds(from)} to ${this.seconds(upto)}, lasts ${this.seconds(upto - from)}`
    return asks(words, "time", {layer: layer.id, start_f: String(from), lasts_f: String(upto - from)})
  }

  /**
   * The first and the last peg are the bar's ends: alone, they stretch the ride, and those between go along.
   * @param {PointerEvent} event @param {Layer} rider @param {number} at
   */
  #peg(event, rider, at) {
    const pegs = rider.ride?.pegs ?? [], {id, time} = pegs[at], {picked} = this.store.state
    const item = itemOf(rider.id, "peg", id)
    const alone = !event.shiftKey && !(picked.includes(item) && picked.length > 1)
    if (alone && (at === 0 || at === pegs.length - 1)) return this.#ride(event, rider, at === 0 ? "start" : "end", id)
    this.#stops(event, {item, layer: rider.id, property: "peg", id, time, value: 0})
  }

  /**
   * Pegs or keys that are chosen, all of them; with Alt they are stretched about the far end.
   * @param {PointerEvent} pressed @param {Stop} stop
   */
  #stops(pressed, stop) {
    const had = this.store.state.picked.includes(stop.item)
    this.#pickFor(pressed, stop, had)
    const chosen = pickedStops(this.store.state), moving = new Set(chosen.map(one => one.item))
    const items = [...moving].join(" "), [back, on] = room(this.store.state)
    const first = chosen[0]?.time ?? 0, last = chosen.at(-1)?.time ?? 0
    const stretches = pressed.altKey && chosen.length > 1 && last > first
    const about = stop.time - first > last - stop.time ? first : last
    this.editing(pressed, event => {
      const to = this.#moved(stop.time, pressed, event, moving)
      if (stretches) {
        const factor = (to - about) / (stop.time - about)
        if (!(factor > LEAST_FACTOR)) return nothing
        return asks(`${Math.round(factor * 100)} %`, "keys-move", {items, factor: String(factor), about: String(about)})
      }
      const by = Math.min(Math.max(to - stop.time, back), on)
      return by ? asks(this.seconds(stop.time + by), "keys-move", {items, by: String(by)}) : nothing
    }, () => {
      if (!pressed.shiftKey && had) this.store.set({picked: [stop.item]})
    })
  }

  /**
   * With Shift one more, or one less; else this alone, with its curve, unless it is one of those chosen.
   * @param {PointerEvent} pressed @param {Stop} stop @param {boolean} had
   */
  #pickFor(pressed, stop, had) {
    const {picked, graph} = this.store.state
    const chosen = /** @type {const} */ ({kind: "layer", id: stop.layer})
    if (pressed.shiftKey) this.store.set({chosen, picked: had ? picked.filter(item => item !== stop.item) : [...picked, stop.item]})
    else if (!had) {
      /** @type {Partial<State>} */
      const curve = stop.property !== "peg" ? {graph: "keys", property: stop.property} : graph === "keys" ? {graph: "speed"} : {}
      this.store.set({chosen, picked: [stop.item], ...curve})
    }
  }

  /** @param {PointerEvent} pressed @param {Layer} layer @param {Part} part */
  #clip(pressed, layer, part) {
    const [from, to] = /** @type {[number, number]} */ (layer.shown)
    this.editing(pressed, event => {
      const begin = part === "end" ? from : Math.min(this.#moved(from, pressed, event), part === "start" ? to - 1 : Infinity)
      const end = part === "start" ? to : part === "end" ? Math.max(this.#moved(to, pressed, event), from + 1) : begin + to - from
      const words = tr`shown ${this.seconds(begin)} to ${this.seconds(end)}`
      return asks(words, "layer-time", {layer: layer.id, from_f: String(begin), to_f: String(end)})
    }, () => this.#choose(layer))
  }

  /** @param {PointerEvent} pressed @param {Layer} layer @param {Part} part */
  #film(pressed, layer, part) {
    const {from, to} = /** @type {import("./types.js").Film} */ (layer.film)
    this.editing(pressed, event => {
      const at = this.#moved(part === "end" ? to : from, pressed, event)
      if (part === "all") return asks(tr`from ${this.seconds(at)}`, "footage", {layer: layer.id, starts_f: String(at)})
      if (part === "start") return asks(tr`begins at ${this.seconds(Math.min(at, to - 1))}`, "footage", {layer: layer.id, trim_start: String(Math.min(at, to - 1))})
      return asks(tr`ends at ${this.seconds(Math.max(at, from + 1))}`, "footage", {layer: layer.id, trim_end: String(Math.max(at, from + 1))})
    }, () => this.#choose(layer))
  }

  /** @param {PointerEvent} pressed @param {Layer} layer @param {string} id @param {Part} part */
  #accent(pressed, layer, id, part) {
    const accent = layer.accents.find(each => each.id === id)
    if (!accent || accent.when === "during") return
    const {from, to, start} = accent, {fps} = /** @type {import("./types.js").StageScene} */ (this.store.state.scene).settings
    this.editing(pressed, event => {
      const begin = part === "end" ? from : Math.min(this.#moved(from, pressed, event), part === "start" ? to - 1 : Infinity)
      const end = part === "all" ? begin + to - from : part === "end" ? Math.max(this.#moved(to, pressed, event), from + 1) : to
      const lasts = end - begin
      // One right before a ride begins so much earlier the longer it lasts.
      const moved = start + begin - from + (accent.when === "before" ? lasts - (to - from) : 0)
      const fields = {layer: layer.id, accent: id, accent_start_s: String(moved / fps), accent_lasts_s: String(lasts / fps)}
      return asks(tr`${this.seconds(begin)} to ${this.seconds(end)}`, "accent", fields)
    }, () => this.#choose(layer))
  }

  /** A band that takes the pegs and keys inside it, over all lanes. @param {PointerEvent} pressed */
  #band(pressed) {
    const {root, store} = this, {left, top} = root.getBoundingClientRect()
    const before = pressed.shiftKey ? store.state.picked : []
    const band = Object.assign(document.createElement("div"), {className: "lane-band"})
    const corner = (/** @type {PointerEvent} */ event) => [event.clientX - left, event.clientY - top + root.scrollTop]
    const [x0, y0] = corner(pressed), frame = this.#frameAt(pressed)
    this.begin(pressed, {
      move: event => {
        const [x1, y1] = corner(event)
        Object.assign(band.style, {
          left: `${Math.min(x0, x1)}px`, width: `${Math.abs(x1 - x0)}px`,
          top: `${Math.min(y0, y1)}px`, height: `${Math.abs(y1 - y0)}px`,
        })
        root.append(band)
        const found = [...new Set([...before, ...this.#within(sorted(y0, y1), sorted(frame, this.#frameAt(event)))])]
        const layer = found[0]?.split("/", 1)[0]
        store.set({picked: found, ...(layer ? {chosen: {kind: "layer", id: layer}} : {})})
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

  /**
   * The stops in lanes between two heights, and between two frames.
   * @param {[number, number]} heights @param {[number, number]} frames
   */
  #within([top, bottom], [from, to]) {
    const rows = [.../** @type {NodeListOf<HTMLElement>} */ (this.root.querySelectorAll("[data-lane]"))]
    return rows.filter(row => row.offsetTop <= bottom && row.offsetTop + row.offsetHeight >= top)
      .flatMap(row => this.#stopsOf(row)).filter(stop => stop.time >= from && stop.time <= to).map(stop => stop.item)
  }

  /** The stops that a lane shows: of its layer, or of one property of it. @param {HTMLElement} row */
  #stopsOf(row) {
    const layer = this.#layer(row.dataset.lane), {property} = row.dataset
    return (layer ? stopsOf(layer) : []).filter(stop => !property || stop.property === property)
  }

  /** The key that is nearest in a lane, if it is near. @param {PointerEvent} event @returns {Stop|null} */
  #keyAt(event) {
    const row = closest(event, "[data-lane]")
    if (!row) return null
    const y = event.clientY - row.getBoundingClientRect().top
    // In a bar the dots lie along its lower edge.
    if (!row.dataset.property && Math.abs(y - DOTS_AT) > NEAR) return null
    const time = this.#frameAt(event)
    let best = null, least = this.#frames(NEAR)
    for (const stop of this.#stopsOf(row)) {
      const away = Math.abs(stop.time - time)
      if (stop.property !== "peg" && away < least) [best, least] = [stop, away]
    }
    return best
  }
}

/** @param {Event} event @param {string} selector @returns {HTMLElement|null} */
const closest = (event, selector) => /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest(selector))

/** @param {number} a @param {number} b @returns {[number, number]} */
const sorted = (a, b) => (a < b ? [a, b] : [b, a])

/** @param {PointerEvent} pressed @param {HTMLElement} bar @returns {Part} */
function partOf(pressed, bar) {
  const {left, right} = bar.getBoundingClientRect()
  return pressed.clientX - left < EDGE ? "start" : right - pressed.clientX < EDGE ? "end" : "all"
}

/** What a time is pulled to. @param {State} state @param {Set<string>} moving the items that are dragged */
function* marksOf(state, moving) {
  yield state.frame
  yield* state.range ?? []
  for (const layer of state.scene?.layers ?? []) {
    yield* layer.shown ?? []
    for (const stop of stopsOf(layer)) if (!moving.has(stop.item)) yield stop.time
  }
}
