/** The frame round a chosen layer: where its handles are on the bench, and which of them is under the pointer. */

import {boxOf, groupMatrix, groupsOf, inside, mapped, matrixOf, spotOf} from "./layers.js"
import {chosenIds, chosenLayer, shown} from "./store.js"

/** @import {At, Layer, Point, State} from "./types.js" */

/** Px of the bench: how far the handles are off the box, how far the knob is, and how near is near. */
const OFF = 6, KNOB = 20, NEAR = 8
/** A box that is smaller than this on the bench has no handles in the middle of its sides, or none at all. */
const SMALL = 34, TINY = 12
/** @type {[part: string, across: number, down: number][]} */
const PARTS = [["nw", -1, -1], ["n", 0, -1], ["ne", 1, -1], ["e", 1, 0], ["se", 1, 1], ["s", 0, 1], ["sw", -1, 1], ["w", -1, 0]]
const CURSORS = ["ew-resize", "nwse-resize", "ns-resize", "nesw-resize"]

/** @typedef {{part: string, x: number, y: number}} Handle in px of the bench */
/** @typedef {{corners: Point[], handles: Handle[], anchor: Point}} Frame in px of the bench, the corners clockwise */

/**
 * The frame of the one layer that is chosen, where there is one to be dragged.
 * @param {State} state @param {import("./view.js").StageView} view @returns {Frame|null}
 */
export function layerFrame(state, view) {
  const layer = chosenLayer(state), scene = shown(state)
  if (!layer || !scene || chosenIds(state).length > 1 || state.playing || !layer.can.stand) return null
  if (!layer.seen || [layer, ...groupsOf(scene, layer)].some(each => each.locked)) return null
  const found = layer.can.hold ? cornersOfGroup(state, layer) : cornersOf(layer, state.frame)
  const corners = found.map(([x, y]) => /** @type {Point} */ ([view.x(x), view.y(y)]))
  const [x, y] = spotOf(layer, state.frame)
  return corners.length ? {corners, handles: handlesOf(corners), anchor: [view.x(x), view.y(y)]} : null
}

/** The corners of a layer's box in scene px. @param {Layer} layer @param {number} frame @returns {Point[]} */
export function cornersOf(layer, frame) {
  const [x, y, w, h] = boxOf(layer, frame), matrix = matrixOf(layer, frame)
  const corners = /** @type {Point[]} */ ([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])
  return corners.map(corner => mapped(matrix, corner))
}

/** Round all that lies in a group, turned as it is. @param {State} state @param {Layer} group @returns {Point[]} */
function cornersOfGroup(state, group) {
  const scene = shown(state), matrix = groupMatrix(scene, group.id, state.frame)
  if (!scene || !matrix) return []
  const [a, b, c, d, e, f] = Array.from(matrix), back = new DOMMatrix([a, b, c, d, e, f]).inverse()
  const members = inside(scene, group.id).filter(each => !each.can.hold && each.seen)
  const points = members.flatMap(each => cornersOf(each, state.frame)).map(([x, y]) => back.transformPoint({x, y}))
  if (!points.length) return []
  const xs = points.map(point => point.x), ys = points.map(point => point.y)
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const corners = /** @type {Point[]} */ ([[left, top], [right, top], [right, bottom], [left, bottom]])
  return corners.map(corner => mapped(matrix, corner))
}

/** @param {Point[]} corners @returns {Handle[]} */
function handlesOf([nw, ne, se, sw]) {
  const across = away(nw, ne), down = away(nw, sw)
  if (Math.max(across, down) < TINY) return []
  const ux = unit(nw, ne), uy = unit(nw, sw)
  const found = PARTS.filter(([, x, y]) => (x || across >= SMALL) && (y || down >= SMALL)).map(([part, x, y]) => {
    const on = between(between(nw, ne, (1 + x) / 2), between(sw, se, (1 + x) / 2), (1 + y) / 2)
    return {part, x: on[0] + OFF * (x * ux[0] + y * uy[0]), y: on[1] + OFF * (x * ux[1] + y * uy[1])}
  })
  const top = between(nw, ne, 0.5)
  return [...found, {part: "knob", x: top[0] - (OFF + KNOB) * uy[0], y: top[1] - (OFF + KNOB) * uy[1]}]
}

/** @param {Point} a @param {Point} b */
const away = (a, b) => Math.hypot(b[0] - a[0], b[1] - a[1])
/** @param {Point} a @param {Point} b @param {number} share @returns {Point} */
const between = (a, b, share) => [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share]
/** @param {Point} a @param {Point} b @returns {Point} */
function unit(a, b) {
  const length = away(a, b) || 1
  return [(b[0] - a[0]) / length, (b[1] - a[1]) / length]
}

/**
 * The handle under the pointer; with Alt the anchor is one.
 * @param {State} state @param {import("./view.js").StageView} view @param {At} at @returns {Handle|null}
 */
export function handleOfFrame(state, view, {point, event}) {
  const frame = layerFrame(state, view)
  if (!frame) return null
  const x = view.x(point[0]), y = view.y(point[1]), [ax, ay] = frame.anchor
  if (event.altKey && Math.hypot(ax - x, ay - y) < NEAR) return {part: "anchor", x: ax, y: ay}
  const offs = frame.handles.map(handle => Math.hypot(handle.x - x, handle.y - y)), least = Math.min(...offs)
  return least < NEAR ? frame.handles[offs.indexOf(least)] : null
}

/** @param {State} state @param {import("./view.js").StageView} view @param {Handle} handle */
export function cursorOf(state, view, {part, x, y}) {
  if (part === "knob") return "grab"
  const corners = part === "anchor" ? null : layerFrame(state, view)?.corners
  if (!corners) return "move"
  const [cx, cy] = between(corners[0], corners[2], 0.5)
  const eighth = Math.round((Math.atan2(y - cy, x - cx) / Math.PI) * 4)
  return CURSORS[((eighth % 4) + 4) % 4]
}
