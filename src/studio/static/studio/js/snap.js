/**
 * Snapping: what is dragged is drawn to the frame's edges, middle and thirds, to nodes, to still
 * layers' anchors, and to level, upright and slanted lines from the neighbours. Holding Ctrl suspends it.
 */

import {NODE} from "./protocol.js"
import {canStand, spotOf} from "./layers.js"
import {pathsSeen, shown} from "./store.js"

/** @import {Guide, Path, Point} from "./types.js" */

/** Px of the window from which a line pulls, and a neighbour so near that it does not. */
const PULL = 5, TOO_NEAR = 12
/** So many of the nodes and anchors in sight pull, the nearest: with all of them there would be no place that is free. */
const NEAREST = 4

/** @typedef {{xs: number[], ys: number[], spots: Point[], near: Point[]}} Magnets what pulls: upright and level lines, places, and
 *   the neighbours */

/** The edges of the frame, its middle and its thirds, one way. @param {number} size */
const thirds = size => [0, size / 3, size / 2, (2 * size) / 3, size]

export class Snap {
  /** @param {import("./store.js").Store} store @param {import("./pane.js").Pane} view */
  constructor(store, view) {
    this.store = store
    this.view = view
  }

  /**
   * What may pull, as things are now.
   * @param {{path?: Path, moving?: ReadonlySet<string>, layer?: string, near?: Point[]}} [except] @returns {Magnets}
   */
  magnets({path, moving = new Set(), layer, near = []} = {}) {
    const {state} = this.store, scene = shown(state)
    if (!scene) return {xs: [], ys: [], spots: [], near}
    const {width, height} = scene.settings, picture = [0]
    const xs = scene.side === "side" ? picture : thirds(width), ys = scene.side === "above" ? picture : thirds(height)
    /** @type {Point[]} */
    const spots = []
    for (const other of pathsSeen(state)) {
      if (!other.visible) continue
      other.ids.forEach((id, i) => {
        if (other.id !== path?.id || !moving.has(id)) spots.push([other.nodes[i * NODE], other.nodes[i * NODE + 1]])
      })
    }
    for (const other of scene.layers) {
      if (!other.seen || other.id === layer || !canStand(other) || other.ride) continue
      spots.push(spotOf(other, state.frame))
    }
    return {xs, ys, spots: spots.filter(spot => this.#inSight(spot)), near}
  }

  /**
   * Draws a point to what is near, and shows to what.
   * @param {Point} point @param {Magnets} to @param {PointerEvent} event @returns {Point}
   */
  snap(point, to, event) {
    const suspended = event.ctrlKey || event.metaKey || event.shiftKey || !this.store.state.prefs.snap
    const found = suspended ? null : this.#toLines(point, to) ?? this.#toNeighbours(point, to.near)
    if (!found) {
      this.clear()
      return point
    }
    this.store.set({guides: found.guides})
    return found.point
  }

  clear() {
    if (this.store.state.guides.length) this.store.set({guides: []})
  }

  /** @param {Point} point @param {Magnets} to @returns {{point: Point, guides: Guide[]}|null} */
  #toLines([px, py], to) {
    const far = (/** @type {Point} */ [x, y]) => Math.hypot(x - px, y - py)
    const spots = to.spots.length > NEAREST ? [...to.spots].sort((a, b) => far(a) - far(b)).slice(0, NEAREST) : to.spots
    const x = this.#pulled([...to.xs, ...spots.map(spot => spot[0])], px)
    const y = this.#pulled([...to.ys, ...spots.map(spot => spot[1])], py)
    if (x === null && y === null) return null
    return {point: [x ?? px, y ?? py], guides: [...(x === null ? [] : [{x}]), ...(y === null ? [] : [{y}])]}
  }

  /** To a line slanted by 45 degrees through a neighbour. @param {Point} point @param {Point[]} near @returns {{point: Point, guides: Guide[]}|null} */
  #toNeighbours([px, py], near) {
    const {scale} = this.view
    for (const [nx, ny] of near) {
      const dx = px - nx, dy = py - ny, side = (Math.abs(dx) + Math.abs(dy)) / 2
      if (Math.abs(Math.abs(dx) - Math.abs(dy)) > PULL / scale || side * scale < TOO_NEAR) continue
      /** @type {Point} */
      const point = [nx + Math.sign(dx) * side, ny + Math.sign(dy) * side]
      return {point, guides: [{line: [[nx, ny], point]}]}
    }
    return null
  }

  /** @param {Point} spot */
  #inSight([x, y]) {
    const {view} = this, left = view.x(x), top = view.y(y)
    return left >= 0 && top >= 0 && left <= view.width && top <= view.height
  }

  /** @param {number[]} lines @param {number} value */
  #pulled(lines, value) {
    const most = PULL / this.view.scale
    let best = value, least = most
    for (const line of lines) if (Math.abs(line - value) < least) [best, least] = [line, Math.abs(line - value)]
    return least < most ? best : null
  }
}

/**
 * Level, upright or slanted by 45 degrees, whichever is nearest.
 * @param {Point} from @param {Point} to @returns {Point}
 */
export function straight([fx, fy], [tx, ty]) {
  const dx = tx - fx, dy = ty - fy
  const eighth = Math.round(Math.atan2(dy, dx) / (Math.PI / 4))
  if (eighth % 2) {
    const side = (Math.abs(dx) + Math.abs(dy)) / 2
    return [fx + Math.sign(dx) * side, fy + Math.sign(dy) * side]
  }
  return eighth % 4 ? [fx, ty] : [tx, fy]
}
