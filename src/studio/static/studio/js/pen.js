/**
 * The tool that draws a path: a click makes a corner, press and drag a curve. The first node waits
 * here for the second; from then on each node is kept as it is made.
 */

import {nodeAt} from "./hits.js"
import {NODE} from "./protocol.js"
import {straight} from "./snap.js"
import {chosenPath, pathsSeen} from "./store.js"

/** @import {At, Drag, Path, Point, Tool} from "./types.js" */

/**
 * @typedef {{path: string, run: number, end: "first"|"last", first: Point|null, handle: Point, steps: number, own: boolean}} Drawing
 *   the path that is drawn ("" before it is kept), the end it goes on at, the first node while it waits, how many nodes
 *   were kept by this drawing, and whether the path is this drawing's own
 */

/** @param {number} value */
const px = value => String(+value.toFixed(3))
/** @param {Point} handle */
const still = handle => !handle[0] && !handle[1]

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, snap: import("./snap.js").Snap,
 *   say: (words: string) => void, changed: () => void}} tools ``changed`` is called when a drawing begins or ends
 * @returns {Tool & {drawing: () => boolean, finish: () => void}}
 */
export function createPen({store, edits, snap, say, changed}) {
  /** @type {Drawing|null} */
  let drawing = null

  /** @param {string} id */
  const pathOf = id => pathsSeen(store.state).find(path => path.id === id)

  /** The first and the last node of each open run: [run, end, index]. @param {Path} path @returns {[number, "first"|"last", number][]} */
  function ends(path) {
    let at = 0
    return path.runs.flatMap(([count, closed], run) => {
      const first = at
      at += count
      /** @type {[number, "first"|"last", number][]} */
      const found = [[run, "first", first], [run, "last", at - 1]]
      return closed ? [] : found
    })
  }

  /** @param {Path} path @param {number} index @returns {Point} */
  const place = (path, index) => [path.nodes[index * NODE], path.nodes[index * NODE + 1]]

  /** The end of an open path there, to go on from. @param {At} at */
  function endAt(at) {
    for (const path of pathsSeen(store.state)) {
      if (!path.visible || path.locked) continue
      const index = nodeAt(path, at)
      const found = ends(path).find(end => end[2] === index)
      if (found) return {path, run: found[0], end: found[1]}
    }
    return null
  }

  /** Where the drawing has come to, its handle on, and its other end to close on. @returns {{tip: Point, handle: Point, home: Point|null}|null} */
  function tip() {
    if (!drawing) return null
    if (drawing.first) return {tip: drawing.first, handle: drawing.handle, home: null}
    const path = pathOf(drawing.path)
    const mine = path && ends(path).filter(end => end[0] === drawing?.run)
    const own = mine?.find(end => end[1] === drawing?.end), other = mine?.find(end => end[1] !== drawing?.end)
    if (!path || !own || !other) return null
    const at = own[2] * NODE + (drawing.end === "last" ? 4 : 2)
    return {tip: place(path, own[2]), handle: [path.nodes[at], path.nodes[at + 1]], home: other[2] === own[2] ? null : place(path, other[2])}
  }

  /** @param {At} at @param {Point} [handle] of the node that is being made, towards what is next */
  function preview(at, handle) {
    const now = tip()
    if (!now) return
    const [x, y] = now.tip, [cx, cy] = at.point
    const end = handle && !still(handle) ? [cx - handle[0], cy - handle[1]] : [cx, cy]
    store.set({draft: {
      d: `M${x} ${y}C${x + now.handle[0]} ${y + now.handle[1]} ${end[0]} ${end[1]} ${cx} ${cy}`,
      dots: drawing?.first ? [drawing.first] : [],
      stems: drawing?.first && !still(now.handle) ? [[now.tip, [x + now.handle[0], y + now.handle[1]]]] : [],
      ring: closes(at, now) ? now.home : null,
    }})
  }

  /** @param {At} at @param {{home: Point|null}} now */
  const closes = (at, {home}) => Boolean(home) && Math.hypot(at.point[0] - (home?.[0] ?? 0), at.point[1] - (home?.[1] ?? 0)) < at.reach * 1.2

  /** @param {At} at @returns {At} the place drawn to what is near, or level with the last node where Shift is held */
  function placed(at) {
    const now = tip()
    if (at.event.shiftKey && now) return {...at, point: straight(now.tip, at.point)}
    return {...at, point: snap.snap(at.point, snap.magnets({near: now ? [now.tip] : []}), at.event)}
  }

  /** @param {At} at @returns {Drag|null} */
  function press(at) {
    const now = tip()
    if (now && closes(at, now)) return close(now.home ?? at.point)
    if (!drawing) {
      const end = endAt(at)
      if (end) return goOn(end)
      const path = chosenPath(store.state)
      const rail = at.target.closest("[data-rail]")
      if (path && rail instanceof SVGElement && rail.dataset.rail === path.id && nodeAt(path, at) < 0) {
        void edits.commit({form: "node-insert", fields: {path: path.id, x: px(at.point[0]), y: px(at.point[1]), seen_at: String(store.state.frame)}})
        return null
      }
    }
    const here = placed(at)
    if (now && Math.hypot(here.point[0] - now.tip[0], here.point[1] - now.tip[1]) < at.reach / 4) return null // a doubled click
    return node(here)
  }

  /** @param {{path: Path, run: number, end: "first"|"last"}} end */
  function goOn({path, run, end}) {
    drawing = {path: path.id, run, end, first: null, handle: [0, 0], steps: 0, own: false}
    store.set({chosen: {kind: "path", id: path.id}, nodes: []})
    changed()
    return null
  }

  /** @param {At} here @returns {Drag} */
  function node(here) {
    /** @type {Point} */
    let handle = [0, 0]
    const mine = drawing
    /** @param {At} at */
    const pull = at => {
      const to = at.event.shiftKey ? straight(here.point, at.point) : at.point
      handle = Math.hypot(to[0] - here.point[0], to[1] - here.point[1]) < here.reach / 2 ? [0, 0] : [to[0] - here.point[0], to[1] - here.point[1]]
    }
    return {
      eager: true,
      move(at) {
        pull(at)
        if (!mine) store.set({draft: {dots: [here.point], stems: still(handle) ? [] : [[here.point, [here.point[0] + handle[0], here.point[1] + handle[1]]]]}})
        else preview({...here, event: at.event}, handle)
        if (mine?.path && !mine.first) edits.look({form: "draw", fields: fields(mine, here.point, handle, at.event.altKey)})
      },
      drop(at) {
        pull(at)
        snap.clear()
        if (!mine) {
          drawing = {path: "", run: 0, end: "last", first: here.point, handle, steps: 0, own: true}
          changed()
          preview(at)
          return
        }
        const alt = at.event.altKey
        const made = edits.commit(() => ({form: "draw", fields: fields(mine, here.point, handle, alt)}))
        void made.then(head => {
          if (!head) return
          mine.steps++
          mine.first = null
          mine.path = head.select.path
        })
      },
      cancel() {
        snap.clear()
        store.set({draft: null})
        edits.lookAway()
      },
    }
  }

  /** @param {Drawing} mine @param {Point} at @param {Point} handle @param {boolean} broken @returns {Record<string, string>} */
  function fields(mine, [x, y], [hx, hy], broken) {
    const back = broken ? "0" : ""
    const node = {x: px(x), y: px(y), hx: px(hx), hy: px(hy), bx: back, by: back}
    if (mine.path) return {path: mine.path, run: String(mine.run), end: mine.end, seen_at: String(store.state.frame), ...node}
    const [fx, fy] = mine.first ?? [x, y]
    return {from_x: px(fx), from_y: px(fy), from_hx: px(mine.handle[0]), from_hy: px(mine.handle[1]), ...node}
  }

  /** @param {Point} home @returns {Drag} */
  function close(home) {
    const mine = drawing
    /** @type {Point} */
    let handle = [0, 0]
    const edit = () => ({form: "draw", fields: {path: mine?.path ?? "", run: String(mine?.run ?? 0), end: mine?.end ?? "last", close: "true", seen_at: String(store.state.frame), hx: px(handle[0]), hy: px(handle[1])}})
    return {
      move(at) {
        handle = [at.point[0] - home[0], at.point[1] - home[1]]
        if (Math.hypot(...handle) < at.reach) handle = [0, 0]
        if (mine?.path) edits.look(edit())
      },
      drop() {
        store.set({draft: null})
        void edits.commit(edit).then(head => { if (head) end(mine, "closed") })
      },
      cancel: () => edits.lookAway(),
    }
  }

  /** @param {Drawing|null} mine @param {string} [how] */
  function end(mine, how = "drawn") {
    drawing = null
    store.set({draft: null, guides: []})
    changed()
    const path = mine?.path ? pathOf(mine.path) : undefined
    if (path && mine?.steps) say(`${path.name} is ${how}: ${Math.round(path.length)} px, under Paths.`)
    else if (mine?.first) say("A path needs two nodes; the one was let go.")
  }

  function finish() {
    if (drawing) end(drawing)
  }

  /** Takes back the last node of this drawing. @returns {boolean} */
  function takeBack() {
    const mine = drawing
    if (!mine) return false
    if (mine.first && !mine.path) {
      drawing = null
      store.set({draft: null})
      changed()
    } else if (mine.steps) {
      mine.steps--
      const begun = mine.own && mine.steps === 0
      const path = pathOf(mine.path)
      if (begun && path) {
        mine.first = place(path, 0)
        mine.handle = [path.nodes[4], path.nodes[5]]
        mine.path = ""
      }
      store.set({draft: null})
      void edits.step("undo")
    } else finish()
    return true
  }

  return {
    cursor: "crosshair",
    hint: () => drawing
      ? "Click for a corner, press and drag for a curve. The first node closes; Enter ends, Backspace takes back."
      : "Click for a corner, press and drag for a curve. Start on the end of a path to go on, on the curve to put a node in.",
    press,
    hover(at) {
      if (drawing) {
        preview(placed(at))
        return
      }
      const end = endAt(at)
      const path = chosenPath(store.state), rail = at.target.closest("[data-rail]")
      const inserts = !end && path && rail instanceof SVGElement && rail.dataset.rail === path.id && nodeAt(path, at) < 0
      const ring = end ? place(end.path, ends(end.path).find(e => e[0] === end.run && e[1] === end.end)?.[2] ?? 0) : null
      if (ring || inserts || store.state.draft) store.set({draft: ring ? {ring} : inserts ? {plus: at.point} : null})
    },
    key(event) {
      if (!drawing) return false
      if (event.key === "Enter") finish()
      else if (event.key === "Backspace" || event.key === "Delete") takeBack()
      else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !event.shiftKey) takeBack()
      else if (event.key === "Escape") finish()
      else return false
      return true
    },
    leave: finish,
    drawing: () => drawing !== null,
    finish,
  }
}
