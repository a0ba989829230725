/** Drags of a path: its nodes, their handles, the frame round it, all of it, and a band that takes nodes. */

import {boxOfNodes} from "./hits.js"
import {partOf, placeOf} from "./layers.js"
import {straight} from "./snap.js"
import {px, StageDrags} from "./stagedrags.js"
import {pathsSeen} from "./store.js"
import {tr} from "./words.js"

/** @import {At, Drag, Edit, Path, Point} from "./types.js" */

const SMALLEST = 0.01
const TURNS = 4

export class PathDrags extends StageDrags {
  /** @param {At} at @param {Path} path @param {number} index @returns {Drag|null} */
  node(at, path, index) {
    if (path.parts.length) return this.#ofPart(path, index, (part, own) => this.node(at, part, own)) ?? this.whole(at, path)
    const id = path.ids[index], add = at.event.shiftKey
    const before = this.store.state.nodes, had = before.includes(id)
    const chosen = had ? before : add ? [...before, id] : [id]
    this.store.set({chosen: {kind: "path", id: path.id}, nodes: chosen})
    if (path.locked) return this.refusing(at, tr`${path.name} is locked; unlock it to shape it.`)
    if (path.marks[index].includes("l")) return this.refusing(at, tr`The node is locked; unlock it to move it.`)
    if (at.event.altKey) return this.#newHandles(at, path, index)
    const from = placeOf(path, index)
    const pull = this.snap.magnets({path, moving: new Set(chosen), near: beside(path, index)})
    /** @param {At} now @returns {Edit} */
    const edit = now => {
      const wanted = moved(from, at, now)
      const [x, y] = now.event.shiftKey ? straight(from, wanted) : this.snap.snap(wanted, pull, now.event)
      const by = {dx: px(x - from[0]), dy: px(y - from[1])}
      return {form: "node-move", fields: {path: path.id, nodes: chosen.join(" "), ...by, ...this.seen()}}
    }
    return this.dragging(at, edit, () => {
      if (add && had) this.store.set({nodes: before.filter(other => other !== id)})
      else if (!add) this.store.set({nodes: [id]})
    })
  }

  /**
   * What is pressed of a path that is made of others is a node of one of these.
   * @param {Path} path @param {number} index @param {(part: Path, index: number) => Drag|null} drag @returns {Drag|null}
   */
  #ofPart(path, index, drag) {
    const found = partOf(pathsSeen(this.store.state), path, index)
    if (!found) return null
    this.store.set({chosen: {kind: "path", id: found.path.id}, nodes: []})
    return drag(found.path, found.index)
  }

  /** Alt-drag on a node pulls new handles out of it. @param {At} at @param {Path} path @param {number} index */
  #newHandles(at, path, index) {
    const from = placeOf(path, index), id = path.ids[index]
    return this.dragging(at, now => {
      const [x, y] = now.event.shiftKey ? straight(from, now.point) : now.point
      const handle = {side: "out", hx: px(x - from[0]), hy: px(y - from[1]), both: "true"}
      return {form: "handle", fields: {path: path.id, nodes: id, ...handle, ...this.seen()}}
    })
  }

  /** @param {At} at @param {Path} path @param {{index: number, side: "in"|"out", place: Point}} handle @returns {Drag|null} */
  handle(at, path, {index, side, place: knob}) {
    if (path.parts.length) return this.#ofPart(path, index, (part, own) => this.handle(at, part, {index: own, side, place: knob})) ?? this.whole(at, path)
    const from = placeOf(path, index)
    if (path.locked || path.marks[index].includes("l")) return this.refusing(at, tr`Locked; unlock it to shape it.`)
    return this.dragging(at, now => {
      const wanted = moved(knob, at, now)
      const [x, y] = now.event.shiftKey ? straight(from, wanted) : wanted
      const free = at.event.altKey || now.event.altKey ? "true" : ""
      const handle = {side, hx: px(x - from[0]), hy: px(y - from[1]), free}
      return {form: "handle", fields: {path: path.id, nodes: path.ids[index], ...handle, ...this.seen()}}
    })
  }

  /** Corner 0..3 scales, 4 turns. @param {At} at @param {Path} path @param {number} part */
  frame(at, path, part) {
    const span = boxOfNodes(this.store.state)
    if (!span) return null
    const [x, y, w, h] = span
    /** @type {Point} */
    const middle = [x + w / 2, y + h / 2]
    /** @type {Point[]} */
    const corners = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]]
    const corner = corners[part] ?? middle
    const fields = {path: path.id, nodes: this.store.state.nodes.join(" "), ...this.seen()}
    return this.dragging(at, now => {
      /** @type {Point} */
      const about = now.event.altKey || part === TURNS ? middle : [2 * middle[0] - corner[0], 2 * middle[1] - corner[1]]
      const change = part === TURNS ? turned(middle, at, now) : scaled(corner, about, at, now)
      return {form: "path-transform", fields: {...fields, pivot_x: px(about[0]), pivot_y: px(about[1]), ...change}}
    })
  }

  /** @param {At} at @param {Path} path */
  whole(at, path) {
    if (path.locked) return this.refusing(at, tr`${path.name} is locked; unlock it to move it.`)
    if (path.parts.length) return this.refusing(at, tr`${path.name} is made of other paths; drag its nodes, which are theirs.`)
    return this.dragging(at, now => {
      const [x, y] = now.event.shiftKey ? straight(at.point, now.point) : now.point
      const by = {dx: px(x - at.point[0]), dy: px(y - at.point[1])}
      return {form: "path-transform", fields: {path: path.id, ...by, ...this.seen()}}
    }, () => this.store.set({nodes: []}))
  }

  /**
   * A band that takes the nodes inside it; a click lets go of them. Nothing of the scene changes.
   * @param {At} at @param {Path} path @returns {Drag}
   */
  band(at, path) {
    const {store} = this, before = store.state.nodes, adds = at.event.shiftKey
    const taken = (/** @type {Point} */ to) => {
      const found = path.ids.filter((_, i) => isWithin(placeOf(path, i), at.point, to))
      return adds ? [...new Set([...before, ...found])] : found
    }
    return {
      move: now => store.set({draft: {band: [at.point, now.point]}, nodes: taken(now.point)}),
      drop(now) {
        const band = store.state.draft?.band
        store.set({draft: null})
        if (!band && !adds) store.set({nodes: []})
        else if (band) {
          const nodes = taken(now.point)
          store.set(nodes.length ? {chosen: {kind: "path", id: path.id}, nodes} : {nodes})
        }
      },
      cancel: () => store.set({draft: null, nodes: before}),
    }
  }
}

/** The nodes before and after, for lines to snap to. @param {Path} path @param {number} index */
const beside = (path, index) =>
  [index - 1, index + 1].filter(i => i >= 0 && i < path.ids.length).map(i => placeOf(path, i))

/**
 * Where a place has come to that is dragged along.
 * @param {Point} place @param {At} from @param {At} to @returns {Point}
 */
export const moved = ([x, y], from, to) => [x + to.point[0] - from.point[0], y + to.point[1] - from.point[1]]

/** @param {Point} place @param {Point} a @param {Point} b two corners of a box */
const isWithin = ([x, y], a, b) =>
  x >= Math.min(a[0], b[0]) && x <= Math.max(a[0], b[0]) && y >= Math.min(a[1], b[1]) && y <= Math.max(a[1], b[1])

/** @param {Point} middle @param {At} from @param {At} to */
function turned(middle, from, to) {
  const angle = (/** @type {Point} */ [x, y]) => (Math.atan2(y - middle[1], x - middle[0]) * 180) / Math.PI
  const turn = angle(to.point) - angle(from.point)
  return {turn: px(to.event.shiftKey ? Math.round(turn / 15) * 15 : turn)}
}

/** @param {Point} corner @param {Point} about @param {At} from @param {At} to */
function scaled(corner, about, from, to) {
  const scale = [0, 1].map(i => {
    const reach = corner[i] - about[i]
    const share = reach ? (reach + to.point[i] - from.point[i]) / reach : 1
    return Math.abs(share) < SMALLEST ? SMALLEST : share
  })
  if (to.event.shiftKey) scale.fill(Math.max(...scale.map(Math.abs)))
  return {sx: px(scale[0] * 100), sy: px(scale[1] * 100)}
}
