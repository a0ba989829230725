/** How nodes and handles are drawn: what a node is shows in its shape, not in its colour alone. */

import {NODE} from "./protocol.js"
import {element} from "./svg.js"

/** @import {Path, Prefs} from "./types.js" */

/** @param {number} value */
const px = value => value.toFixed(1)

/** @type {Record<string, (x: number, y: number, r: number) => string>} */
const SHAPES = {
  c: square, b: square,
  s: disc, e: (x, y, r) => disc(x, y, r) + disc(x, y, r * 0.3),
  a: (x, y, r) => `M${px(x)} ${px(y - r * 1.35)}L${px(x + r * 1.35)} ${px(y)}L${px(x)} ${px(y + r * 1.35)}L${px(x - r * 1.35)} ${px(y)}Z`,
}

/** @param {number} x @param {number} y @param {number} r */
function square(x, y, r) {
  const h = r * 0.9
  return `M${px(x - h)} ${px(y - h)}h${px(2 * h)}v${px(2 * h)}h${px(-2 * h)}Z`
}

/** @param {number} x @param {number} y @param {number} r */
function disc(x, y, r) {
  return `M${px(x - r)} ${px(y)}a${px(r)} ${px(r)} 0 1 1 ${px(2 * r)} 0a${px(r)} ${px(r)} 0 1 1 ${px(-2 * r)} 0Z`
}

/** Which nodes show their handles. @param {Path} path @param {ReadonlySet<string>} chosen @param {Prefs} prefs */
export function handled(path, chosen, prefs) {
  if (prefs.handles === "none") return []
  return path.ids.flatMap((id, i) => (prefs.handles === "all" || chosen.has(id) ? [i] : []))
}

/**
 * The places of a node's handles that are not on it: [side, x, y] in scene px.
 * @param {Path} path @param {number} index @returns {["in"|"out", number, number][]}
 */
export function handlesOf(path, index) {
  const at = index * NODE
  const [x, y, ix, iy, ox, oy] = path.nodes.subarray(at, at + NODE)
  /** @type {["in"|"out", number, number][]} */
  const found = []
  if (ix || iy) found.push(["in", x + ix, y + iy])
  if (ox || oy) found.push(["out", x + ox, y + oy])
  return found
}

/**
 * The marks of a path's nodes and handles; many nodes are drawn as a few shapes.
 * @param {Path} path @param {ReadonlySet<string>} chosen @param {Prefs} prefs @param {import("./pane.js").Pane} view
 * @returns {SVGElement[]}
 */
export function marksOf(path, chosen, prefs, view) {
  const r = prefs.nodeSize
  let plain = "", picked = "", strokes = "", resting = "", stems = "", knobs = ""
  path.ids.forEach((id, i) => {
    const x = view.x(path.nodes[i * NODE]), y = view.y(path.nodes[i * NODE + 1])
    if (x < -20 || y < -20 || x > view.width + 20 || y > view.height + 20) return
    const mark = path.marks[i], size = chosen.has(id) ? r * 1.25 : r
    if (mark.includes("d")) resting += disc(x, y, size) + `M${px(x - size)} ${px(y - size)}L${px(x + size)} ${px(y + size)}`
    else {
      const shape = SHAPES[mark[0]](x, y, size)
      if (chosen.has(id)) picked += shape
      else plain += shape
    }
    if (mark.includes("l")) strokes += `M${px(x - 2.4 * r)} ${px(y)}H${px(x + 2.4 * r)}`
    if (mark.includes("k")) strokes += `M${px(x - r)} ${px(y + 1.7 * r)}L${px(x)} ${px(y + 2.8 * r)}L${px(x + r)} ${px(y + 1.7 * r)}`
  })
  for (const i of handled(path, chosen, prefs)) {
    const x = view.x(path.nodes[i * NODE]), y = view.y(path.nodes[i * NODE + 1])
    for (const [, hx, hy] of handlesOf(path, i)) {
      stems += `M${px(x)} ${px(y)}L${px(view.x(hx))} ${px(view.y(hy))}`
      knobs += disc(view.x(hx), view.y(hy), r * 0.9)
    }
  }
  return [...ends(path, r, view), ...[
    ["stem-under", stems], ["stem", stems], ["knob", knobs], ["node-under", strokes], ["node-stroke", strokes],
    ["node resting", resting], ["node", plain], ["node picked", picked],
  ].filter(([, d]) => d).map(([name, d]) => element("path", {class: name, d}))]
}

/**
 * The start is a chevron in the way of travel, the end of an open run a ring.
 * @param {Path} path @param {number} r @param {import("./pane.js").Pane} view
 */
function ends(path, r, view) {
  let rings = "", first = 0
  for (const [count, closed] of path.runs) {
    const last = (first + count - 1) * NODE
    if (!closed) rings += disc(view.x(path.nodes[last]), view.y(path.nodes[last + 1]), r * 2)
    first += count
  }
  const [x, y, angle] = path.start
  const d = chevron(view.x(x), view.y(y), (angle * Math.PI) / 180)
  const chevrons = [["#16222e", 5], ["#fff", 2.4]].map(([stroke, width]) =>
    element("path", {class: "chevron", d, stroke, "stroke-width": width}))
  return [...(rings ? [element("path", {class: "end-ring under", d: rings}), element("path", {class: "end-ring", d: rings})] : []), ...chevrons]
}

/**
 * A corner that points ahead. Its points are turned, not the shape: a new ``transform`` has the page put its layers
 * together anew.
 * @param {number} x @param {number} y @param {number} angle radians
 */
function chevron(x, y, angle) {
  const cos = Math.cos(angle), sin = Math.sin(angle)
  const points = [[7, -7], [14, 0], [7, 7]].map(([a, b]) => `${px(x + a * cos - b * sin)} ${px(y + a * sin + b * cos)}`)
  return `M${points.join("L")}`
}
