/** The tool that picks and moves: nodes, handles, the frame of a path, whole paths, still layers. */

import {frameAt, handleAt, hits, keyedAt, layerAt, nodeAt, spanOf} from "./hits.js"
import {canStand, groupMatrix, mapped, spotOf} from "./layers.js"
import {NODE} from "./protocol.js"
import {straight} from "./snap.js"
import {stopsOf} from "./stops.js"
import {chosenIds, chosenLayer, chosenPath, layersChosen, pathsSeen} from "./store.js"

/** @import {At, Drag, Edit, Layer, Path, Point, Tool} from "./types.js" */

const FAR_ENOUGH = 3

/** @param {number} value */
const px = value => String(+value.toFixed(3))

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, view: import("./view.js").StageView,
 *   snap: import("./snap.js").Snap, say: (words: string) => void}} tools
 * @returns {Tool}
 */
export function createPick({store, edits, view, snap, say}) {
  /**
   * A drag that begins once the pointer has really moved, looks ahead at an edit and commits it.
   * @param {At} begun @param {(at: At) => Edit|null} edit @param {() => void} [click] where it was no drag
   * @returns {Drag}
   */
  function dragging(begun, edit, click) {
    let moved = false
    return {
      eager: true,
      move(at) {
        moved ||= Math.hypot(at.event.clientX - begun.event.clientX, at.event.clientY - begun.event.clientY) >= FAR_ENOUGH
        const wanted = moved ? edit(at) : null
        if (wanted) edits.look(wanted)
      },
      drop(at) {
        const wanted = moved ? edit(at) : null
        snap.clear()
        if (wanted) void edits.commit(wanted)
        else if (moved) edits.lookAway()
        else click?.()
      },
      cancel() {
        snap.clear()
        edits.lookAway()
      },
    }
  }

  /** Places of the stage are said with the frame in which they are seen. */
  const seen = () => ({seen_at: String(store.state.frame)})

  /** @param {Path} path @param {number} index @returns {Point} */
  const place = (path, index) => [path.nodes[index * NODE], path.nodes[index * NODE + 1]]

  /** The nodes before and after, for lines to snap to. @param {Path} path @param {number} index */
  const beside = (path, index) => [index - 1, index + 1].filter(i => i >= 0 && i < path.ids.length).map(i => place(path, i))

  /** @param {At} at @param {Path} path @param {number} index */
  function dragNodes(at, path, index) {
    const id = path.ids[index], {nodes} = store.state
    const had = nodes.includes(id)
    const add = at.event.shiftKey
    const chosen = add ? (had ? nodes : [...nodes, id]) : had ? nodes : [id]
    store.set({chosen: {kind: "path", id: path.id}, nodes: chosen})
    if (path.locked) return dragging(at, refusing(`${path.name} is locked; unlock it to shape it.`))
    if (path.marks[index].includes("l")) return dragging(at, refusing("The node is locked; unlock it to move it."))
    const from = place(path, index)
    if (at.event.altKey) return dragOut(at, path, index)
    const pull = snap.magnets({path, moving: new Set(chosen), near: beside(path, index)})
    /** @param {At} now @returns {Edit} */
    const edit = now => {
      /** @type {Point} */
      const wanted = [from[0] + now.point[0] - at.point[0], from[1] + now.point[1] - at.point[1]]
      const [x, y] = now.event.shiftKey ? straight(from, wanted) : snap.snap(wanted, pull, now.event)
      return {form: "node-move", fields: {path: path.id, nodes: chosen.join(" "), dx: px(x - from[0]), dy: px(y - from[1]), ...seen()}}
    }
    return dragging(at, edit, () => {
      if (add && had) store.set({nodes: nodes.filter(other => other !== id)})
      else if (!add) store.set({nodes: [id]})
    })
  }

  /** A drag that only says why nothing moves. @param {string} words */
  function refusing(words) {
    let said = false
    return () => {
      if (!said) say(words)
      said = true
      return null
    }
  }

  /** Alt-drag on a node pulls new handles out of it. @param {At} at @param {Path} path @param {number} index */
  function dragOut(at, path, index) {
    const from = place(path, index), id = path.ids[index]
    return dragging(at, now => {
      const [x, y] = now.event.shiftKey ? straight(from, now.point) : now.point
      const change = {path: path.id, nodes: id, side: "out", hx: px(x - from[0]), hy: px(y - from[1]), ...seen()}
      return {form: "handle", fields: {...change, both: "true"}}
    })
  }

  /** @param {At} at @param {Path} path @param {{index: number, side: "in"|"out", place: Point}} handle */
  function dragHandle(at, path, {index, side, place: knob}) {
    const from = place(path, index)
    if (path.locked || path.marks[index].includes("l")) return dragging(at, refusing("Locked; unlock it to shape it."))
    return dragging(at, now => {
      /** @type {Point} */
      const wanted = [knob[0] + now.point[0] - at.point[0], knob[1] + now.point[1] - at.point[1]]
      const [x, y] = now.event.shiftKey ? straight(from, wanted) : wanted
      const free = at.event.altKey || now.event.altKey ? "true" : ""
      return {form: "handle", fields: {path: path.id, nodes: path.ids[index], side, hx: px(x - from[0]), hy: px(y - from[1]), free, ...seen()}}
    })
  }

  /** Corner 0..3 scales, 4 turns. @param {At} at @param {Path} path @param {number} part */
  function dragFrame(at, path, part) {
    const span = spanOf(store.state)
    if (!span) return null
    const [x, y, w, h] = span, middle = /** @type {Point} */ ([x + w / 2, y + h / 2])
    const corner = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]][part] ?? middle
    const fields = {path: path.id, nodes: store.state.nodes.join(" "), ...seen()}
    return dragging(at, now => {
      const about = now.event.altKey || part === 4 ? middle : [2 * middle[0] - corner[0], 2 * middle[1] - corner[1]]
      const pivot = {pivot_x: px(about[0]), pivot_y: px(about[1])}
      if (part === 4) {
        const angle = (/** @type {Point} */ p) => (Math.atan2(p[1] - middle[1], p[0] - middle[0]) * 180) / Math.PI
        const turn = angle(now.point) - angle(at.point)
        return {form: "path-transform", fields: {...fields, ...pivot, turn: px(now.event.shiftKey ? Math.round(turn / 15) * 15 : turn)}}
      }
      const scale = [0, 1].map(i => {
        const reach = corner[i] - about[i]
        const share = reach ? (reach + now.point[i] - at.point[i]) / reach : 1
        return Math.abs(share) < 0.01 ? 0.01 : share
      })
      if (now.event.shiftKey) scale.fill(Math.max(...scale.map(Math.abs)))
      return {form: "path-transform", fields: {...fields, ...pivot, sx: px(scale[0] * 100), sy: px(scale[1] * 100)}}
    })
  }

  /** @param {At} at @param {Path} path */
  function dragPath(at, path) {
    if (path.locked) return dragging(at, refusing(`${path.name} is locked; unlock it to move it.`))
    return dragging(at, now => {
      const [x, y] = now.event.shiftKey ? straight(at.point, now.point) : now.point
      return {form: "path-transform", fields: {path: path.id, dx: px(x - at.point[0]), dy: px(y - at.point[1]), ...seen()}}
    }, () => store.set({nodes: []}))
  }

  /** @param {At} at @param {Layer} layer */
  function dragLayer(at, layer) {
    const several = chosenIds(store.state)
    if (at.event.shiftKey && several.length && !several.includes(layer.id)) store.set({chosen: layersChosen([...several.filter(id => id !== layer.id), layer.id])})
    else if (!several.includes(layer.id)) store.set({chosen: {kind: "layer", id: layer.id}})
    if (!canStand(layer)) return null
    if (store.state.pin) return dragPin(at, layer)
    const layers = chosenIds(store.state), together = layers.length > 1
    if (layer.ride && !together) {
      const path = store.state.scene?.paths.find(p => p.id === layer.ride?.path)
      return dragging(at, refusing(`${layer.name} rides ${path?.name}; its place is set by the ride. Turn on Pin (N) to place it at this time.`))
    }
    const pull = snap.magnets({layer: layer.id})
    const from = spotOf(layer, store.state.frame), frame = String(store.state.frame)
    return dragging(at, now => {
      const [fx, fy] = from
      /** @type {Point} */
      const wanted = [fx + now.point[0] - at.point[0], fy + now.point[1] - at.point[1]]
      const [x, y] = now.event.shiftKey ? straight([fx, fy], wanted) : snap.snap(wanted, pull, now.event)
      /** @type {Record<string, string>} */
      const where = together ? {layers: layers.join(" "), dx: px(x - fx), dy: px(y - fy)} : {to_x: px(x), to_y: px(y)}
      return {form: "place", fields: {layer: layer.id, frame, ...where}}
    }, () => {
      if (together && !at.event.shiftKey) store.set({chosen: {kind: "layer", id: layer.id}})
    })
  }

  /** With Pin on, a layer is placed at this time: a node in its path and a peg on it. @param {At} at @param {Layer} layer */
  function dragPin(at, layer) {
    const [fx, fy] = spotOf(layer, store.state.frame), frame = String(store.state.frame)
    const pull = snap.magnets({layer: layer.id})
    return dragging(at, now => {
      /** @type {Point} */
      const wanted = [fx + now.point[0] - at.point[0], fy + now.point[1] - at.point[1]]
      const [x, y] = now.event.shiftKey ? straight([fx, fy], wanted) : snap.snap(wanted, pull, now.event)
      return {form: "pin", fields: {layer: layer.id, frame, x: x.toFixed(2), y: y.toFixed(2)}}
    })
  }

  /** The point a rider looks at. @param {At} at @param {Layer} rider */
  const dragSpot = (at, rider) => dragging(at, now => {
    const [x, y] = snap.snap(now.point, snap.magnets({layer: rider.id}), now.event)
    return {form: "facing", fields: {layer: rider.id, spot_x: px(x), spot_y: px(y), ...seen()}}
  })

  /** A place that keys give a layer at their time; only what has a key there moves. @param {At} at @param {Layer} layer @param {number} time */
  function dragKeyed(at, layer, time) {
    const [fx, fy] = spotOf(layer, Math.round(time))
    const has = (/** @type {string} */ name) => layer.keys.some(track => track.property === name && track.keys.some(key => Math.abs(key[1] - time) < 1e-6))
    return dragging(at, now => {
      const [x, y] = [fx + now.point[0] - at.point[0], fy + now.point[1] - at.point[1]]
      return {form: "place", fields: {layer: layer.id, frame: String(time), ...(has("x") ? {x: px(x)} : {}), ...(has("y") ? {y: px(y)} : {})}}
    }, () => store.set({picked: stopsOf(layer).filter(stop => Math.abs(stop.time - time) < 1e-6 && "xy".includes(stop.property)).map(stop => stop.item)}))
  }

  /** A band that takes the nodes inside it; a click lets go of them. Nothing of the scene changes. @param {At} at @param {Path} path @returns {Drag} */
  function dragBand(at, path) {
    const before = store.state.nodes
    const inside = (/** @type {Point} */ [x, y]) => {
      const [x0, y0] = at.point
      const found = path.ids.filter((_, i) => {
        const [nx, ny] = place(path, i)
        return nx >= Math.min(x0, x) && nx <= Math.max(x0, x) && ny >= Math.min(y0, y) && ny <= Math.max(y0, y)
      })
      return at.event.shiftKey ? [...new Set([...before, ...found])] : found
    }
    return {
      move: now => store.set({draft: {band: [at.point, now.point]}, nodes: inside(now.point)}),
      drop(now) {
        const band = store.state.draft?.band
        store.set({draft: null})
        if (!band && !at.event.shiftKey) store.set({nodes: []})
        else if (band) {
          const nodes = inside(now.point)
          store.set(nodes.length ? {chosen: {kind: "path", id: path.id}, nodes} : {nodes})
        }
      },
      cancel: () => store.set({draft: null, nodes: before}),
    }
  }

  /** A double click on a group goes into it: its members are picked then. @param {At} at */
  function enter(at) {
    const layer = layerAt(store.state, at.point)
    if (!layer?.can.hold) return
    store.set({inside: layer.id})
    const member = layerAt(store.state, at.point)
    if (member) store.set({chosen: {kind: "layer", id: member.id}})
  }

  /** @param {At} at @returns {string} the id of the rail there */
  const railAt = at => {
    const rail = at.target.closest("[data-rail]")
    return rail instanceof SVGElement ? rail.dataset.rail ?? "" : ""
  }

  return {
    cursor: "",
    hint: () => "",
    press(at) {
      const {state} = store
      const path = state.prefs.rails ? chosenPath(state) : undefined
      const handle = path && handleAt(state, at)
      const index = nodeAt(path, at, state.nodes)
      if (path && handle && !(index >= 0 && !state.nodes.includes(path.ids[index]))) return dragHandle(at, path, handle)
      if (path && index >= 0) return dragNodes(at, path, index)
      const rider = chosenLayer(state)
      const spot = rider?.ride?.spot && mapped(groupMatrix(state.scene, rider.parent, state.frame) ?? [1, 0, 0, 1, 0, 0], rider.ride.spot)
      if (rider && spot && Math.hypot(spot[0] - at.point[0], spot[1] - at.point[1]) < at.reach) return dragSpot(at, rider)
      const keyed = rider && keyedAt(rider, at)
      if (rider && keyed !== undefined) return dragKeyed(at, rider, keyed)
      const part = path ? frameAt(state, view, at) : -1
      if (path && part >= 0) return dragFrame(at, path, part)
      // With Pin on the chosen layer is meant, whatever lies over it.
      const layer = rider && state.pin && hits(rider, state.frame, at.point) ? rider : layerAt(state, at.point)
      const rail = railAt(at)
      if (rail && at.event.altKey) {
        store.set({chosen: {kind: "path", id: rail}})
        void edits.commit({form: "node-insert", fields: {path: rail, x: px(at.point[0]), y: px(at.point[1]), ...seen()}})
        return null
      }
      const onChosen = layer && state.chosen?.id === layer.id
      if (rail && !onChosen) {
        const was = state.chosen?.kind === "path" && state.chosen.id === rail
        store.set({chosen: {kind: "path", id: rail}})
        const ridden = pathsSeen(state).find(p => p.id === rail)
        return was && ridden ? dragPath(at, ridden) : null
      }
      // The ground behind everything gives way to a band round nodes.
      if (layer && !(path && layer.ground && !onChosen && state.chosen?.kind === "path")) return dragLayer(at, layer)
      return path ? dragBand(at, path) : null
    },
    double(at) {
      const path = chosenPath(store.state), index = nodeAt(path, at, store.state.nodes)
      if (!path || index < 0) return enter(at)
      const to = path.marks[index][0] === "c" ? "round" : "corner"
      void edits.commit({form: "node-change", fields: {path: path.id, nodes: path.ids[index], to}})
    },
    hover(at) {
      const {state} = store, path = state.prefs.rails ? chosenPath(state) : undefined
      const over = path && (nodeAt(path, at) >= 0 || handleAt(state, at))
      const part = path ? frameAt(state, view, at) : -1
      const cursors = ["nwse-resize", "nesw-resize", "nwse-resize", "nesw-resize", "grab"]
      return over ? "move" : cursors[part] ?? ""
    },
  }
}
