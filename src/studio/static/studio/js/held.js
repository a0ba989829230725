/**
 * What is chosen, as it is marked over the picture: layers' boxes, a rider's front and target, its pegs, the way of
 * keys.
 */

import {frameBox, keyedPlaces} from "./hits.js"
import {copiesOf} from "./insets.js"
import {cornersOf, layerFrame, rampOf} from "./layerframe.js"
import {groupMatrix, inside, layerOf, liftOf, matrixOf, opacityOf, spotOf} from "./layers.js"
import {inverse, lifted, mapped, nearby} from "./matrices.js"
import {marksOf} from "./marks.js"
import {itemOf} from "./stops.js"
import {chosenIds, chosenLayer, chosenPath, shown, tellingRider} from "./store.js"
import {around, element, twice} from "./svg.js"

/** @import {Layer, Matrix, Point, State} from "./types.js" */

const FRONT = 26, BARB = 7
/** The way of a layer that keys place is drawn through so many frames at most. */
const MOST_POINTS = 2000
/** @type {Matrix} */
const IDENTITY = [1, 0, 0, 1, 0, 0]

/** The map of a rider's rail to the scene's px. @param {State} state @param {Layer} rider */
export function railMatrix(state, rider) {
  const scene = shown(state), path = scene?.paths.find(each => each.id === rider.ride?.path)
  return groupMatrix(scene, path?.parent ?? null, state.frame) ?? IDENTITY
}

/** Where a place of a rider's path is seen. @param {State} state @param {Layer} rider @param {readonly number[]} at with its depth, where that path has any @returns {Point} */
function placeOnRail(state, rider, [x, y, z]) {
  if (z === undefined) return mapped(railMatrix(state, rider), [x, y])
  const scene = shown(state), path = scene?.paths.find(each => each.id === rider.ride?.path)
  return lifted(liftOf(scene, path?.parent ?? null, state.frame), [x, y, z])
}

/**
 * The nodes and handles of the chosen path, and the frame that scales and turns.
 * @param {State} state @param {import("./pane.js").Pane} view @returns {SVGElement[]}
 */
export function nodesOf(state, view) {
  const path = chosenPath(state), box = path && frameBox(state, view)
  return [...(box ? frame(box) : []), ...(path ? marksOf(path, new Set(state.nodes), state.prefs, view) : [])]
}

/** A corner at each end, a knob above. @param {[number, number, number, number]} box in bench px */
function frame([x, y, width, height]) {
  const corners = [[x, y], [x + width, y], [x + width, y + height], [x, y + height]]
  const squares = corners.map(([cx, cy]) => `M${cx - 3.5} ${cy - 3.5}h7v7h-7Z`).join("")
  return [
    element("rect", {class: "span under", x, y, width, height}), element("rect", {class: "span", x, y, width, height}),
    element("path", {class: "span-knob", d: squares + around(x + width / 2, y - 18, 4.5)}),
  ]
}

/** @param {State} state @param {import("./pane.js").Pane} view @returns {SVGElement[]} */
export function boxesOf(state, view) {
  const layer = chosenLayer(state)
  if (!layer || state.playing) return []
  // All of them in one figure: of a hundred boxes each would be laid out and painted by itself.
  const outlines = framed(state).flatMap(each => seenParts(each, state.frame)).map(each => {
    const points = cornersOf(each, state.frame).map(([x, y]) => `${view.x(x).toFixed(1)} ${view.y(y).toFixed(1)}`)
    return `M${points.join("L")}Z`
  })
  const boxes = outlines.length ? twice("chosen-box", outlines.join("")) : []
  return [...carriedOn(layer, state, view), ...linksOf(layer, state, view), ...boxes, ...handlesOn(state, view), ...(layer.ride ? frontOf(layer, state, view) : []), ...(layer.ride?.spot ? targetOf(layer, layer.ride.spot, state, view) : [])]
}

/** What is seen of a layer: itself, or what of it rides one by one. @param {Layer} layer @param {number} frame */
const seenParts = (layer, frame) => layer.inParts ? copiesOf(layer).filter(part => opacityOf(part, frame) > 0) : [layer]

/**
 * A line to the chosen layer from the one that it goes with; of what is drawn on a path, none.
 * @param {Layer} layer @param {State} state @param {import("./pane.js").Pane} view
 */
function carriedOn(layer, state, view) {
  const carrier = layerOf(shown(state), layer.carrier)
  if (!carrier || !layer.can.stand) return []
  const [[ax, ay], [bx, by]] = [carrier, layer].map(each => spotOf(each, state.frame)).map(([x, y]) => [view.x(x), view.y(y)])
  return twice("carried", `M${ax} ${ay}L${bx} ${by}${around(ax, ay, 5)}`)
}

/**
 * Lines to the chosen layer from those whose values it follows, and from it to those that follow its.
 * @param {Layer} layer @param {State} state @param {import("./pane.js").Pane} view
 */
function linksOf(layer, state, view) {
  const scene = shown(state), leaders = layer.follows.map(id => layerOf(scene, id))
  const ends = [...leaders.map(each => [each, layer]), ...(scene?.layers ?? []).filter(each => each.follows.includes(layer.id)).map(each => [layer, each])]
  const lines = ends.flatMap(pair => {
    const [from, to] = pair.map(each => each?.seen && each.can.stand ? spotOf(each, state.frame) : null)
    if (!from || !to) return []
    const [ax, ay, bx, by] = [view.x(from[0]), view.y(from[1]), view.x(to[0]), view.y(to[1])]
    return `M${ax} ${ay}L${bx} ${by}M${ax - 4} ${ay}L${ax} ${ay - 4}L${ax + 4} ${ay}L${ax} ${ay + 4}Z`
  })
  return lines.length ? twice("linked", lines.join("")) : []
}

/**
 * What the chosen layer is scaled and turned by, and its anchor.
 * @param {State} state @param {import("./pane.js").Pane} view @returns {SVGElement[]}
 */
function handlesOn(state, view) {
  const frame = layerFrame(state, view)
  if (!frame) return rampOn(state, view)
  const isRound = (/** @type {string} */ part) => part === "knob" || part === "radius"
  const parts = frame.handles.map(({part, x, y}) => isRound(part) ? around(x, y, 4.5) : `M${x - 3.5} ${y - 3.5}h7v7h-7Z`)
  const [x, y] = frame.anchor, cross = `${around(x, y, 3)}M${x - 7} ${y}H${x - 3}M${x + 3} ${y}H${x + 7}M${x} ${y - 7}V${y - 3}M${x} ${y + 3}V${y + 7}`
  // A rider's dot on its path is its anchor.
  return [
    element("path", {class: "span-knob", d: parts.join("")}), ...(chosenLayer(state)?.ride ? [] : twice("anchor", cross)),
    ...rampOn(state, view),
  ]
}

/**
 * The line of the chosen layer's gradient, with its ends and its stops in their colours.
 * @param {State} state @param {import("./pane.js").Pane} view @returns {SVGElement[]}
 */
function rampOn(state, view) {
  const ramp = rampOf(state, view)
  if (!ramp) return []
  const [[ax, ay], [bx, by]] = ramp.line, [start, end, ...stops] = ramp.handles
  const swatches = stops.map(({x, y}, i) => element("circle", {class: "ramp-stop", cx: x, cy: y, r: 5.5, fill: ramp.colours[i]}))
  return [
    ...twice("ramp-line", `M${ax} ${ay}L${bx} ${by}`), ...swatches,
    element("path", {class: "span-knob", d: around(start.x, start.y, 4.5) + `M${end.x - 3.5} ${end.y - 3.5}h7v7h-7Z`}),
  ]
}

/**
 * Where a rider's front points: those that look the same from all sides show it by this alone.
 * @param {Layer} layer @param {State} state @param {import("./pane.js").Pane} view
 */
function frontOf(layer, state, view) {
  const matrix = matrixOf(layer, state.frame), [x, y] = spotOf(layer, state.frame)
  const [a, b] = Array.from(nearby(matrix, mapped(inverse(matrix), [x, y])))
  if (Number.isNaN(a)) return [] // it is seen by its edge
  const cx = view.x(x), cy = view.y(y), angle = Math.atan2(b, a)
  const tip = [cx + FRONT * Math.cos(angle), cy + FRONT * Math.sin(angle)]
  const barb = (/** @type {number} */ by) => `${tip[0] - BARB * Math.cos(angle + by)} ${tip[1] - BARB * Math.sin(angle + by)}`
  const line = `M${cx} ${cy}L${tip[0]} ${tip[1]}M${barb(0.5)}L${tip[0]} ${tip[1]}L${barb(-0.5)}`
  return [...twice("front", line), element("circle", {class: "rider-dot", cx, cy, r: 4.5})]
}

/**
 * The point that a rider looks at.
 * @param {Layer} layer @param {Point} spot in its group's px @param {State} state
 * @param {import("./pane.js").Pane} view
 */
function targetOf(layer, spot, state, view) {
  const [px, py] = mapped(groupMatrix(shown(state), layer.parent, state.frame) ?? IDENTITY, spot)
  const x = view.x(px), y = view.y(py)
  return twice("spot", `${around(x, y, 9)}M${x - 13} ${y}H${x + 13}M${x} ${y - 13}V${y + 13}`)
}

/**
 * The layers to be framed: those that are chosen; of a group what lies in it.
 * @param {State} state @returns {Layer[]}
 */
function framed(state) {
  const scene = shown(state)
  if (!scene) return []
  const chosen = scene.layers.filter(layer => chosenIds(state).includes(layer.id))
  return chosen.flatMap(layer => (layer.can.hold ? inside(scene, layer.id).filter(each => !each.can.hold) : [layer]))
}

/**
 * The picked pegs of the told rider where they stand, and the way of a layer that keys place.
 * @param {State} state @param {import("./pane.js").Pane} view @returns {SVGElement[]}
 */
export function stopsOn(state, view) {
  const rider = tellingRider(state), layer = chosenLayer(state), spots = layer?.placed && !layer.ride ? layer.spots : null
  const rings = rider ? ringsOf(state, rider, view, at => placeOnRail(state, rider, at)) : []
  return layer && spots ? [...rings, ...trailOf(spots, [...keyedPlaces(layer).keys()], view, frame => spotOf(layer, frame))] : rings
}

/**
 * The picked pegs of a rider.
 * @param {State} state @param {Layer} rider @param {import("./pane.js").Pane} view
 * @param {(at: readonly number[]) => Point} place where a place of its path is seen @returns {SVGElement[]}
 */
export function ringsOf(state, rider, view, place) {
  const picked = new Set(state.picked), pegs = (rider.ride?.pegs ?? []).filter(peg => picked.has(itemOf(rider.id, "peg", peg.id)))
  return pegs.map(peg => place(peg.at)).flatMap(([x, y]) => twice("peg-ring", around(view.x(x), view.y(y), 8)))
}

/**
 * The way of a layer that keys place, and where its keys are.
 * @param {import("./rows.js").Rows} rows which say in which frames it is known @param {number[]} times of its keys
 * @param {import("./pane.js").Pane} view @param {(frame: number) => Point} spot @returns {SVGElement[]}
 */
export function trailOf(rows, times, view, spot) {
  const way = rows.frames(0, Infinity, MOST_POINTS).map(spot).map(([x, y]) => `${view.x(x).toFixed(1)} ${view.y(y).toFixed(1)}`)
  const dots = times.map(time => spot(Math.round(time))).map(([x, y]) => around(view.x(x), view.y(y), 4)).join("")
  return [...twice("trail", `M${way.join("L")}`), element("path", {class: "node", d: dots})]
}
