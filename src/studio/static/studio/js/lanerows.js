/**
 * The rows of a layer in the strip: its own time, its ride as a bar, pegs as pills, keys as dots, and a row a
 * property.
 */

import {shareOf, spanOf} from "./axis.js"
import {itemOf, stopsOf} from "./stops.js"
import {chosenIds, shown} from "./store.js"
import {element} from "./svg.js"
import {wordsOf} from "./tables.js"
import {tr, word} from "./words.js"

/** @import {Layer, Peg, StageScene, State} from "./types.js" */
/** @import {Stop} from "./stops.js" */

const DOT = 3
/** Px that a peg takes as a button. */
const PILL = 24
/** Per cent of a row: of no length, a bar is still to be seen. */
const LEAST = 0.2
/** Share of what is shown from which on a bar has room for its name. */
const NAMED = 0.15

/** What is drawn of one layer: with what is chosen of it, and how wide a row is, px. */
export class LaneRows {
  /** @param {Layer} layer @param {State} state @param {StageScene} scene @param {number} width */
  constructor(layer, state, scene, width) {
    this.layer = layer
    this.state = state
    this.scene = scene
    this.width = width
    this.stops = stopsOf(layer)
    this.keys = this.stops.filter(stop => stop.property !== "peg")
    this.picked = new Set(state.picked)
    this.lit = isLit(layer, state)
  }

  /** @returns {HTMLElement[]} */
  all() {
    const {layer, state, keys} = this
    if (!layer.ride && !layer.keys.length && !layer.shown && !layer.film && !layer.accents.length) return []
    const alone = Boolean(layer.film) && !layer.ride && !keys.length, open = chosenIds(state).includes(layer.id)
    const row = div("lane")
    row.dataset.lane = layer.id
    if (layer.shown) row.append(this.#clip(...layer.shown))
    if (alone) row.append(...this.#film())
    else row.append(...this.#bar(), ...(layer.ride?.pegs ?? []).flatMap(peg => this.#pill(peg)))
    if (keys.length) row.append(this.#dots(keys, 18))
    const late = this.stops.filter(stop => stop.time > this.scene.settings.length)
    if (late.length) {
      const after = div("beyond", tr`${late.length} after the end`)
      after.title = tr`Up to ${this.#seconds(Math.max(...late.map(stop => stop.time)))} s: make the scene longer to see and move them.`
      row.append(after)
    }
    const below = open ? [...layer.film && !alone ? [this.#filmRow()] : [], ...this.#accents(), ...layer.keys.map(track => this.#track(track.property))] : []
    return [row, ...below]
  }

  /** @param {number} frame */
  #at(frame) { return `${(shareOf(this.state, frame) * 100).toFixed(3)}%` }

  /** @param {number} from @param {number} to */
  #wide(from, to) {
    const share = shareOf(this.state, to) - shareOf(this.state, from)
    return `${Math.max(share * 100, LEAST).toFixed(3)}%`
  }

  /** @param {number} frames */
  #seconds(frames) { return (frames / this.scene.settings.fps).toFixed(2) }

  /** The time in which the layer is shown. @param {number} from @param {number} to */
  #clip(from, to) {
    const clip = div("clip")
    clip.dataset.clip = this.layer.id
    clip.style.left = this.#at(from)
    clip.style.width = this.#wide(from, to)
    clip.title = tr`${this.layer.name} is shown from ${this.#seconds(from)} to ${this.#seconds(to)} s. Drag an end to change it.`
    return clip
  }

  /** A row for the footage of what rides, or has keys. */
  #filmRow() {
    const row = div("lane sub")
    row.append(...this.#film())
    return row
  }

  /** The time that footage is played in, once. */
  #film() {
    const {layer, lit, scene} = this, {from, to, after} = /** @type {import("./types.js").Film} */ (layer.film)
    const goesOn = after === "vanish" ? [] : [this.#goesOn(after, Math.min(0, from), from), this.#goesOn(after, to, scene.settings.length)]
    const film = document.createElement("button")
    film.className = `film${lit ? " chosen" : ""}`
    film.dataset.film = layer.id
    film.style.left = this.#at(from)
    film.style.width = this.#wide(from, to)
    film.title = tr`${layer.name} plays from ${this.#seconds(from)} to ${this.#seconds(to)} s. Drag to slide, an end to trim.`
    film.append(div("", layer.name))
    return [...goesOn, film]
  }

  /** The short motions of a layer, a row each, as they may go on at once. @returns {HTMLElement[]} */
  #accents() {
    const {accents, id, name} = this.layer
    return accents.map(({id: accent, kind, when, from, to, again}) => {
      const row = div("lane sub"), bar = document.createElement("button")
      bar.className = "accent"
      Object.assign(bar.dataset, {accent, of: id})
      bar.style.left = this.#at(from)
      bar.style.width = this.#wide(from, to)
      const how = when === "during" ? tr`It goes on during the ride.` : tr`Drag to slide, an end to make it longer or shorter.`
      bar.title = tr`${word(kind)} of ${name}: ${this.#seconds(from)} to ${this.#seconds(to)} s. ${how}`
      bar.append(div("", word(kind)))
      row.append(...again.map(begin => this.#goesOn("again", begin, begin + to - from)), bar)
      return row
    })
  }

  /** What is seen before and after: played again, or a frame that stays. @param {string} after @param {number} from @param {number} to */
  #goesOn(after, from, to) {
    const rest = div(`film-rest ${after}`)
    rest.style.left = this.#at(from)
    rest.style.width = this.#wide(from, Math.max(from, to))
    return rest
  }

  /** From when to when it moves, or else is shown. @returns {[number, number]} */
  #moves() {
    const {ride, shown: own} = this.layer, times = this.keys.map(key => key.time)
    if (ride) return [ride.start, ride.end]
    return times.length ? [Math.min(...times), Math.max(...times)] : own ?? [0, this.scene.settings.length]
  }

  /** @returns {HTMLElement[]} the bar, if it is in sight, and its name behind it, if it has no room for that */
  #bar() {
    const {layer, state, scene, lit} = this, [start, end] = this.#moves(), [from, to] = spanOf(state)
    const bar = document.createElement("button")
    bar.className = `bar${lit ? " chosen" : ""}${layer.ride ? "" : " plain"}`
    bar.dataset.layer = layer.id
    bar.style.left = this.#at(start)
    bar.style.width = this.#wide(start, Math.max(end, start))
    bar.title = tr`${layer.name}: ${this.#seconds(start)} to ${this.#seconds(end)} s. Drag to slide, an end to stretch; with Alt an end trims.`
    const path = scene.paths.find(each => each.id === layer.ride?.path)
    const short = (end - start) / (to - from) < NAMED
    const name = div("", short ? "" : [layer.name, ...path ? [path.name] : [], ...this.#follows()].join(" · "))
    // A name stays in sight when its bar begins before what is shown.
    if (start < from) name.style.marginLeft = `${((from - start) / Math.max(end - start, 1)) * 100}%`
    bar.append(name)
    const label = div("lane-name", layer.name)
    label.style.left = this.#at(end)
    return [...(end >= from && start <= to ? [bar] : []), ...(short ? [label] : [])]
  }

  /** What its ride begins with, in words. @returns {string[]} */
  #follows() {
    const [led = "", event = "ends"] = this.layer.ride?.after ?? [], name = this.scene.layers.find(each => each.id === led)?.name
    return name ? [{ends: tr`after ${name}`, starts: tr`with ${name}`, passes: tr`as it passes: ${name}`}[event] ?? ""] : []
  }

  /** @param {Peg} peg @returns {HTMLElement[]} none, where it is out of sight */
  #pill(peg) {
    const {layer, state, lit} = this, share = shareOf(state, peg.time)
    if (share < -0.01 || share > 1.01) return []
    const onNode = lit && state.chosen?.kind === "path" && peg.node && state.nodes.includes(peg.node)
    const picked = onNode || this.picked.has(itemOf(layer.id, "peg", peg.id))
    const near = layer.ride?.pegs.some(other => other !== peg && Math.abs(shareOf(state, other.time) - share) * this.width < PILL)
    // Where they crowd none is large enough to be a button: the pointer still takes them, and "." goes from one to the next.
    const pill = document.createElement(near ? "span" : "button")
    pill.className = `pill${lit ? " chosen" : ""}${picked ? " picked" : ""}`
    pill.dataset.peg = peg.id
    pill.dataset.of = layer.id
    pill.title = tr`Peg at ${this.#seconds(peg.time)} s. Drag to another time.`
    if (!near) pill.setAttribute("aria-label", tr`Peg of ${layer.name} at ${this.#seconds(peg.time)} s`)
    pill.style.left = `clamp(4px, ${(share * 100).toFixed(3)}%, 100% - 4px)`
    return [pill]
  }

  /** The keys of one property of the chosen layer. @param {string} property */
  #track(property) {
    const own = this.keys.filter(key => key.property === property)
    const row = div("lane sub")
    row.dataset.lane = this.layer.id
    row.dataset.property = property
    const name = document.createElement("button")
    name.className = "track-name"
    name.dataset.graph = property
    name.textContent = `${wordsOf(property)} · ${own.length} ${own.length === 1 ? "key" : "keys"}`
    name.title = tr`Show its curve below`
    const clear = document.createElement("button")
    clear.className = "track-clear"
    clear.dataset.clear = property
    clear.dataset.of = this.layer.id
    clear.textContent = tr`Clear all`
    clear.setAttribute("aria-label", tr`Clear all ${own.length} keys of ${wordsOf(property)}`)
    row.append(this.#dots(own, 12), name, clear)
    return row
  }

  /** Dots for keys; those that would lie on each other are drawn once. @param {Stop[]} keys @param {number} y */
  #dots(keys, y) {
    const {width} = this
    let plain = "", lit = "", last = -Infinity
    for (const key of keys) {
      const at = Math.round(shareOf(this.state, key.time) * width * 2) / 2
      if (at < -DOT || at > width + DOT) continue
      const x = Math.min(Math.max(at, DOT + 1), width - DOT - 1)
      const chosen = this.picked.has(key.item)
      if (!chosen && Math.abs(x - last) < 1) continue
      const dot = `M${x - DOT} ${y}a${DOT} ${DOT} 0 1 1 ${2 * DOT} 0a${DOT} ${DOT} 0 1 1 ${-2 * DOT} 0Z`
      if (chosen) lit += dot
      else {
        plain += dot
        last = x
      }
    }
    const svg = /** @type {SVGSVGElement} */ (element("svg", {class: "dots", "aria-hidden": "true"}))
    svg.append(element("path", {class: "dot", d: plain}), element("path", {class: "dot picked", d: lit}))
    return svg
  }
}

/** Whether a layer, or the path it rides, is chosen. @param {Layer} layer @param {State} state */
const isLit = (layer, state) =>
  chosenIds(state).includes(layer.id) || (state.chosen?.kind === "path" && state.chosen.id === layer.ride?.path)

/**
 * What the rows of a layer depend on, part by part: where none has changed, they stay.
 * @param {Layer} layer @param {State} state @param {number} width
 */
export function lookOf(layer, state, width) {
  const scene = shown(state), lit = isLit(layer, state)
  const picked = state.picked.filter(item => item.startsWith(`${layer.id}/`)).join()
  const path = scene?.paths.find(each => each.id === layer.ride?.path)?.name
  const chosen = [lit, chosenIds(state).includes(layer.id), lit ? state.nodes : null, picked]
  return [state.span, scene?.settings, width, about(layer), path, ...chosen]
}

/** @type {WeakMap<Layer, string>} */
const abouts = new WeakMap()

/** All that the lanes show of a layer, as text: while its path is shaped, none of it changes. @param {Layer} layer */
function about(layer) {
  const known = abouts.get(layer)
  if (known !== undefined) return known
  const {name, ride, keys, shown: span, film, accents} = layer
  const pegs = ride?.pegs.map(peg => [peg.id, peg.time, peg.node])
  const text = JSON.stringify([name, span, film, accents, ride && [ride.path, pegs, ride.after], keys.map(track => [track.property, track.keys])])
  abouts.set(layer, text)
  return text
}

/** @param {string} name @param {string} [text] */
const div = (name, text = "") => Object.assign(document.createElement("div"), {className: name, textContent: text})
