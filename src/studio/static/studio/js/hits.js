/** What lies under the pointer: layers, nodes, handles, the corners of a frame. */

import {handled, handlesOf} from "./marks.js"
import {path2dOf} from "./figures.js"
import {copiesOf, mirrorSteps} from "./insets.js"
import {cornersOf} from "./layerframe.js"
import {inverse, isBefore, mapped} from "./matrices.js"
import {countBeside, crowdAt, faceOf, groupsOf, isShownAlone, layerOf, matrixOf, opacityOf, outlinesOf, placeOf, spotOf} from "./layers.js"
import {layerBy} from "./plan.js"
import {NODE} from "./protocol.js"
import {chosenPath, shown} from "./store.js"

/** @import {At, Layer, Path, Point, StageScene, State} from "./types.js" */

/** @type {CanvasRenderingContext2D|null} */
let canvas = null
/** What asks whether a point lies in an outline; made when it is first asked. */
const probing = () => (canvas ??= /** @type {CanvasRenderingContext2D} */ (document.createElement("canvas").getContext("2d")))
const ROOM = 12

/** Whether a point lies on a layer. @param {Layer} layer @param {number} frame @param {Point} point scene px @param {Float32Array} [matrix] */
export function hits(layer, frame, point, matrix = matrixOf(layer, frame)) {
  const back = inverse(matrix), [x, y] = mapped(back, point)
  if (!isBefore(back, point)) return false
  const {box: [left, top, width, height], picture} = faceOf(layer, frame)
  if (layer.pickedBy === "box" || picture) return x >= left && x <= left + width && y >= top && y <= top + height
  const probe = probing()
  return outlinesOf(layer, frame).some(outline => {
    const path = path2dOf(outline.figure)
    if (outline.fill && probe.isPointInPath(path, x, y)) return true
    probe.lineWidth = Math.max(outline.width, 8)
    return Boolean(outline.stroke) && probe.isPointInStroke(path, x, y)
  })
}

/**
 * The frontmost layer there that may be picked; the ground behind everything comes last.
 * @param {State} state @param {Point} point @param {number} [near] how near is near, px of the scene
 */
export function layerAt(state, point, near = 0) {
  const scene = shown(state), held = layerOf(scene, state.chosen?.id ?? null)
  if (scene?.side) return onPlan(state, scene, point, near)
  // What others are seen by is taken hold of by its mark, while it is chosen.
  if (held && (held.can.view || held.can.light) && isNear(held, state.frame, point, near)) return held
  // What is left behind begins where its layer is, which is not seen itself: that is taken hold of while it is chosen.
  if (scene && held && countBeside(held) && opacityOf(held, state.frame) === 0 && !isLocked(scene, held) && hits(held, state.frame, point)) return held
  // The copies of a group are cut out by masks of their own.
  const shows = (/** @type {Layer} */ layer) => [...(layer.can.hold ? [] : [layer]), ...groupsOf(scene, layer)].every(each => isUncovered(each, state.frame, point))
  const found = (scene?.layers ?? []).filter(layer => scene && layer.seen && isShownAlone(scene, layer, state.solo) && (!layer.stencil || layer.id === state.chosen?.id) && !isLocked(scene, layer) && isOn(layer, state.frame, point) && shows(layer))
  const layer = found.findLast(each => !each.ground) ?? found.at(-1)
  return layer && scene ? enterable(scene, layer, state.inside) : undefined
}

/** The layer, or the group one is not in, whose outline is nearest where a scene is drawn from a side. @param {State} state @param {StageScene} scene @param {Point} point @param {number} near */
function onPlan(state, scene, point, near) {
  const layer = layerBy({...scene, layers: scene.layers.filter(each => !isLocked(scene, each))}, state.frame, point, near, state.chosen?.id)
  return layer && enterable(scene, layer, state.inside)
}

/** Whether a point is near a layer's anchor. @param {Layer} layer @param {number} frame @param {Point} point @param {number} near */
function isNear(layer, frame, [x, y], near) {
  const [ax, ay] = spotOf(layer, frame)
  return Math.hypot(ax - x, ay - y) <= near
}

/** Whether a point lies on a layer, or on what there is of its copies. @param {Layer} layer @param {number} frame @param {Point} point */
function isOn(layer, frame, point) {
  if (layer.can.hold) return isOnCopies(layer, frame, point)
  if (!countBeside(layer)) return hits(layer, frame, point)
  return [layer, ...copiesOf(layer)].some(each => opacityOf(each, frame) > 0 && hits(each, frame, point))
    || crowdAt(layer, frame).some(([matrix, , look]) => hits(look, frame, point, matrix))
}

/** Whether a point lies on what is in the copies of a group, or on what it leaves behind; its image on the ground is none. @param {Layer} group @param {number} frame @param {Point} point */
function isOnCopies(group, frame, point) {
  const open = /** @type {boolean[]} */ ([])
  for (const {kind, layer} of mirrorSteps(group)) {
    const shows = !layer.image && opacityOf(layer, frame) > 0
    if (kind === "push") open.push(shows && isUncovered(layer, frame, point))
    else if (kind === "pop") open.pop()
    else if (kind === "item" && shows && open.every(Boolean) && hits(layer, frame, point)) return true
  }
  return false
}

/**
 * The layers, or the groups one is not in, that touch a band, from the back to the front; not the ground behind.
 * @param {State} state @param {Point} a @param {Point} b its corners, scene px
 */
export function layersIn(state, a, b) {
  const scene = shown(state), found = new Set()
  if (!scene) return []
  const [left, right] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])], [top, bottom] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])]
  for (const layer of scene.layers) {
    if (layer.ground || !layer.seen || layer.can.hold || !isShownAlone(scene, layer, state.solo) || isLocked(scene, layer) || opacityOf(layer, state.frame) === 0) continue
    const corners = cornersOf(layer, state.frame), xs = corners.map(corner => corner[0]), ys = corners.map(corner => corner[1])
    const meets = Math.min(...xs) <= right && Math.max(...xs) >= left && Math.min(...ys) <= bottom && Math.max(...ys) >= top
    const picked = meets && enterable(scene, layer, state.inside)
    if (picked) found.add(picked.id)
  }
  return [...found]
}

/** Whether a layer's mask, if it has one, shows it there. @param {Layer} layer @param {number} frame @param {Point} point */
export function isUncovered({cover}, frame, point) {
  if (!cover || cover.strength.at(frame)[0] < 1) return true
  let inside = false
  for (const cut of cover.cuts) {
    const there = probing().isPointInPath(path2dOf(cut.figure), ...mapped(inverse(cut.maps.at(frame)), point))
    if (cut.how === "add") inside ||= there
    else inside &&= there === (cut.how === "meet")
  }
  return inside !== cover.inverted
}

/** Whether a layer or a group it is in is locked. @param {StageScene|null} scene @param {Layer} layer */
const isLocked = (scene, layer) => layer.locked || groupsOf(scene, layer).some(group => group.locked)

/**
 * The outermost group of a layer that is inside what was entered, or the layer itself.
 * @param {StageScene} scene @param {Layer} layer @param {string|null} entered
 */
export function enterable(scene, layer, entered) {
  const groups = groupsOf(scene, layer)
  const within = groups.findIndex(group => group.id === entered)
  return (within < 0 ? groups.at(-1) : groups[within - 1]) ?? layer
}

/** The time of the key of a place that is nearest, if it is near. @param {Layer} layer @param {At} at */
export function keyedAt(layer, {point, near}) {
  let found = undefined, least = near
  for (const [time, [x, y]] of keyedPlaces(layer)) {
    const away = Math.hypot(x - point[0], y - point[1])
    if (away < least) [found, least] = [time, away]
  }
  return found
}

/** The times at which keys place a layer, and where. @param {Layer} layer @returns {Map<number, Point>} */
export function keyedPlaces(layer) {
  const found = new Map()
  if (layer.ride || !layer.placed) return found
  for (const track of layer.keys)
    if (track.property === "x" || track.property === "y")
      for (const [, time] of track.keys) found.set(time, spotOf(layer, Math.round(time)))
  return found
}

/**
 * The node of a path that is nearest, if it is near; chosen ones first.
 * @param {Path|undefined} path @param {At} at @param {readonly string[]} [first]
 */
export function nodeAt(path, {point, near}, first = []) {
  if (!path) return -1
  const chosen = new Set(first)
  let found = -1, least = near
  for (let i = 0; i < path.ids.length; i++) {
    const away = Math.hypot(path.nodes[i * NODE] - point[0], path.nodes[i * NODE + 1] - point[1])
    if (away < least || (away === least && chosen.has(path.ids[i]))) [found, least] = [i, away]
  }
  return found
}

/**
 * The handle that is nearest, of those that are shown.
 * @param {State} state @param {At} at @returns {{index: number, side: "in"|"out", place: Point}|null}
 */
export function handleAt(state, {point, near}) {
  const path = chosenPath(state)
  if (!path) return null
  let found = null, least = near
  for (const index of handled(path, new Set(state.nodes), state.prefs))
    for (const [side, x, y] of handlesOf(path, index)) {
      const away = Math.hypot(x - point[0], y - point[1])
      if (away < least) [found, least] = [{index, side, place: /** @type {Point} */ ([x, y])}, away]
    }
  return found
}

/** The places of the nodes that are chosen. @param {State} state @returns {Point[]} */
export function chosenPlaces(state) {
  const path = chosenPath(state), chosen = new Set(state.nodes)
  return (path?.ids ?? []).flatMap((id, i) => (path && chosen.has(id) ? [placeOf(path, i)] : []))
}

/**
 * The box that the frame goes round, in scene px: of the whole chosen path, or of several nodes.
 * @param {State} state @returns {[number, number, number, number]|null}
 */
export function boxOfNodes(state) {
  const path = chosenPath(state)
  if (state.chosen?.kind !== "path" || !path || path.locked || path.parts.length || state.tool !== "pick" || state.nodes.length === 1) return null
  if (!state.nodes.length) return path.box
  const places = chosenPlaces(state)
  const [xs, ys] = [places.map(p => p[0]), places.map(p => p[1])]
  const [left, top] = [Math.min(...xs), Math.min(...ys)]
  return [left, top, Math.max(...xs) - left, Math.max(...ys) - top]
}

/**
 * The frame itself, in bench px, with room round the box.
 * @param {State} state @param {import("./pane.js").Pane} view @returns {[number, number, number, number]|null}
 */
export function frameBox(state, view) {
  const span = boxOfNodes(state)
  if (!span) return null
  return [view.x(span[0]) - ROOM, view.y(span[1]) - ROOM, span[2] * view.scale + 2 * ROOM, span[3] * view.scale + 2 * ROOM]
}

/**
 * Which part of the frame is there: a corner 0..3 clockwise from the top left, or 4, the knob.
 * @param {State} state @param {import("./pane.js").Pane} view @param {At} at
 */
export function frameAt(state, view, {point, near}) {
  const box = frameBox(state, view)
  if (!box) return -1
  const [x, y, w, h] = box
  const parts = [[x, y], [x + w, y], [x + w, y + h], [x, y + h], [x + w / 2, y - 18]]
  return parts.findIndex(([px, py]) => Math.hypot(px - view.x(point[0]), py - view.y(point[1])) < near * view.scale * 0.9)
}
