/**
 * Snapping: what is dragged is drawn to the frame's edges, middle and thirds, to nodes, to still
 * layers' anchors, and to level, upright and slanted lines from the neighbours. Holding Ctrl suspends it.
 */

import {NODE} from "./protocol.js"
import {canStand, spotOf} from "./layers.js"
import {pathsSeen, shown} from "./store.js"

/** @import {Guide, Path, Point} from "./types.js" */

const PULL = 5
/** Paths of more nodes than this do not offer each of them. */
const MOST = 500

/**
 * @typedef {{xs: number[], ys: number[], near: Point[]}} Magnets what pulls: upright and level lines, and the neighbours
 * @param {import("./store.js").Store} store
 * @param {import("./view.js").StageView} view
 */
export function createSnap(store, view) {
  /**
   * What may pull, as things are now.
   * @param {{path?: Path, moving?: ReadonlySet<string>, layer?: string, near?: Point[]}} [except] @returns {Magnets}
   */
  function magnets({path, moving = new Set(), layer, near = []} = {}) {
    const {state} = store, scene = shown(state)
    if (!scene) return {xs: [], ys: [], near}
    const {width, height} = scene.settings
    const xs = [0, width / 3, width / 2, (2 * width) / 3, width], ys = [0, height / 3, height / 2, (2 * height) / 3, height]
    for (const other of pathsSeen(state)) {
      if (!other.visible || other.ids.length > MOST) continue
      other.ids.forEach((id, i) => {
        if (other.id === path?.id && moving.has(id)) return
        xs.push(other.nodes[i * NODE])
        ys.push(other.nodes[i * NODE + 1])
      })
    }
    for (const other of scene.layers) {
      if (!other.seen || other.id === layer || !canStand(other) || other.ride) continue
      const [x, y] = spotOf(other, state.frame)
      xs.push(x)
      ys.push(y)
    }
    return {xs, ys, near}
  }

  /** @param {number[]} lines @param {number} value */
  function pulled(lines, value) {
    let best = value, least = PULL / view.scale
    for (const line of lines) if (Math.abs(line - value) < least) [best, least] = [line, Math.abs(line - value)]
    return least < PULL / view.scale ? best : null
  }

  /**
   * Draws a point to what is near, and shows to what.
   * @param {Point} point @param {Magnets} to @param {PointerEvent} event @returns {Point}
   */
  function snap([px, py], to, event) {
    if (event.ctrlKey || event.metaKey || event.shiftKey || !store.state.prefs.snap) return rest([px, py])
    const x = pulled(to.xs, px), y = pulled(to.ys, py)
    /** @type {Guide[]} */
    const guides = []
    if (x !== null) guides.push({x})
    if (y !== null) guides.push({y})
    if (guides.length) {
      store.set({guides})
      return [x ?? px, y ?? py]
    }
    for (const [nx, ny] of to.near) {
      const dx = px - nx, dy = py - ny, side = (Math.abs(dx) + Math.abs(dy)) / 2
      if (Math.abs(Math.abs(dx) - Math.abs(dy)) > PULL / view.scale || side * view.scale < 12) continue
      /** @type {Point} */
      const found = [nx + Math.sign(dx) * side, ny + Math.sign(dy) * side]
      store.set({guides: [{line: [[nx, ny], found]}]})
      return found
    }
    return rest([px, py])
  }

  /** @param {Point} point */
  function rest(point) {
    clear()
    return point
  }

  function clear() {
    if (store.state.guides.length) store.set({guides: []})
  }

  return {magnets, snap, clear}
}

/** @typedef {ReturnType<typeof createSnap>} Snap */

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
