/** What lies over the picture while working: rails, ties, nodes, the start, the chosen thing. */

import {matrixOf} from "./picture.js"
import {COLUMNS} from "./protocol.js"
import {rampColour} from "./ramp.js"
import {chosenLayer, chosenPath, shown, tellingRider} from "./store.js"

/** @import {Layer, Path, State, View} from "./types.js" */

const TINTS = 12
const TIE = 4, LONG_TIE = 8
const SVG = "http://www.w3.org/2000/svg"

/** @param {string} name @param {Record<string, string|number>} attributes @returns {SVGElement} */
export function element(name, attributes) {
  const made = /** @type {SVGElement} */ (document.createElementNS(SVG, name))
  for (const key in attributes) made.setAttribute(key, String(attributes[key]))
  return made
}

/**
 * @param {SVGSVGElement} root
 * @param {import("./view.js").StageView} view
 * @returns {View & {redraw: () => void}}
 */
export function createOverlay(root, view) {
  const layers = ["rails", "ties", "marks", "chosen"].map(name => root.appendChild(element("g", {class: name})))
  const [rails, ties, marks, chosen] = layers
  marks.setAttribute("pointer-events", "none")
  ties.setAttribute("pointer-events", "none")
  chosen.setAttribute("pointer-events", "none")
  /** @type {State|null} */
  let last = null

  /** @param {Path} path @param {boolean} full */
  function rail(path, full) {
    const place = `matrix(${view.scale} 0 0 ${view.scale} ${view.left} ${view.top})`
    const common = {d: path.d, transform: place, "vector-effect": "non-scaling-stroke"}
    const quiet = full ? "" : " quiet"
    const group = element("g", {"data-rail": path.id})
    group.append(
      element("path", {...common, class: "rail-under" + quiet}),
      element("path", {...common, class: "rail" + quiet}),
      element("path", {...common, class: "rail-hit"}),
    )
    const title = element("title", {})
    title.textContent = `${path.name}: ${Math.round(path.length)} px, ${path.nodes.length} nodes`
    group.append(title)
    return group
  }

  /** @param {State} state */
  function drawRails(state) {
    const scene = shown(state), full = chosenPath(state)
    const quiet = (scene?.paths ?? []).filter(path => path !== full && path.visible)
    rails.replaceChildren(...quiet.map(path => rail(path, false)), ...(full ? [rail(full, true)] : []))
  }

  /** One bar across the path a frame, longer each tenth; one SVG path a tint. @param {Layer|undefined} rider */
  function drawTies(rider) {
    ties.replaceChildren()
    if (!rider?.ride) return
    const {rows, start, end, peak} = rider.ride
    const first = Math.max(Math.ceil(start), 0), last = Math.min(Math.floor(end), rows.length / COLUMNS - 1)
    const tints = Array.from({length: TINTS}, () => "")
    let all = ""
    for (let frame = first; frame <= last; frame++) {
      const at = frame * COLUMNS
      const x = view.x(rows[at]), y = view.y(rows[at + 1])
      const reach = frame % 10 ? TIE : LONG_TIE
      const across = (rows[at + 2] * Math.PI) / 180 + Math.PI / 2
      const dx = reach * Math.cos(across), dy = reach * Math.sin(across)
      const bar = `M${(x - dx).toFixed(1)} ${(y - dy).toFixed(1)}L${(x + dx).toFixed(1)} ${(y + dy).toFixed(1)}`
      const tint = peak.speed ? Math.min(Math.floor((rows[at + 3] / peak.speed) * TINTS), TINTS - 1) : 0
      tints[tint] += bar
      all += bar
    }
    ties.append(element("path", {class: "tie-under", d: all}))
    tints.forEach((d, i) => {
      if (d) ties.append(element("path", {class: "tie", d, stroke: rampColour((i + 0.5) / TINTS)}))
    })
  }

  /** @param {Path|undefined} path */
  function drawMarks(path) {
    marks.replaceChildren()
    if (!path) return
    for (const [x, y, kind] of path.nodes) marks.append(node(view.x(x), view.y(y), kind))
    const [x, y, angle] = path.start
    const place = `translate(${view.x(x)} ${view.y(y)}) rotate(${angle})`
    for (const [stroke, width] of [["#16222e", 5], ["#fff", 2.4]])
      marks.append(element("path", {class: "chevron", d: "M7 -7L14 0L7 7", transform: place, stroke, "stroke-width": width}))
  }

  /** A corner is a square, any other node is round. @param {number} x @param {number} y @param {string} kind */
  function node(x, y, kind) {
    return kind === "corner"
      ? element("rect", {class: "node", x: x - 3.6, y: y - 3.6, width: 7.2, height: 7.2, rx: 1})
      : element("circle", {class: "node", cx: x, cy: y, r: 4})
  }

  /** @param {State} state */
  function drawChosen(state) {
    chosen.replaceChildren()
    const layer = chosenLayer(state)
    if (!layer || state.playing) return
    const [a, b, c, d, e, f] = matrixOf(layer, state.frame)
    const [x, y, w, h] = layer.drawable.box
    const corners = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]]
    const points = corners.map(([px, py]) => `${view.x(a * px + c * py + e)},${view.y(b * px + d * py + f)}`).join(" ")
    chosen.append(element("polygon", {class: "chosen-box under", points}), element("polygon", {class: "chosen-box", points}))
    if (!layer.ride) return
    const at = state.frame * COLUMNS
    const {rows} = layer.ride
    chosen.append(element("circle", {class: "rider-dot", cx: view.x(rows[at]), cy: view.y(rows[at + 1]), r: 4.5}))
  }

  function redraw() {
    if (!last) return
    drawRails(last)
    drawTies(tellingRider(last))
    drawMarks(chosenPath(last))
    drawChosen(last)
  }

  return {
    redraw,
    update({state, previous}) {
      const scene = shown(state)
      last = state
      if (!scene) return
      if (scene !== shown(previous) || state.chosen !== previous.chosen) redraw()
      else if (state.playing !== previous.playing || (state.frame !== previous.frame && !state.playing)) drawChosen(state)
    },
  }
}
