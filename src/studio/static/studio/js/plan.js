/**
 * A scene as it is drawn from above or from its left side: what lies in space, flat on the paper. The tools of the stage
 * work on it as on any scene; the core takes what they say back into space (coaster/edits/spaces.py).
 *
 * From above x goes to the right and what is near lies below; from the side what is far lies to the right, y goes down.
 */

import {copiesOf} from "./insets.js"
import {cornersOf} from "./layerframe.js"
import {depthOf, layerOf, matrixOf, nodesSeen, runsOf} from "./layers.js"
import {Rows} from "./rows.js"

/** @import {Layer, Path, Place, Point, Side, StageScene} from "./types.js" */

/** Where a place comes to lie on the paper. @param {Side} side @param {readonly number[]} place @returns {Point} */
export const onPaper = (side, [x, y, z]) => side === "above" ? [x, -z] : [z, y]

/** @type {WeakMap<StageScene, {frame: number, side: Side, arrived: number, plan: StageScene}>} */
const drawn = new WeakMap()

/**
 * The scene as it is drawn from a side in a frame; once for all that ask.
 * @param {StageScene} scene @param {number} frame @param {Side} side @param {number} arrived how much of the scene has come
 */
export function planOf(scene, frame, side, arrived) {
  const before = drawn.get(scene)
  if (before?.frame === frame && before.side === side && before.arrived === arrived) return before.plan
  const layers = scene.layers.map(layer => layerOn(layer, frame, side))
  const plan = {...scene, side, whole: scene, layers, paths: scene.paths.map(path => pathOn(scene, path, frame, side))}
  drawn.set(scene, {frame, side, arrived, plan})
  return plan
}

/**
 * How a layer lies in space: where its x, y, z and its beginning come to, and its anchor; of a camera its eye.
 * @param {Layer} layer @param {number} frame @returns {ArrayLike<number>}
 */
function spaceOf(layer, frame) {
  if (layer.space) return layer.space.at(frame)
  const [a, b, c, d, e, f] = Array.from(matrixOf(layer, frame)), [x, y] = layer.spots?.at(frame) ?? layer.ride?.rows.at(frame) ?? [e, f]
  return [a, b, 0, c, d, 0, 0, 0, 1, e, f, 0, x, y, 0]
}

/** @param {ArrayLike<number>} space @param {readonly number[]} place @returns {Place} */
const placed = (space, [x, y, z = 0]) => {
  const [px, py, pz] = [0, 1, 2].map(i => space[i] * x + space[3 + i] * y + space[6 + i] * z + space[9 + i])
  return [px, py, pz]
}

/** Numbers that are the same in all frames. @param {readonly number[]} numbers */
const still = numbers => new Rows(Float32Array.from(numbers), numbers.length, {length: 0, block: 1, list: null})

/** @param {Layer} layer @param {number} frame @param {Side} side @returns {Layer} */
function layerOn(layer, frame, side) {
  const space = Array.from(spaceOf(layer, frame)), spot = onPaper(side, space.slice(12, 15))
  const copies = layer.copies.flatMap(copy => copy.space ? [{...copy, maps: flatOn(copy.space.at(frame), side)}] : [])
  const flat = {maps: flatOn(space, side), spots: still(spot), space: still(space), copies}
  return {...layer, ...flat, placed: false, ground: false, ride: layer.ride && {...layer.ride, spot: null}}
}

/** How what lies in space so comes to lie on the paper. @param {ArrayLike<number>} space @param {Side} side */
function flatOn(space, side) {
  const columns = [0, 3, 9].map(first => [0, 1, 2].map(i => space[first + i]))
  return still(columns.flatMap(column => onPaper(side, column)))
}

/**
 * How places of a path come to lie on the paper, by how its group lies in a frame.
 * @param {StageScene} scene @param {Path} path @param {number} frame @param {Side} side @returns {(place: readonly number[]) => Point}
 */
function laidOn(scene, path, frame, side) {
  const group = layerOf(scene, path.parent)
  return place => onPaper(side, group ? placed(spaceOf(group, frame), place) : place)
}

/**
 * Where a layer is on the paper in any frame: a rider of a flat path on that as it lies there now.
 * @param {StageScene} plan @param {Layer} layer @param {number} now @returns {(frame: number) => Point}
 */
export function wayOn({whole, side = "above"}, {id}, now) {
  const layer = layerOf(whole ?? null, id), path = pathOf(whole, layer)
  if (!whole || !layer) return () => [0, 0]
  if (!layer.ride || !path || path.depths) return frame => onPaper(side, Array.from(spaceOf(layer, frame)).slice(12, 15))
  const lies = laidOn(whole, path, now, side), {rows} = layer.ride
  return frame => lies([...rows.at(frame).subarray(0, 2), 0])
}

/**
 * Where a place of a rider's path is on the paper.
 * @param {StageScene} plan @param {Layer} rider @param {number} now @param {readonly number[]} place @returns {Point}
 */
export function placeOn({whole, side = "above"}, rider, now, [x, y, z = 0]) {
  const path = pathOf(whole, rider)
  return whole && path ? laidOn(whole, path, now, side)([x, y, z]) : [x, y]
}

/** @param {StageScene|undefined} scene @param {Layer|undefined} rider */
const pathOf = (scene, rider) => scene?.paths.find(each => each.id === rider?.ride?.path)

/** @param {StageScene} scene @param {Path} path @param {number} frame @param {Side} side @returns {Path} */
function pathOn(scene, path, frame, side) {
  const lies = laidOn(scene, path, frame, side), {depths} = path
  const nodes = nodesSeen(path, ([x, y], i, part) => lies([x, y, depths ? depthOf(depths, i, part) : 0]))
  const curves = curvesOf(path).map(curve => curve.map(lies))
  const ends = curves.length ? curves.flat() : [lies([path.nodes[0], path.nodes[1], depths?.[0] ?? 0])]
  const xs = ends.map(end => end[0]), ys = ends.map(end => end[1]), left = Math.min(...xs), top = Math.min(...ys)
  const [ax, ay] = ends[0], to = ends.find(([x, y]) => Math.hypot(x - ax, y - ay) > 1e-3) ?? [ax + 1, ay]
  const d = curves.map((curve, i) => `${i && meet(curves[i - 1][3], curve[0]) ? "" : `M${words(curve.slice(0, 1))}`}C${words(curve.slice(1))}`).join("")
  return {
    ...path, parent: null, nodes, d, depths: undefined, cubics: undefined, box: [left, top, Math.max(...xs) - left, Math.max(...ys) - top],
    start: [ax, ay, (Math.atan2(to[1] - ay, to[0] - ax) * 180) / Math.PI],
  }
}

/** @param {Point[]} points */
const words = points => points.map(([x, y]) => `${x.toFixed(2)} ${y.toFixed(2)}`).join(" ")
/** @param {Point} a @param {Point} b */
const meet = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]) < 1e-2

/** The curves of a path in the px of its group, with their depth. @param {Path} path @returns {Place[][]} */
function curvesOf(path) {
  const {cubics} = path
  if (!cubics) return runsOf(path).flat().map(curve => curve.map(([x, y]) => [x, y, 0]))
  return Array.from({length: cubics.length / 12}, (_, i) => [0, 1, 2, 3].map(k => {
    const [x, y, z] = cubics.subarray(12 * i + 3 * k, 12 * i + 3 * k + 3)
    return [x, y, z]
  }))
}

/**
 * The lines from whoever looks at the scene through the edges of the picture, as far as what is drawn reaches: what
 * lies between them is seen.
 * @param {StageScene} plan @param {Layer|undefined} camera @param {number} reach px behind the picture @returns {[Point, Point][]}
 */
export function sightOf({settings: {width, height}, lift, side = "above"}, camera, reach) {
  const space = camera?.space?.single ?? [1, 0, 0, 0, 1, 0, 0, 0, 1, width / 2, height / 2, 0]
  const eye = camera ? Array.from(space).slice(15, 18) : [width / 2, height / 2, -1 / (lift[8] || 1 / width)]
  const edges = side === "above" ? [[-width / 2, 0], [width / 2, 0]] : [[0, -height / 2], [0, height / 2]]
  return edges.map(edge => {
    const on = placed(space, edge), away = Math.hypot(...on.map((each, i) => each - eye[i])) || 1
    const far = on.map((each, i) => each + ((each - eye[i]) / away) * reach)
    return [onPaper(side, eye), onPaper(side, far)]
  })
}

/** What is drawn of layers: those that are seen, and those that others are seen by. @param {StageScene} plan */
export const layersOn = plan => plan.layers.filter(layer => layer.seen && layer.can.stand && !layer.can.hold)

/**
 * The layer whose outline is nearest to a point, if it is near: by its lines, as most are seen by their edges; what is
 * chosen comes first, then what is in front in the list.
 * @param {StageScene} plan @param {number} frame @param {Point} point @param {number} near @param {string|undefined} chosen
 */
export function layerBy(plan, frame, point, near, chosen) {
  let found = /** @type {Layer|undefined} */ (undefined), least = near
  for (const layer of layersOn(plan)) {
    const outlines = [layer, ...copiesOf(layer)].map(each => cornersOf(each, frame))
    const sides = outlines.flatMap(outline => outline.map((corner, i) => offLine(point, corner, outline[(i + 1) % 4])))
    const away = Math.min(...sides) - (layer.id === chosen ? near / 3 : 0)
    if (away <= least) [found, least] = [layer, away]
  }
  return found
}

/** How far a point is off a straight line between two. @param {Point} point @param {Point} a @param {Point} b */
function offLine([x, y], [ax, ay], [bx, by]) {
  const dx = bx - ax, dy = by - ay, long = dx * dx + dy * dy
  const share = long ? Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / long, 0), 1) : 0
  return Math.hypot(x - ax - share * dx, y - ay - share * dy)
}
