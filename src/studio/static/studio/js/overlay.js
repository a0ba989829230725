/** What lies over the picture while working: rails, ties, nodes, the start, the chosen thing, a tool's draft. */

import {frameBox, keyedPlaces} from "./hits.js"
import {marksOf} from "./marks.js"
import {boxOf, canStand, groupMatrix, inside, mapped, matrixOf, pathMatrix, peakOf, spotOf} from "./layers.js"
import {rampColour} from "./ramp.js"
import {itemOf} from "./stops.js"
import {chosenIds, chosenLayer, chosenPath, pathsSeen, shown, tellingRider} from "./store.js"
import {element} from "./svg.js"

/** @import {Layer, Path, Point, State, View} from "./types.js" */

const TINTS = 12
const TIE = 4, LONG_TIE = 8
/** So many frames are marked on a path at most, however long the ride. */
const MOST_TIES = 2000

/**
 * @param {SVGSVGElement} root
 * @param {import("./view.js").StageView} view
 * @returns {View & {redraw: () => void}}
 */
export function createOverlay(root, view) {
  const [rails, ties, marks, stops, chosen, draft] = ["rails", "ties", "marks", "stops", "chosen", "draft"].map(name => {
    const group = root.appendChild(element("g", {class: name}))
    if (name !== "rails") group.setAttribute("pointer-events", "none")
    return group
  })
  /** @type {State|null} */
  let last = null
  const words = /** @type {HTMLElement} */ (root.parentElement?.querySelector("[data-about]"))
  root.addEventListener("pointerover", event => {
    const over = /** @type {Element} */ (event.target).closest("[data-rail]")
    words.hidden = !over
    if (over) words.textContent = over.getAttribute("aria-label")
  })
  root.addEventListener("pointerleave", () => { words.hidden = true })

  /** @param {Path} path @param {boolean} full @param {Layer[]} riders */
  function rail(path, full, riders) {
    const [a, b, c, d, e, f] = Array.from(pathMatrix(path)), s = view.scale
    const place = `matrix(${a * s} ${b * s} ${c * s} ${d * s} ${e * s + view.left} ${f * s + view.top})`
    const common = {d: path.d, transform: place, "vector-effect": "non-scaling-stroke"}
    const quiet = full ? "" : " quiet"
    const group = element("g", {"data-rail": path.id, "aria-label": about(path, riders)})
    const under = element("path", {...common, class: "rail-under" + quiet})
    const line = element("path", {...common, class: "rail" + quiet})
    if (path.colour) {
      line.style.stroke = path.colour
      under.style.stroke = contrast(path.colour)
    }
    group.append(under, line, element("path", {...common, class: "rail-hit"}))
    return group
  }

  /** @param {State} state */
  function drawRails(state) {
    const scene = shown(state), full = chosenPath(state)
    const seen = state.prefs.rails ? pathsSeen(state) : []
    const quiet = seen.filter(path => path.id !== full?.id && path.visible)
    const riders = (/** @type {Path} */ path) => (scene?.layers ?? []).filter(layer => layer.ride?.path === path.id)
    rails.replaceChildren(
      ...quiet.map(path => rail(path, false, riders(path))),
      ...(full && state.prefs.rails ? [rail(full, true, riders(full))] : []),
    )
  }

  /** The map of a rider's rail to the scene's px. @param {State} state @param {Layer} rider */
  function railMatrix(state, rider) {
    const scene = shown(state), path = scene?.paths.find(each => each.id === rider.ride?.path)
    return groupMatrix(scene, path?.parent ?? null, state.frame) ?? [1, 0, 0, 1, 0, 0]
  }

  /** One bar across the path a frame, longer each tenth; one SVG path a tint. @param {State} state @param {Layer|undefined} rider */
  function drawTies(state, rider) {
    ties.replaceChildren()
    if (!rider?.ride) return
    const matrix = railMatrix(state, rider), turn = Math.atan2(matrix[1], matrix[0])
    const {rows, start, end} = rider.ride, peak = peakOf(rider.ride).speed
    const tints = Array.from({length: TINTS}, () => "")
    let all = ""
    for (const frame of rows.frames(start, end, MOST_TIES)) {
      const [along, down, heading, speed] = rows.at(frame)
      const [px, py] = mapped(matrix, [along, down])
      const x = view.x(px), y = view.y(py)
      const reach = frame % 10 ? TIE : LONG_TIE
      const across = (heading * Math.PI) / 180 + turn + Math.PI / 2
      const dx = reach * Math.cos(across), dy = reach * Math.sin(across)
      const bar = `M${(x - dx).toFixed(1)} ${(y - dy).toFixed(1)}L${(x + dx).toFixed(1)} ${(y + dy).toFixed(1)}`
      const tint = peak ? Math.min(Math.floor((speed / peak) * TINTS), TINTS - 1) : 0
      tints[tint] += bar
      all += bar
    }
    ties.append(element("path", {class: "tie-under", d: all}))
    tints.forEach((d, i) => {
      if (d) ties.append(element("path", {class: "tie", d, stroke: rampColour((i + 0.5) / TINTS)}))
    })
  }

  /** @param {State} state */
  function drawMarks(state) {
    const path = chosenPath(state)
    marks.replaceChildren()
    if (!path) return
    const box = frameBox(state, view)
    if (box) marks.append(...frame(box))
    marks.append(...marksOf(path, new Set(state.nodes), state.prefs, view))
  }

  /** The frame that scales and turns what is chosen: a corner at each end, a knob above. @param {[number, number, number, number]} box in bench px */
  function frame([x, y, w, h]) {
    const corners = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]]
    const squares = corners.map(([cx, cy]) => `M${cx - 3.5} ${cy - 3.5}h7v7h-7Z`).join("")
    const knob = `M${x + w / 2 - 4.5} ${y - 18}a4.5 4.5 0 1 1 9 0a4.5 4.5 0 1 1 -9 0Z`
    return [
      element("rect", {class: "span under", x, y, width: w, height: h}), element("rect", {class: "span", x, y, width: w, height: h}),
      element("path", {class: "span-knob", d: squares + knob}),
    ]
  }

  /** @param {State} state */
  function drawChosen(state) {
    chosen.replaceChildren()
    const layer = chosenLayer(state)
    if (!layer || state.playing) return
    const [a, b] = matrixOf(layer, state.frame)
    for (const each of framed(state)) {
      const points = cornersOf(each, state.frame).map(([px, py]) => `${view.x(px)},${view.y(py)}`).join(" ")
      chosen.append(element("polygon", {class: "chosen-box under", points}), element("polygon", {class: "chosen-box", points}))
    }
    const [px, py] = spotOf(layer, state.frame)
    const [cx, cy] = [view.x(px), view.y(py)]
    if (layer.ride) {
      // Where its front points: riders that look the same from all sides show it by this alone.
      const angle = Math.atan2(b, a), size = 26
      const tip = [cx + size * Math.cos(angle), cy + size * Math.sin(angle)]
      const barb = (/** @type {number} */ by) => `${tip[0] - 7 * Math.cos(angle + by)} ${tip[1] - 7 * Math.sin(angle + by)}`
      chosen.append(...twice("front", `M${cx} ${cy}L${tip[0]} ${tip[1]}M${barb(0.5)}L${tip[0]} ${tip[1]}L${barb(-0.5)}`))
      chosen.append(element("circle", {class: "rider-dot", cx, cy, r: 4.5}))
      if (layer.ride.spot) {
        const seen = mapped(groupMatrix(shown(state), layer.parent, state.frame) ?? [1, 0, 0, 1, 0, 0], layer.ride.spot)
        const [sx, sy] = [view.x(seen[0]), view.y(seen[1])]
        chosen.append(...twice("spot", `M${sx - 9} ${sy}a9 9 0 1 1 18 0a9 9 0 1 1 -18 0ZM${sx - 13} ${sy}H${sx + 13}M${sx} ${sy - 13}V${sy + 13}`))
      }
    }
  }

  /** The pegs of the told rider where they stand, and the way of a layer that keys place. @param {State} state */
  function drawStops(state) {
    stops.replaceChildren()
    const rider = tellingRider(state), layer = chosenLayer(state)
    const picked = new Set(state.picked)
    for (const peg of rider?.ride?.pegs ?? []) {
      if (!rider || !picked.has(itemOf(rider.id, "peg", peg.id))) continue
      const [px, py] = mapped(railMatrix(state, rider), peg.at)
      const [x, y] = [view.x(px), view.y(py)], r = 8
      stops.append(...twice("peg-ring", `M${x - r} ${y}a${r} ${r} 0 1 1 ${2 * r} 0a${r} ${r} 0 1 1 ${-2 * r} 0Z`))
    }
    if (!layer || layer.ride || !layer.placed || !layer.spots) return
    let d = ""
    for (const frame of layer.spots.frames(0, Infinity, MOST_TIES)) {
      const [px, py] = layer.spots.at(frame)
      d += `${d ? "L" : "M"}${view.x(px).toFixed(1)} ${view.y(py).toFixed(1)}`
    }
    stops.append(...twice("trail", d))
    const dots = [...keyedPlaces(layer).values()].map(([px, py]) => `M${view.x(px) - 4} ${view.y(py)}a4 4 0 1 1 8 0a4 4 0 1 1 -8 0Z`).join("")
    stops.append(element("path", {class: "node", d: dots}))
  }

  /** @param {State} state */
  function drawDraft({draft: shows, guides, prefs}) {
    draft.replaceChildren()
    for (const {x, y, line} of guides) {
      const ends = line ? line.map(([px, py]) => [view.x(px), view.y(py)])
        : x === undefined ? [[0, view.y(y ?? 0)], [view.width, view.y(y ?? 0)]] : [[view.x(x), 0], [view.x(x), view.height]]
      draft.append(...twice("guide", `M${ends[0].join(" ")}L${ends[1].join(" ")}`))
    }
    if (!shows) return
    if (shows.d) {
      const place = `matrix(${view.scale} 0 0 ${view.scale} ${view.left} ${view.top})`
      for (const name of ["next under", "next"])
        draft.append(element("path", {class: name, d: shows.d, transform: place, "vector-effect": "non-scaling-stroke"}))
    }
    const at = (/** @type {Point} */ [x, y]) => `${view.x(x)} ${view.y(y)}`
    const circle = (/** @type {Point} */ point, /** @type {number} */ r) =>
      `M${view.x(point[0]) - r} ${view.y(point[1])}a${r} ${r} 0 1 1 ${2 * r} 0a${r} ${r} 0 1 1 ${-2 * r} 0Z`
    const r = prefs.nodeSize
    if (shows.stems?.length) {
      draft.append(...twice("stem", shows.stems.map(([a, b]) => `M${at(a)}L${at(b)}`).join("")))
      draft.append(element("path", {class: "knob", d: shows.stems.map(([, b]) => circle(b, r * 0.9)).join("")}))
    }
    if (shows.dots?.length) draft.append(element("path", {class: "node picked", d: shows.dots.map(p => circle(p, r)).join("")}))
    if (shows.ring) draft.append(...twice("closing", circle(shows.ring, r * 2.4)))
    if (shows.plus) {
      const [x, y] = [view.x(shows.plus[0]), view.y(shows.plus[1])]
      draft.append(element("path", {class: "node", d: circle(shows.plus, r * 1.5)}), element("path", {class: "node-stroke", d: `M${x - r} ${y}H${x + r}M${x} ${y - r}V${y + r}`}))
    }
    if (shows.band) {
      const [[x0, y0], [x1, y1]] = shows.band
      const box = {x: view.x(Math.min(x0, x1)), y: view.y(Math.min(y0, y1)), width: Math.abs(x1 - x0) * view.scale, height: Math.abs(y1 - y0) * view.scale}
      draft.append(element("rect", {class: "band", ...box}))
    }
  }

  function redraw() {
    if (!last) return
    drawRails(last)
    drawTies(last, last.prefs.rails ? tellingRider(last) : undefined)
    if (last.prefs.rails) drawMarks(last)
    else marks.replaceChildren()
    drawStops(last)
    drawChosen(last)
    drawDraft(last)
  }

  const pinned = /** @type {HTMLElement} */ (root.parentElement?.querySelector("[data-pinned]"))
  const pinnedWords = /** @type {HTMLElement} */ (pinned.querySelector("[data-pinned-words]"))

  /** While Pin is on the stage says so, and what a drag would do. @param {State} state */
  function drawPinned(state) {
    const layer = chosenLayer(state), fps = shown(state)?.settings.fps ?? 1
    pinned.hidden = !state.pin
    root.parentElement?.classList.toggle("pinning", state.pin)
    pinnedWords.textContent = `Pin is on: drag ${layer && canStand(layer) ? layer.name : "a layer"} to place it at ${(state.frame / fps).toFixed(2)} s`
  }

  return {
    redraw,
    update({state, previous}) {
      const scene = shown(state)
      last = state
      if (!scene) return
      if (state.pin !== previous.pin || (state.pin && (state.frame !== previous.frame || state.chosen !== previous.chosen))) drawPinned(state)
      const carried = state.frame !== previous.frame && scene.paths.some(path => path.parent)
      if (scene !== shown(previous) || state.arrived !== previous.arrived || state.chosen !== previous.chosen || state.prefs !== previous.prefs || carried) redraw()
      else {
        if (state.playing !== previous.playing || (state.frame !== previous.frame && !state.playing)) drawChosen(state)
        if (state.nodes !== previous.nodes && state.prefs.rails) drawMarks(state)
        if (state.picked !== previous.picked) drawStops(state)
        if (state.draft !== previous.draft || state.guides !== previous.guides) drawDraft(state)
      }
    },
  }
}

/** The layers to be framed: those that are chosen; of a group what lies in it. @param {State} state @returns {Layer[]} */
function framed(state) {
  const scene = shown(state)
  if (!scene) return []
  const chosen = scene.layers.filter(layer => chosenIds(state).includes(layer.id))
  return chosen.flatMap(layer => (layer.can.hold ? inside(scene, layer.id).filter(each => !each.can.hold) : [layer]))
}

/** The corners of a layer's box in scene px. @param {Layer} layer @param {number} frame @returns {Point[]} */
function cornersOf(layer, frame) {
  const [x, y, w, h] = boxOf(layer, frame), matrix = matrixOf(layer, frame)
  const corners = /** @type {Point[]} */ ([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])
  return corners.map(corner => mapped(matrix, corner))
}

/** A line under and over, so that it reads on any ground. @param {string} name @param {string} d */
const twice = (name, d) => [element("path", {class: `${name} under`, d}), element("path", {class: name, d})]

/** @param {Path} path @param {Layer[]} riders */
function about(path, riders) {
  const ridden = riders.length ? `, ridden by ${riders.map(rider => rider.name).join(", ")}` : ""
  return `${path.name}: ${Math.round(path.length)} px, ${path.ids.length} nodes${ridden}${path.locked ? ", locked" : ""}`
}

/** White or ink, whichever stands off a colour. @param {string} colour #rrggbb */
function contrast(colour) {
  const [r, g, b] = [1, 3, 5].map(i => parseInt(colour.slice(i, i + 2), 16))
  return 0.299 * r + 0.587 * g + 0.114 * b > 150 ? "#16222e" : "#ffffffe0"
}
