/** Ties: a bar across a path for each frame of a ride, longer each tenth, in the colours of its speed. */

import {SPEED, peakOf} from "./layers.js"
import {mapped, nearby} from "./matrices.js"
import {rampColour} from "./ramp.js"
import {element} from "./svg.js"

/** @import {Layer, Matrix} from "./types.js" */

const TINTS = 12
const SHORT = 4, LONG = 8
/**
 * Px between two bars: where they would lie nearer than the first on the whole, only every 2nd, 5th, 10th ... frame
 * has one.
 */
const NEAREST = 1, READABLE = 3
/** Bars in one figure: a figure that is small is painted only where it is, and not in every part of the stage. */
const TOGETHER = 16

/** @typedef {import("./types.js").Point} Point */
/** @typedef {(frame: number) => [Point, number]} Going where a rider is seen in a frame, and which way it goes there */

/**
 * @param {Layer} rider @param {Going} going
 * @param {import("./pane.js").Pane} view
 * @param {boolean} [bare] without what sets them off from the ground: while something is dragged every picture counts
 * @returns {Element[]}
 */
export function tiesOf(rider, going, view, bare = false) {
  if (!rider.ride) return []
  const {rows, start, end} = rider.ride, peak = peakOf(rider.ride).speed
  /** @type {{tint: number, count: number, d: string}[]} */
  const runs = []
  const step = stepOf(((end - start) || 1) / (rider.ride.length * view.scale || 1))
  for (const frame of rows.frames(start, end)) {
    if (frame % step) continue
    const speed = rows.at(frame)[SPEED]
    const tint = peak ? Math.min(Math.floor((speed / peak) * TINTS), TINTS - 1) : 0
    let run = runs[runs.length - 1]
    if (run?.tint !== tint || run.count === TOGETHER) runs.push(run = {tint, count: 0, d: ""})
    run.count++
    const [at, angle] = going(frame)
    run.d += bar(view, at, angle + Math.PI / 2, (frame / step) % 10 ? SHORT : LONG)
  }
  return [
    ...(bare ? [] : runs.map(({d}) => element("path", {class: "tie-under", d}))),
    ...runs.map(({tint, d}) => element("path", {class: "tie", d, stroke: rampColour((tint + 0.5) / TINTS)})),
  ]
}

/** On a path that is flat, by how its plane is seen. @param {import("./types.js").Ride} ride @param {Matrix} matrix @returns {Going} */
export const inPlane = ({rows}, matrix) => frame => {
  const [x, y, heading] = rows.at(frame), [a, b] = Array.from(nearby(matrix, [x, y]))
  return [mapped(matrix, [x, y]), (heading * Math.PI) / 180 + Math.atan2(b, a)]
}

/** In depth, by where it is seen in each frame. @param {(frame: number) => Point} spot @returns {Going} */
export const inSpace = spot => frame => {
  const [ax, ay] = spot(frame - 1), [bx, by] = spot(frame + 1)
  return [spot(frame), Math.atan2(by - ay, bx - ax)]
}

/** Every how many frames there is a bar, where there are so many of them on each px. @param {number} density */
export function stepOf(density) {
  if (density * NEAREST <= 1) return 1
  const least = density * READABLE, power = 10 ** Math.floor(Math.log10(least))
  return [1, 2, 5, 10].map(each => each * power).find(each => each >= least) ?? 10 * power
}

/**
 * @param {import("./pane.js").Pane} view @param {Point} at in scene px
 * @param {number} angle @param {number} reach in bench px
 */
function bar(view, at, angle, reach) {
  const x = view.x(at[0]), y = view.y(at[1])
  const dx = reach * Math.cos(angle), dy = reach * Math.sin(angle)
  return `M${(x - dx).toFixed(1)} ${(y - dy).toFixed(1)}L${(x + dx).toFixed(1)} ${(y + dy).toFixed(1)}`
}
