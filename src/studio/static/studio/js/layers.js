/**
 * What a layer is, in a frame: where, how large, how strong, painted how, in which group. The one reader of
 * what the core tells; nobody else looks into a layer's numbers.
 */

import {IDENTITY, isDeep, lifted, mapped, nearby, piecesOf} from "./matrices.js"
import {NODE} from "./protocol.js"

/** @import {Face, Layer, Matrix, Outline, Path, Point, StageScene} from "./types.js" */

/** Where a row of a ride tells the speed, and how far it has come. */
export const SPEED = 3, TRAVELLED = 4

/**
 * The map from a layer's px to the scene's, in the order of SVG's matrix().
 * @param {Layer} layer @param {number} frame
 */
export const matrixOf = (layer, frame) => layer.maps.at(frame)

/** How strongly it is drawn, flattened groups included. @param {Layer} layer @param {number} frame */
export const opacityOf = (layer, frame) => layer.opacities.at(frame)[0]

/** What it looks like. @param {Layer} layer @param {number} frame @returns {Face} */
export const faceOf = ({faces}, frame) => faces.list[faces.which ? faces.which.at(frame)[0] : 0]

/** Its box in its own px: left, top, width, height. @param {Layer} layer @param {number} frame */
export const boxOf = (layer, frame) => faceOf(layer, frame).box

/** Where its anchor is in the scene. @param {Layer} layer @param {number} frame @returns {Point} */
export function spotOf(layer, frame) {
  const [x, y] = layer.spots ? layer.spots.at(frame) : layer.ride ? layer.ride.rows.at(frame) : [0, 0]
  return [x, y]
}

/** The numbers of its ride in a frame. @param {Layer} layer @param {number} frame */
export function rideAt(layer, frame) {
  if (!layer.ride) return null
  const [x, y, heading, speed, travelled, percent] = layer.ride.rows.at(frame)
  return {x, y, heading, speed, travelled, percent}
}

/** @type {WeakMap<import("./rows.js").Rows, {version: number, speed: number, frame: number}>} */
const peaks = new WeakMap()

/**
 * The greatest speed of a ride, px/s, and when, as far as its frames are known.
 * @param {import("./types.js").Ride} ride
 */
export function peakOf({rows}) {
  const known = peaks.get(rows)
  if (known?.version === rows.version) return known
  const found = {version: rows.version, speed: 0, frame: 0}
  for (const frame of rows.frames(0, rows.told.length)) {
    const speed = rows.at(frame)[SPEED]
    if (speed > found.speed) Object.assign(found, {speed, frame})
  }
  peaks.set(rows, found)
  return found
}

/** @param {import("./rows.js").Rows} rgba @param {number} frame */
function cssColour(rgba, frame) {
  const [r, g, b, a] = rgba.at(frame)
  return `rgb(${Math.round(r * 255)} ${Math.round(g * 255)} ${Math.round(b * 255)} / ${a})`
}

/**
 * A gradient whose stops have keys; an offset never falls behind the one before.
 * @param {import("./types.js").Ramp} ramp @param {import("./types.js").Paints} paints @param {number} frame
 */
function rampAt(ramp, {stops, stopsAt}, frame) {
  const colours = [...ramp.colours], offsets = [...ramp.offsets]
  for (const [i, rows] of stops) if (i < colours.length) colours[i] = cssColour(rows, frame)
  for (const [i, rows] of stopsAt) if (i < offsets.length) offsets[i] = rows.at(frame)[0]
  let last = 0
  return {...ramp, colours, offsets: offsets.map(each => last = Math.min(Math.max(last, each), 1))}
}

/** Its outlines as they are filled and stroked. @param {Layer} layer @param {number} frame @returns {Outline[]} */
export function outlinesOf(layer, frame) {
  const {outlines} = faceOf(layer, frame), {paints} = layer
  if (!paints) return outlines
  const fill = paints.fill && cssColour(paints.fill, frame), stroke = paints.stroke && cssColour(paints.stroke, frame)
  const width = paints.width ? paints.width.at(frame)[0] : null, offset = paints.offset ? paints.offset.at(frame)[0] : null
  return outlines.map(outline => ({
    ...outline, fill: typeof outline.fill === "object" && outline.fill ? rampAt(outline.fill, paints, frame) : fill ?? outline.fill, stroke: stroke ?? outline.stroke, width: width ?? outline.width, offset: offset ?? outline.offset,
  }))
}

/** The numbers of a look that there are for each frame. @param {Partial<import("./types.js").Inside & {crowd: import("./types.js").Crowd|null}>} look */
export function looksOf({maps, opacities, faces, paints, cover, crowd, tint, away}) {
  const covered = cover ? [cover.grow, cover.blur, cover.strength, ...cover.cuts.map(cut => cut.maps)] : []
  const stops = [...(paints?.stops ?? []), ...(paints?.stopsAt ?? [])].map(([, rows]) => rows)
  return [maps, opacities, faces?.which, paints?.fill, paints?.stroke, paints?.width, paints?.offset, ...stops, ...covered, crowd?.maps, crowd?.opacities, crowd?.which, tint, away]
}

/** What is drawn of a layer beside itself: of the scene that it shows, and its copies. @param {Layer} layer */
export const partsOf = ({inside, copies, mirror}) => [...(inside ?? []), ...copies, ...copies.flatMap(copy => copy.inside ?? []), ...mirror]

/** All of its numbers that there are for each frame. @param {Layer} layer @returns {import("./rows.js").Rows[]} */
export function rowsOf(layer) {
  const {spots, ride, keys} = layer
  const found = [...looksOf(/** @type {any} */ (layer)), spots, ride?.rows, ...partsOf(layer).flatMap(looksOf), ...keys.flatMap(track => [track.values, track.colours])]
  return found.flatMap(rows => rows ?? [])
}

/** How many there are of its like beside it. @param {Layer} layer */
export const countBeside = ({copies, crowd}) => copies.length + (crowd?.lanes ?? 0)

/**
 * Those of its crowd that are seen in a frame, from the back to the front: maps, how strong they are, and what they look like.
 * @param {Layer} layer @param {number} frame @returns {[Float32Array, number, Layer][]}
 */
export function crowdAt(layer, frame) {
  const {crowd} = layer, found = /** @type {[Float32Array, number, Layer][]} */ ([])
  if (!crowd) return found
  const maps = crowd.maps.at(frame), strengths = crowd.opacities.at(frame), which = crowd.which?.at(frame)
  const width = maps.length / crowd.lanes
  for (let k = crowd.lanes - 1; k >= 0; k--)
    if (strengths[k] > 0) found.push([maps.subarray(width * k, width * (k + 1)), strengths[k], which ? crowd.looks[which[k]] : layer])
  return found
}

/** Whether it goes somewhere by itself: by a ride or by keys. @param {Layer} layer */
export const isMoved = layer => Boolean(layer.ride) || layer.keys.length > 0

/** Whether its path says where it is, and not the hand. @param {Layer} layer */
export const isOnItsPath = layer => Boolean(layer.ride && !layer.ride.relative)

/** Whether the hand may put it elsewhere. @param {Layer} layer */
export const canStand = layer => layer.can.stand

/** @param {StageScene|null|undefined} scene @param {string|null|undefined} id */
export const layerOf = (scene, id) => scene?.layers.find(layer => layer.id === id)

/**
 * The layers right inside a group, or the outermost, from the back to the front.
 * @param {StageScene} scene @param {string|null} parent
 */
export const children = (scene, parent) => scene.layers.filter(layer => layer.parent === parent)

/**
 * The groups something is in, from the inside outwards.
 * @param {StageScene|null|undefined} scene @param {{parent: string|null}} thing @returns {Layer[]}
 */
export function groupsOf(scene, thing) {
  const group = layerOf(scene, thing.parent)
  return group ? [group, ...groupsOf(scene, group)] : []
}

/** All that lies in a group, at any depth. @param {StageScene} scene @param {string} group @returns {Layer[]} */
export const inside = (scene, group) => scene.layers.filter(layer => groupsOf(scene, layer).some(each => each.id === group))

/**
 * Whether a layer is among those that are shown alone, or holds or lies in one of them.
 * @param {StageScene} scene @param {Layer} layer @param {readonly string[]} solo none where all are shown
 */
export const isShownAlone = (scene, layer, solo) => !solo.length || [layer, ...groupsOf(scene, layer)].some(each => solo.includes(each.id))

/** The camera that the scene is seen through, if there is one. @param {StageScene|null|undefined} scene */
export const cameraOf = scene => scene?.layers.findLast(layer => layer.can.view && layer.seen && !layer.guide)

/** Whose map it is by which the px of a group are seen, or those of the scene. @param {StageScene|null|undefined} scene @param {string|null} parent */
const whoseMap = (scene, parent) => scene?.side ? undefined : parent ? layerOf(scene, parent) : cameraOf(scene)

/**
 * The map by which a group's px are seen in the picture; null where they are the same.
 * @param {StageScene|null|undefined} scene @param {string|null} parent @param {number} frame
 */
export function groupMatrix(scene, parent, frame) {
  const whose = whoseMap(scene, parent)
  return whose ? matrixOf(whose, frame) : null
}

/**
 * How places in depth are seen that are told in a group's px, or in those of the scene.
 * @param {StageScene|null|undefined} scene @param {string|null} parent @param {number} frame @returns {ArrayLike<number>}
 */
export const liftOf = (scene, parent, frame) => whoseMap(scene, parent)?.lift?.at(frame) ?? scene?.lift ?? []

/** @type {WeakMap<Path, {frame: number, group: Layer, seen: Path}>} */
const seen = new WeakMap()

/**
 * A path as it is seen in a frame: its nodes, box and start in the scene's px.
 * @param {StageScene|null|undefined} scene @param {Path} path @param {number} frame @returns {Path}
 */
export function seenPath(scene, path, frame) {
  const group = whoseMap(scene, path.parent)
  if (scene?.side) return path
  if (path.depths) return inDepth(path, liftOf(scene, path.parent, frame))
  if (!group) return path
  const before = seen.get(path)
  if (before?.frame === frame && before.group === group) return before.seen
  const found = throughMap(path, matrixOf(group, frame))
  seen.set(path, {frame, group, seen: found})
  return found
}

/** @param {Path} path @param {Float32Array} m @returns {Path} */
function throughMap(path, m) {
  const nodes = nodesSeen(path, place => mapped(m, place))
  const [x, y, angle] = path.start, local = nearby(m, [x, y]), turn = (Math.atan2(local[1], local[0]) * 180) / Math.PI
  const found = {...path, nodes, start: /** @type {[number, number, number]} */ ([...mapped(m, [x, y]), angle + turn]), box: boxThrough(path.box, m)}
  return isDeep(m) ? {...found, seen: railThrough(path, m)} : {...found, matrix: m}
}

/**
 * Nodes as they are seen: each a place, then two handles as offsets; ``part`` says which of the three it is.
 * @param {Path} path @param {(place: Point, index: number, part: number) => Point} seen @returns {Float32Array}
 */
export function nodesSeen(path, seen) {
  const nodes = new Float32Array(path.nodes.length)
  for (let i = 0; i < nodes.length; i += NODE) {
    const [x, y, ...handles] = path.nodes.subarray(i, i + NODE), here = seen([x, y], i / NODE, 0)
    nodes.set(here, i)
    for (let k = 0; k < handles.length; k += 2) {
      const end = seen([x + handles[k], y + handles[k + 1]], i / NODE, 1 + k / 2)
      nodes.set([end[0] - here[0], end[1] - here[1]], i + 2 + k)
    }
  }
  return nodes
}

/**
 * A path that goes into depth, as it is seen.
 * @param {Path} path @param {ArrayLike<number>} lift four columns of three numbers @returns {Path}
 */
function inDepth(path, lift) {
  const [depths, cubics] = [/** @type {Float32Array} */ (path.depths), /** @type {Float32Array} */ (path.cubics)]
  const nodes = nodesSeen(path, ([x, y], i, part) => lifted(lift, [x, y, depthOf(depths, i, part)]))
  const xs = [], ys = []
  for (let i = 0; i < nodes.length; i += NODE) { xs.push(nodes[i]); ys.push(nodes[i + 1]) }
  const left = Math.min(...xs), top = Math.min(...ys), [, , angle] = path.start
  const start = /** @type {[number, number, number]} */ ([nodes[0], nodes[1], angle])
  return {...path, nodes, start, box: [left, top, Math.max(...xs) - left, Math.max(...ys) - top], seen: railInDepth(cubics, lift)}
}

/** How deep a node is, or the end of its handle in (1) or out (2). @param {Float32Array} depths @param {number} index @param {number} part */
export const depthOf = (depths, index, part) => depths[3 * index] + (part ? depths[3 * index + part] : 0)

/** Cubics in space as they are seen, each in short straight lines. @param {Float32Array} cubics @param {ArrayLike<number>} lift */
function railInDepth(cubics, lift) {
  let d = ""
  for (let i = 0; i < cubics.length; i += 12) {
    for (let k = i && starts(cubics, i) ? 1 : 0; k <= STEPS; k++) {
      const t = k / STEPS, s = 1 - t, share = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t]
      const at = [0, 1, 2].map(axis => share.reduce((sum, each, p) => sum + each * cubics[i + 3 * p + axis], 0))
      const [x, y] = lifted(lift, /** @type {[number, number, number]} */ (at))
      d += `${k || (i && starts(cubics, i)) ? "L" : "M"}${x.toFixed(2)} ${y.toFixed(2)}`
    }
  }
  return d
}

/** Straight pieces of a curve in depth. */
const STEPS = 24

/** Whether a cubic begins where the one before it ends. @param {Float32Array} cubics @param {number} i */
const starts = (cubics, i) => [0, 1, 2].every(axis => Math.abs(cubics[i + axis] - cubics[i - 3 + axis]) < 1e-3)

/** A path in perspective, where its curves are others than those between its nodes. @param {Path} path @param {Matrix} m */
function railThrough(path, m) {
  const words = (/** @type {Point[]} */ points) => points.map(point => mapped(m, point).map(each => each.toFixed(2)).join(" ")).join(" ")
  return runsOf(path).map(curves => curves.map((curve, i) => {
    const pieces = piecesOf(curve).map(([, p, q, end]) => `C${words([p, q, end])}`)
    return (i ? "" : `M${words([curve[0]])}`) + pieces.join("")
  }).join("")).join("")
}

/**
 * The curves of a flat path, run by run; nodes that are passed by are left out.
 * @param {Path} path @returns {import("./matrices.js").Curve[][]}
 */
export function runsOf({nodes, runs, marks}) {
  let first = 0
  const at = (/** @type {number} */ i, /** @type {number} */ k) => /** @type {Point} */ ([nodes[i * NODE] + (k ? nodes[i * NODE + k] : 0), nodes[i * NODE + 1] + (k ? nodes[i * NODE + k + 1] : 0)])
  return runs.map(([count, closed]) => {
    const live = Array.from({length: count}, (_, i) => first + i).filter(i => !marks[i].includes("d"))
    first += count
    return live.slice(0, closed ? undefined : -1).map((from, i) => {
      const to = live[(i + 1) % live.length]
      return [at(from, 0), at(from, 4), at(to, 2), at(to, 0)]
    })
  })
}

/**
 * @param {[number, number, number, number]} box @param {ArrayLike<number>} m
 * @returns {[number, number, number, number]}
 */
function boxThrough([x, y, w, h], m) {
  const corners = /** @type {Point[]} */ ([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]).map(corner => mapped(m, corner))
  const xs = corners.map(corner => corner[0]), ys = corners.map(corner => corner[1])
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)]
}

/** How a path's own px lie in the scene's. @param {Path} path @returns {ArrayLike<number>} */
export const pathMatrix = path => path.matrix ?? IDENTITY

/**
 * Whose node it is that a path has which is made of others: that path, and which of its nodes.
 * @param {readonly Path[]} paths @param {Path} whole @param {number} index @returns {{path: Path, index: number}|null}
 */
export function partOf(paths, whole, index) {
  const [pathId, own] = whole.parts[index] ?? [], path = paths.find(each => each.id === pathId)
  const found = path && own ? path.ids.indexOf(own) : -1
  return path && found >= 0 ? {path, index: found} : null
}

/** Where a node lies, scene px. @param {Path} path @param {number} index @returns {Point} */
export const placeOf = (path, index) => [path.nodes[index * NODE], path.nodes[index * NODE + 1]]
