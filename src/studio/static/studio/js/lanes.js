/**
 * A lane a layer: its own time, its ride as a bar, pegs as pills, keys as dots; the chosen layer's properties
 * each have a lane below. Bars slide, stretch and trim; what is chosen of pegs and keys moves together.
 */

import {shareOf, spanOf} from "./axis.js"
import {wireLanes} from "./lanedrags.js"
import {itemOf, stopsOf} from "./stops.js"
import {chosenIds, shown} from "./store.js"
import {element} from "./svg.js"
import {wordsOf} from "./tables.js"

/** @import {Layer, State, View} from "./types.js" */
/** @import {Stop} from "./stops.js" */

const DOT = 3

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
 * @returns {View & {cancel: () => boolean}}
 */
export function createLanes(root, {store, edits}) {
  /** Rows as they were drawn last, by what they show. @type {Map<string, {key: unknown[], rows: HTMLElement[]}>} */
  let known = new Map()
  /** Asked for only when it changes: to ask lays the page out anew. */
  let width = root.clientWidth

  /** @param {Layer} layer @param {State} state @returns {HTMLElement[]} */
  function rowsOf(layer, state) {
    const scene = shown(state)
    if (!scene || (!layer.ride && !layer.keys.length && !layer.shown)) return []
    const {fps, length} = scene.settings
    const {chosen} = state
    const open = chosen?.kind === "layer" && chosen.id === layer.id
    const lit = chosenIds(state).includes(layer.id) || (chosen?.kind === "path" && chosen.id === layer.ride?.path)
    const onNode = chosen?.kind === "path" && lit ? state.nodes : []
    const seconds = (/** @type {number} */ frames) => (frames / fps).toFixed(2)
    const at = (/** @type {number} */ frame) => `${(shareOf(state, frame) * 100).toFixed(3)}%`
    const wide = (/** @type {number} */ a, /** @type {number} */ b) => `${Math.max((shareOf(state, b) - shareOf(state, a)) * 100, 0.2).toFixed(3)}%`
    const row = div("lane")
    row.dataset.lane = layer.id
    if (layer.shown) {
      const [from, to] = layer.shown
      const clip = div("clip")
      clip.dataset.clip = layer.id
      clip.style.left = at(from)
      clip.style.width = wide(from, to)
      clip.title = `${layer.name} is shown from ${seconds(from)} to ${seconds(to)} s. Drag an end to change it.`
      row.append(clip)
    }
    const stops = stopsOf(layer), keys = stops.filter(stop => stop.property !== "peg")
    const times = keys.map(key => key.time)
    const [start, end] = layer.ride ? [layer.ride.start, layer.ride.end] : times.length ? [Math.min(...times), Math.max(...times)] : layer.shown ?? [0, length]
    const bar = document.createElement("button")
    bar.className = `bar${lit ? " chosen" : ""}${layer.ride ? "" : " plain"}`
    bar.dataset.layer = layer.id
    bar.style.left = at(start)
    bar.style.width = wide(start, Math.max(end, start))
    const path = scene.paths.find(p => p.id === layer.ride?.path)
    const name = div("", path ? `${layer.name} · ${path.name}` : layer.name)
    bar.append(name)
    // A name stays in sight when its bar begins before what is shown.
    const [from, to] = spanOf(state)
    if (start < from) name.style.marginLeft = `${((from - start) / Math.max(end - start, 1)) * 100}%`
    bar.title = `${layer.name}: ${seconds(start)} to ${seconds(end)} s. Drag to slide, an end to stretch; with Alt an end trims.`
    if (end >= from && start <= to) row.append(bar)
    if ((end - start) / (to - from) < 0.15) {
      // Too short for its name, which then stands behind it.
      name.textContent = ""
      const label = div("lane-name", layer.name)
      label.style.left = at(end)
      row.append(label)
    }
    const picked = new Set(state.picked)
    for (const peg of layer.ride?.pegs ?? []) {
      const item = itemOf(layer.id, "peg", peg.id)
      const pill = document.createElement("button")
      pill.className = `pill${lit ? " chosen" : ""}${picked.has(item) || (peg.node && onNode.includes(peg.node)) ? " picked" : ""}`
      pill.dataset.peg = peg.id
      pill.dataset.of = layer.id
      pill.title = `Peg at ${seconds(peg.time)} s. Drag to another time.`
      pill.setAttribute("aria-label", `Peg of ${layer.name} at ${seconds(peg.time)} s`)
      const share = shareOf(state, peg.time)
      if (share < -0.01 || share > 1.01) continue
      pill.style.left = `clamp(4px, ${(share * 100).toFixed(3)}%, 100% - 4px)`
      row.append(pill)
    }
    if (keys.length) row.append(dots(keys, state, picked, 18))
    return [row, ...(open ? layer.keys.map(track => subRow(layer, track.property, keys, state, picked)) : [])]
  }

  /** The keys of one property of the chosen layer. @param {Layer} layer @param {string} property @param {Stop[]} keys @param {State} state @param {Set<string>} picked */
  function subRow(layer, property, keys, state, picked) {
    const own = keys.filter(key => key.property === property)
    const row = div("lane sub")
    row.dataset.lane = layer.id
    row.dataset.property = property
    const name = document.createElement("button")
    name.className = "track-name"
    name.dataset.graph = property
    name.textContent = `${wordsOf(property)} · ${own.length} ${own.length === 1 ? "key" : "keys"}`
    name.title = "Show its curve below"
    const clear = document.createElement("button")
    clear.className = "track-clear"
    clear.dataset.clear = property
    clear.dataset.of = layer.id
    clear.textContent = "Clear all"
    clear.setAttribute("aria-label", `Clear all ${own.length} keys of ${wordsOf(property)}`)
    row.append(dots(own, state, picked, 8), name, clear)
    return row
  }

  /** Dots for keys; those that would lie on each other are drawn once. @param {Stop[]} keys @param {State} state @param {Set<string>} picked @param {number} y */
  function dots(keys, state, picked, y) {
    const svg = /** @type {SVGSVGElement} */ (element("svg", {class: "dots", "aria-hidden": "true"}))
    let plain = "", lit = "", last = -Infinity
    for (const key of keys) {
      const at = Math.round(shareOf(state, key.time) * width * 2) / 2
      if (at < -DOT || at > width + DOT) continue
      const x = Math.min(Math.max(at, DOT + 1), width - DOT - 1)
      const chosen = picked.has(key.item)
      if (!chosen && Math.abs(x - last) < 1) continue
      if (!chosen) last = x
      const dot = `M${x - DOT} ${y}a${DOT} ${DOT} 0 1 1 ${2 * DOT} 0a${DOT} ${DOT} 0 1 1 ${-2 * DOT} 0Z`
      if (chosen) lit += dot
      else plain += dot
    }
    svg.append(element("path", {class: "dot", d: plain}), element("path", {class: "dot picked", d: lit}))
    return svg
  }

  /** @param {State} state */
  function draw(state) {
    const scene = shown(state)
    const shared = [state.span, scene?.settings, width]
    /** @type {typeof known} */
    const drawn = new Map()
    const rows = [...(scene?.layers ?? [])].reverse().flatMap(layer => {
      const lit = chosenIds(state).includes(layer.id) || state.chosen?.id === layer.ride?.path
      const mine = state.picked.filter(item => item.startsWith(`${layer.id}/`)).join()
      const path = scene?.paths.find(p => p.id === layer.ride?.path)?.name
      const key = [...shared, about(layer), lit, state.chosen?.id === layer.id, lit ? state.nodes : null, mine, path]
      const before = known.get(layer.id)
      const same = before && key.every((part, i) => part === before.key[i])
      const found = same ? before : {key, rows: rowsOf(layer, state)}
      drawn.set(layer.id, found)
      return found.rows
    })
    known = drawn
    if (!rows.length) {
      const empty = document.createElement("p")
      empty.className = "empty mt-2"
      empty.textContent = "Put a layer on a path, or turn on Pin and drag it: the time it takes shows here."
      rows.push(empty)
    }
    if (rows.length === root.childElementCount && rows.every((row, i) => row === root.children[i])) return
    const focus = /** @type {HTMLElement|null} */ (document.activeElement)?.dataset
    root.replaceChildren(...rows)
    const again = focus?.peg ? `[data-peg="${CSS.escape(focus.peg)}"][data-of="${CSS.escape(focus.of ?? "")}"]` : focus?.layer ? `.bar[data-layer="${CSS.escape(focus.layer)}"]` : ""
    if (again) /** @type {HTMLElement|null} */ (root.querySelector(again))?.focus()
  }

  /** All that the lanes show of a layer, as text: while its path is shaped, none of it changes. @param {Layer} layer */
  const about = layer => abouts.get(layer) ?? remember(layer)
  /** @type {WeakMap<Layer, string>} */
  const abouts = new WeakMap()
  /** @param {Layer} layer */
  function remember(layer) {
    const {name, ride, keys, shown: span} = layer
    const text = JSON.stringify([name, span, ride && [ride.path, ride.pegs.map(peg => [peg.id, peg.time, peg.node])], keys.map(track => [track.property, track.keys])])
    abouts.set(layer, text)
    return text
  }

  new ResizeObserver(() => {
    width = root.clientWidth
    draw(store.state)
  }).observe(root)

  return {
    cancel: wireLanes(root, {store, edits}).cancel,
    update({state, previous}) {
      const other = state.chosen !== previous.chosen || state.picked !== previous.picked || state.nodes !== previous.nodes || state.span !== previous.span
      if (shown(state) !== shown(previous) || other) draw(state)
    },
  }
}

/** @param {string} name @param {string} [text] */
const div = (name, text = "") => Object.assign(document.createElement("div"), {className: name, textContent: text})
