/** The frame round a chosen layer: where its handles are on the bench, and which of them is under the pointer. */

import {boxOf, groupMatrix, groupsOf, inside, matrixOf, outlinesOf, spotOf} from "./layers.js"
import {inverse, mapped} from "./matrices.js"
import {chosenIds, chosenLayer, shown} from "./store.js"

/** @import {At, Layer, Point, State} from "./types.js" */

/** Px of the bench by which a gradient's stops lie beside its line. */
const BESIDE = 14
/** Px of the bench: how far the handles are off the box, how far the knob is, and how near is near. */
const OFF = 6, KNOB = 20, NEAR = 8
/** A box that is smaller than this on the bench has no handles in the middle of its sides, or none at all. */
const SMALL = 34, TINY = 12
/** A side that is shorter has no room for what rounds the corners, which is so far off them at least. */
const ROOMY = 60, LEAST_IN = 14
/** @type {[part: string, across: number, down: number][]} */
const PARTS = [["nw", -1, -1], ["n", 0, -1], ["ne", 1, -1], ["e", 1, 0], ["se", 1, 1], ["s", 0, 1], ["sw", -1, 1], ["w", -1, 0]]
const CURSORS = ["ew-resize", "nwse-resize", "ns-resize", "nesw-resize"]

/** @typedef {{part: string, x: number, y: number}} Handle in px of the bench */
/** @typedef {{corners: Point[], handles: Handle[], anchor: Point}} Frame in px of the bench, the corners clockwise */

/**
 * The frame of the one layer that is chosen, where there is one to be dragged.
 * @param {State} state @param {import("./pane.js").Pane} view @returns {Frame|null}
 */
export function layerFrame(state, view) {
  const layer = chosenLayer(state), scene = shown(state)
  if (!layer || !scene || scene.side || chosenIds(state).length > 1 || state.playing || !layer.can.stand) return null
  // What rides in parts lies nowhere as a whole.
  if (!layer.seen || layer.inParts || [layer, ...groupsOf(scene, layer)].some(each => each.locked)) return null
  const found = layer.can.hold ? cornersOfGroup(state, layer) : cornersOf(layer, state.frame)
  const corners = found.map(([x, y]) => /** @type {Point} */ ([view.x(x), view.y(y)]))
  const [x, y] = spotOf(layer, state.frame)
  const handles = [...handlesOf(corners), ...cornerKnob(layer, corners)]
  return corners.length ? {corners, handles, anchor: [view.x(x), view.y(y)]} : null
}

/** What rounds a rectangle's corners, on the middle of the first one's circle. @param {Layer} layer @param {Point[]} corners @returns {Handle[]} */
function cornerKnob(layer, [nw, ne, se, sw]) {
  if (layer.radius === null || !nw) return []
  const [, , width, height] = layer.faces.list[0].box, most = Math.min(width, height) / 2
  if (Math.min(away(nw, ne), away(nw, sw)) < ROOMY) return []
  // Where there is no rounding yet it is off the corner, to be taken hold of.
  const least = (LEAST_IN / Math.max(away(nw, ne), 1)) * width, inward = Math.max(Math.min(layer.radius, most), Math.min(least, most))
  const on = between(between(nw, ne, inward / width), between(sw, se, inward / width), inward / height)
  return [{part: "radius", x: on[0], y: on[1]}]
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
  const back = inverse(matrix)
  const members = inside(scene, group.id).filter(each => !each.can.hold && each.seen)
  const points = members.flatMap(each => cornersOf(each, state.frame)).map(corner => mapped(back, corner))
  if (!points.length) return []
  const xs = points.map(([x]) => x), ys = points.map(([, y]) => y)
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
 * @param {State} state @param {import("./pane.js").Pane} view @param {At} at @returns {Handle|null}
 */
export function handleOfFrame(state, view, {point, event}) {
  const frame = layerFrame(state, view), x = view.x(point[0]), y = view.y(point[1])
  const ramp = nearest(rampOf(state, view)?.handles ?? [], x, y)
  if (ramp || !frame) return ramp
  const [ax, ay] = frame.anchor
  if (event.altKey && Math.hypot(ax - x, ay - y) < NEAR) return {part: "anchor", x: ax, y: ay}
  return nearest(frame.handles, x, y)
}

/** @param {Handle[]} handles @param {number} x @param {number} y @returns {Handle|null} */
function nearest(handles, x, y) {
  const offs = handles.map(handle => Math.hypot(handle.x - x, handle.y - y)), least = Math.min(...offs)
  return least < NEAR ? handles[offs.indexOf(least)] : null
}

/**
 * Where the gradient of the one chosen layer lies: its ends, and its stops a little beside the line between them.
 * @param {State} state @param {import("./pane.js").Pane} view
 * @returns {{line: [Point, Point], handles: Handle[], colours: string[]}|null}
 */
export function rampOf(state, view) {
  const layer = chosenLayer(state)
  if (!layer || shown(state)?.side || chosenIds(state).length > 1 || state.playing || !layer.seen) return null
  const ramp = outlinesOf(layer, state.frame)[0]?.fill
  if (!ramp || typeof ramp === "string") return null
  const matrix = matrixOf(layer, state.frame)
  const [start, end] = [ramp.start, ramp.end].map(spot => mapped(matrix, spot)).map(([x, y]) => /** @type {Point} */ ([view.x(x), view.y(y)]))
  const [ux, uy] = unit(start, end)
  const stops = ramp.offsets.map((at, i) => {
    const [x, y] = between(start, end, at)
    return {part: `ramp-${i + 1}`, x: x - uy * BESIDE, y: y + ux * BESIDE}
  })
  const ends = [{part: "ramp-start", x: start[0], y: start[1]}, {part: "ramp-end", x: end[0], y: end[1]}]
  return {line: [start, end], handles: [...ends, ...stops], colours: ramp.colours}
}

/** @param {State} state @param {import("./pane.js").Pane} view @param {Handle} handle */
export function cursorOf(state, view, {part, x, y}) {
  if (part === "knob" || part === "radius") return "grab"
  const corners = part === "anchor" || part.startsWith("ramp") ? null : layerFrame(state, view)?.corners
  if (!corners) return "move"
  const [cx, cy] = between(corners[0], corners[2], 0.5)
  const eighth = Math.round((Math.atan2(y - cy, x - cx) / Math.PI) * 4)
  return CURSORS[((eighth % 4) + 4) % 4]
}
