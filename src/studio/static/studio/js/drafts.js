/** What a tool shows before there is anything to keep, and the lines that something snapped to. */

import {around, element, twice} from "./svg.js"

/** @import {Draft, Guide, Point, State} from "./types.js" */

/** @param {State} state @param {import("./pane.js").Pane} view @returns {SVGElement[]} */
export const draftOf = ({draft, guides, prefs}, view) => [
  ...guides.flatMap(guide => guideLine(guide, view)),
  ...(draft ? shapesOf(draft, prefs.nodeSize, view) : []),
]

/** @param {Guide} guide @param {import("./pane.js").Pane} view */
function guideLine({x, y, line}, view) {
  if (line) return twice("guide", `M${line.map(point => placed(point, view)).join("L")}`)
  return twice("guide", x === undefined ? `M0 ${view.y(y ?? 0)}H${view.width}` : `M${view.x(x)} 0V${view.height}`)
}

/** @param {Point} point @param {import("./pane.js").Pane} view */
const placed = ([x, y], view) => `${view.x(x)} ${view.y(y)}`

/**
 * @param {Draft} draft @param {number} r of a node @param {import("./pane.js").Pane} view
 * @returns {SVGElement[]}
 */
function shapesOf({d, stems, dots, ring, plus, band}, r, view) {
  const circle = (/** @type {Point} */ [x, y], /** @type {number} */ radius) => around(view.x(x), view.y(y), radius)
  const found = []
  if (d) found.push(...courseOf(d, view))
  if (stems?.length) {
    found.push(...twice("stem", stems.map(([a, b]) => `M${placed(a, view)}L${placed(b, view)}`).join("")))
    found.push(element("path", {class: "knob", d: stems.map(([, b]) => circle(b, r * 0.9)).join("")}))
  }
  if (dots?.length) found.push(element("path", {class: "node picked", d: dots.map(dot => circle(dot, r)).join("")}))
  if (ring) found.push(...twice("closing", circle(ring, r * 2.4)))
  if (plus) found.push(...plusAt(view.x(plus[0]), view.y(plus[1]), r))
  if (band) found.push(bandOf(band, view))
  return found
}

/** A path that is not there yet. @param {string} d in scene px @param {import("./pane.js").Pane} view */
function courseOf(d, view) {
  const transform = `matrix(${view.scale} 0 0 ${view.scale} ${view.left} ${view.top})`
  return ["next under", "next"].map(name => element("path", {class: name, d, transform, "vector-effect": "non-scaling-stroke"}))
}

/** Where a node would be put in. @param {number} x @param {number} y @param {number} r */
const plusAt = (x, y, r) => [
  element("path", {class: "node", d: around(x, y, r * 1.5)}),
  element("path", {class: "node-stroke", d: `M${x - r} ${y}H${x + r}M${x} ${y - r}V${y + r}`}),
]

/** @param {[Point, Point]} band @param {import("./pane.js").Pane} view */
function bandOf([[x0, y0], [x1, y1]], view) {
  const width = Math.abs(x1 - x0) * view.scale, height = Math.abs(y1 - y0) * view.scale
  return element("rect", {class: "band", x: view.x(Math.min(x0, x1)), y: view.y(Math.min(y0, y1)), width, height})
}
