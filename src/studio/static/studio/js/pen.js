/**
 * The tool that draws a path: a click makes a corner, press and drag a curve. The first node waits
 * here for the second; from then on each node is kept as it is made.
 */

import {nodeAt} from "./hits.js"
import {placeOf} from "./layers.js"
import {NODE} from "./protocol.js"
import {straight} from "./snap.js"
import {px, StageDrags} from "./stagedrags.js"
import {chosenPath, pathsSeen} from "./store.js"
import {tr} from "./words.js"

/** @import {At, Drag, Path, Point} from "./types.js" */

/** @typedef {"first"|"last"} End */
/**
 * @typedef {{path: string, run: number, end: End, first: Point|null, handle: Point, steps: number, own: boolean, put: Point|null}} Drawing
 *   the path that is drawn ("" before it is kept), the end it goes on at, the first node while it waits, how many nodes
 *   were kept by this drawing, whether the path is this drawing's own, and where the hand has put a node last
 */
/**
 * @typedef {{tip: Point, handle: Point, home: Point|null}} Tip where a drawing has come to, its handle on, and its other end to close on
 */

/** @type {Point} */
const NONE = [0, 0]
const START = tr`Click for a corner, press and drag for a curve. Start on the end of a path to go on, on the curve to put a node in.`
const GO_ON = tr`Click for a corner, press and drag for a curve. The first node closes; Enter ends, Backspace takes back.`

export class Pen extends StageDrags {
  cursor = "crosshair"
  /** @type {Drawing|null} */
  #drawing = null

  /**
   * @param {import("./stagedrags.js").Hands} hands
   * @param {{changed: () => void, done: () => void}} tells that a drawing begins or ends, and that no other is to follow
   */
  constructor(hands, {changed, done}) {
    super(hands)
    this.changed = changed
    this.done = done
  }

  hint() {
    const {front} = this.store.state.planes, words = this.#drawing ? GO_ON : START
    // The plane stays where it was put, whether the second view shows it or not.
    const px = Math.abs(front), lies = front > 0 ? tr`On the stage it lies ${px} px behind the picture.` : tr`On the stage it lies ${px} px before the picture.`
    return front ? `${words} ${lies}` : words
  }

  /** The pen as it is held over one of the views: a drawing goes on from one to the other. @param {import("./stagedrags.js").Hands} hands @returns {import("./types.js").Tool} */
  over(hands) {
    const here = () => {
      if (this.view !== hands.view) this.#moveTo(hands)
      return this
    }
    return {
      cursor: this.cursor, hint: () => this.hint(), press: at => here().press(at), hover: at => here().hover(at),
      key: event => this.key(event), leave: () => this.leave(),
    }
  }

  /** @param {import("./stagedrags.js").Hands} hands */
  #moveTo(hands) {
    // The first node by itself has no place in space yet.
    if (this.#drawing?.first) this.finish()
    this.store.set({draft: null, guides: []})
    Object.assign(this, hands)
    if (this.#drawing) this.#drawing.put = null
  }

  /** @param {At} at @returns {Drag|null} */
  press(at) {
    const now = this.#tip()
    if (now && closes(at, now)) return this.#close(at, now.home ?? at.point)
    if (!this.#drawing) {
      const end = this.#endAt(at)
      if (end) return this.#goOn(end)
      const path = this.#insertsInto(at)
      if (path) return this.#insert(at, path)
    }
    const here = this.#placed(at)
    // By where it was put last: that node may still be on its way to be kept.
    const last = this.#drawing?.put ?? now?.tip
    const doubled = last && apart(here.point, last) < at.near / 4
    return doubled ? null : this.#node(here)
  }

  /** @param {At} at */
  hover(at) {
    if (this.#drawing) return void this.#preview(this.#placed(at))
    const end = this.#endAt(at), ring = end && placeOf(end.path, end.index)
    if (ring) this.store.set({draft: {ring}})
    else if (this.#insertsInto(at)) this.store.set({draft: {plus: at.point}})
    else if (this.store.state.draft) this.store.set({draft: null})
  }

  /** @param {KeyboardEvent} event */
  key(event) {
    if (!this.#drawing) return false
    const undoes = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !event.shiftKey
    if (event.key === "Enter") this.done()
    else if (event.key === "Escape") this.finish()
    else if (event.key === "Backspace" || event.key === "Delete" || undoes) this.#takeBack()
    else return false
    return true
  }

  leave() { this.finish() }

  drawing() { return this.#drawing !== null }

  finish() {
    if (this.#drawing) this.#end(this.#drawing)
  }

  /** @param {string} id */
  #pathOf(id) { return pathsSeen(this.store.state).find(path => path.id === id) }

  /** The end of an open path there, to go on from. @param {At} at */
  #endAt(at) {
    for (const path of pathsSeen(this.store.state)) {
      if (!path.visible || path.locked || path.parts.length) continue
      const index = nodeAt(path, at)
      const found = endsOf(path).find(end => end.index === index)
      if (found) return {path, ...found}
    }
    return null
  }

  /** The chosen path, where a press puts a node into its curve. @param {At} at */
  #insertsInto(at) {
    const path = chosenPath(this.store.state), rail = at.target.closest("[data-rail]")
    const over = path && rail instanceof SVGElement && rail.dataset.rail === path.id
    return over && nodeAt(path, at) < 0 ? path : undefined
  }

  /** @param {At} at @param {Path} path */
  #insert(at, path) {
    const [x, y] = at.point
    void this.edits.commit({form: "node-insert", fields: {path: path.id, x: px(x), y: px(y), ...this.seen()}})
    return null
  }

  /** @returns {Tip|null} */
  #tip() {
    const drawing = this.#drawing
    if (!drawing) return null
    if (drawing.first) return {tip: drawing.first, handle: drawing.handle, home: null}
    const path = this.#pathOf(drawing.path)
    const mine = path && endsOf(path).filter(end => end.run === drawing.run)
    const own = mine?.find(each => each.end === drawing.end), other = mine?.find(each => each.end !== drawing.end)
    if (!path || !own || !other) return null
    const at = own.index * NODE + (drawing.end === "last" ? 4 : 2)
    const home = other.index === own.index ? null : placeOf(path, other.index)
    return {tip: placeOf(path, own.index), handle: [path.nodes[at], path.nodes[at + 1]], home}
  }

  /** @param {At} at @param {Point} [handle] of the node that is being made, towards what is next */
  #preview(at, handle = NONE) {
    const now = this.#tip()
    if (!now) return
    const [x, y] = now.tip, [cx, cy] = at.point
    const out = plus(now.tip, now.handle), waits = this.#drawing?.first
    this.store.set({draft: {
      d: `M${x} ${y}C${out[0]} ${out[1]} ${cx - handle[0]} ${cy - handle[1]} ${cx} ${cy}`,
      dots: waits ? [waits] : [],
      stems: waits && !isNone(now.handle) ? [[now.tip, out]] : [],
      ring: closes(at, now) ? now.home : null,
    }})
  }

  /** @param {At} at @returns {At} the place drawn to what is near, or level with the last node where Shift is held */
  #placed(at) {
    const now = this.#tip()
    if (at.event.shiftKey && now) return {...at, point: straight(now.tip, at.point)}
    return {...at, point: this.snap.snap(at.point, this.snap.magnets({near: now ? [now.tip] : []}), at.event)}
  }

  /** @param {{path: Path, run: number, end: End}} end */
  #goOn({path, run, end}) {
    this.#drawing = {path: path.id, run, end, first: null, handle: NONE, steps: 0, own: false, put: null}
    this.store.set({chosen: {kind: "path", id: path.id}, nodes: []})
    this.changed()
    return null
  }

  /** @param {At} here @returns {Drag} */
  #node(here) {
    const mine = this.#drawing
    const pulled = (/** @type {At} */ at) => {
      const to = at.event.shiftKey ? straight(here.point, at.point) : at.point
      return this.#still(here, at) ? NONE : minus(to, here.point)
    }
    return {
      eager: true,
      move: at => {
        const handle = pulled(at)
        if (mine) this.#preview({...here, event: at.event}, handle)
        else this.store.set({draft: {dots: [here.point], stems: isNone(handle) ? [] : [[here.point, plus(here.point, handle)]]}})
        if (mine?.path && !mine.first) this.edits.look({form: "draw", fields: this.#fields(mine, here.point, handle, at.event.altKey)})
      },
      drop: at => {
        this.snap.clear()
        if (mine) this.#keep(mine, here.point, pulled(at), at.event.altKey)
        else this.#begin(at, here.point, pulled(at))
      },
      cancel: () => {
        this.snap.clear()
        this.store.set({draft: null})
        this.edits.lookAway()
      },
    }
  }

  /** The first node waits for the second. @param {At} at @param {Point} first @param {Point} handle */
  #begin(at, first, handle) {
    this.#drawing = {path: "", run: 0, end: "last", first, handle, steps: 0, own: true, put: first}
    this.changed()
    this.#preview(at)
  }

  /** @param {Drawing} mine @param {Point} place @param {Point} handle @param {boolean} broken */
  #keep(mine, place, handle, broken) {
    mine.put = place
    const made = this.edits.commit(() => ({form: "draw", fields: this.#fields(mine, place, handle, broken)}))
    void made.then(head => {
      if (!head) return
      mine.steps++
      mine.first = null
      mine.path = head.select.path
    })
  }

  /**
   * @param {Drawing} mine @param {Point} at @param {Point} handle @param {boolean} broken
   * @returns {Record<string, string>}
   */
  #fields(mine, [x, y], [hx, hy], broken) {
    const back = broken ? "0" : ""
    const node = {x: px(x), y: px(y), hx: px(hx), hy: px(hy), bx: back, by: back}
    if (mine.path) return {path: mine.path, run: String(mine.run), end: mine.end, ...this.seen(), ...node}
    const [fx, fy] = mine.first ?? [x, y]
    return {from_x: px(fx), from_y: px(fy), from_hx: px(mine.handle[0]), from_hy: px(mine.handle[1]), ...this.seen(), ...node}
  }

  /**
   * Whether the pointer is where it was pressed. In px of the window: the place may have been drawn to what is near, and
   * the stage may have moved under the pointer.
   * @param {At} pressed @param {At} at
   */
  #still({event: from, near}, {event}) {
    return Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) < (near * this.view.scale) / 2
  }

  /** @param {At} pressed @param {Point} home @returns {Drag} */
  #close(pressed, home) {
    const mine = this.#drawing
    let handle = NONE
    // Asked for when those before it are kept: only then the path may have its name.
    const edit = () => {
      const run = {path: mine?.path ?? "", run: String(mine?.run ?? 0), end: mine?.end ?? "last"}
      return {form: "draw", fields: {...run, close: "true", hx: px(handle[0]), hy: px(handle[1]), ...this.seen()}}
    }
    return {
      move: at => {
        handle = this.#still(pressed, at) ? NONE : minus(at.point, home)
        if (mine?.path) this.edits.look(edit())
      },
      drop: () => {
        this.store.set({draft: null})
        void this.edits.commit(edit).then(head => { if (head) this.#end(mine, tr`closed`) })
      },
      cancel: () => this.edits.lookAway(),
    }
  }

  /** @param {Drawing|null} mine @param {string} [how] */
  #end(mine, how = tr`drawn`) {
    this.#drawing = null
    this.store.set({draft: null, guides: []})
    this.changed()
    // When the nodes before are kept: only then it is as long as it will be.
    void this.edits.commit(() => {
      const path = mine?.path ? this.#pathOf(mine.path) : undefined
      if (path && mine?.steps) this.say(tr`${path.name} is ${how}: ${Math.round(path.length)} px, under Paths.`)
      else if (mine?.first) this.say(tr`A path needs two nodes; the one was let go.`)
      return null
    })
  }

  /** Takes back the last node of this drawing. */
  #takeBack() {
    const mine = this.#drawing
    if (!mine) return
    if (mine.first && !mine.path) {
      this.#drawing = null
      this.store.set({draft: null})
      this.changed()
    } else if (mine.steps) this.#undo(mine)
    else this.finish()
  }

  /** @param {Drawing} mine */
  #undo(mine) {
    mine.steps--
    mine.put = null
    const path = this.#pathOf(mine.path)
    if (mine.own && mine.steps === 0 && path) {
      // With its second node the path is gone; the first one waits again.
      mine.first = placeOf(path, 0)
      mine.handle = [path.nodes[4], path.nodes[5]]
      mine.path = ""
    }
    this.store.set({draft: null})
    void this.edits.step("undo")
  }
}

/**
 * The first and the last node of each open run.
 * @param {Path} path @returns {{run: number, end: End, index: number}[]}
 */
function endsOf(path) {
  let at = 0
  return path.runs.flatMap(([count, closed], run) => {
    const first = at
    at += count
    /** @type {{run: number, end: End, index: number}[]} */
    const found = [{run, end: "first", index: first}, {run, end: "last", index: at - 1}]
    return closed ? [] : found
  })
}

/** @param {At} at @param {Tip} tip */
const closes = (at, {home}) => home !== null && apart(at.point, home) < at.near * 1.2
/** @param {Point} handle */
const isNone = ([x, y]) => !x && !y
/** @param {Point} a @param {Point} b */
const apart = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1])
/** @param {Point} a @param {Point} b @returns {Point} */
const plus = (a, b) => [a[0] + b[0], a[1] + b[1]]
/** @param {Point} a @param {Point} b @returns {Point} */
const minus = (a, b) => [a[0] - b[0], a[1] - b[1]]
