/** The tool that picks and moves: it finds what was pressed, and hands it to the drag that moves such a thing. */

import {openShown} from "./insets.js"
import {frameAt, handleAt, hits, keyedAt, layerAt, nodeAt} from "./hits.js"
import {LayerDrags} from "./layerdrags.js"
import {cursorOf, handleOfFrame} from "./layerframe.js"
import {groupMatrix, spotOf} from "./layers.js"
import {mapped} from "./matrices.js"
import {PathDrags} from "./pathdrags.js"
import {px} from "./stagedrags.js"
import {chosenLayer, chosenPath, pathsSeen} from "./store.js"

/** @import {At, Drag, Layer, Path, Point} from "./types.js" */

const CURSORS = ["nwse-resize", "nesw-resize", "nwse-resize", "nesw-resize", "grab"]
/** @type {Parameters<typeof mapped>[0]} */
const AS_IT_IS = [1, 0, 0, 1, 0, 0]

export class Pick {
  cursor = ""

  /**
   * @param {import("./stagedrags.js").Hands} hands
   * @param {(layer: import("./types.js").Layer) => void} words puts the hand on a layer's words, if it has any
   */
  constructor(hands, words) {
    this.words = words
    this.store = hands.store
    this.edits = hands.edits
    this.view = hands.view
    this.paths = new PathDrags(hands)
    this.layers = new LayerDrags(hands)
  }

  hint() { return "" }

  /** @param {At} at @returns {Drag|null} */
  press(at) {
    const path = this.#pathSeen(), rider = chosenLayer(this.store.state)
    const handle = rider && this.#handleOf(at, path)
    if (handle) return this.layers.frame(at, rider, handle.part)
    if (rider && this.#isPinned(at, rider)) return this.layers.layer(at, rider)
    return (path && this.#ofPath(at, path)) ?? (rider && this.#ofRider(at, rider)) ?? this.#other(at, path)
  }

  /** With Pin on, the chosen layer or its anchor is meant, whatever lies under or over it. @param {At} at @param {Layer} rider */
  #isPinned(at, rider) {
    const {pin, frame} = this.store.state
    if (!pin) return false
    const [x, y] = spotOf(rider, frame)
    return hits(rider, frame, at.point) || Math.hypot(x - at.point[0], y - at.point[1]) < at.near
  }

  /** A handle of the chosen layer's frame; a node of its path that lies there comes first. @param {At} at @param {Path|undefined} path */
  #handleOf(at, path) {
    const {state} = this.store
    if (path && (nodeAt(path, at) >= 0 || handleAt(state, at))) return null
    return handleOfFrame(state, this.view, at)
  }

  /** The chosen path, while paths are shown. */
  #pathSeen() {
    const {state} = this.store
    return state.prefs.rails ? chosenPath(state) : undefined
  }

  /**
   * A handle or a node of the chosen path; a node that is not chosen comes before handles.
   * @param {At} at @param {Path} path
   */
  #ofPath(at, path) {
    const {state} = this.store
    const handle = handleAt(state, at), index = nodeAt(path, at, state.nodes)
    const fresh = index >= 0 && !state.nodes.includes(path.ids[index])
    if (handle && !fresh) return this.paths.handle(at, path, handle)
    return index >= 0 ? this.paths.node(at, path, index) : undefined
  }

  /** What the chosen layer looks at, or a place that its keys give it. @param {At} at @param {Layer} rider */
  #ofRider(at, rider) {
    const spot = this.#spotOf(rider)
    if (spot && Math.hypot(spot[0] - at.point[0], spot[1] - at.point[1]) < at.near) return this.layers.lookedAt(at, rider)
    const keyed = keyedAt(rider, at)
    return keyed === undefined ? undefined : this.layers.keyed(at, rider, keyed)
  }

  /** The place that a rider looks at, in the scene's px. @param {Layer} rider @returns {Point|undefined} */
  #spotOf(rider) {
    const {scene, frame} = this.store.state, spot = rider.ride?.spot
    return spot ? mapped(groupMatrix(scene, rider.parent, frame) ?? AS_IT_IS, spot) : undefined
  }

  /** @param {At} at @param {Path|undefined} path @returns {Drag|null} */
  #other(at, path) {
    const {state} = this.store
    const part = path ? frameAt(state, this.view, at) : -1
    if (path && part >= 0) return this.paths.frame(at, path, part)
    const layer = layerAt(state, at.point, at.near)
    const onChosen = layer && state.chosen?.id === layer.id
    const rail = railAt(at)
    if (rail && (at.event.altKey || !onChosen)) return this.#ofRail(at, rail)
    // The ground behind everything gives way to a band round nodes.
    const givesWay = path && layer?.ground && !onChosen && state.chosen?.kind === "path"
    // So it does to a band round layers, unless it was chosen to be moved.
    if (layer && !givesWay && (!layer.ground || onChosen)) return this.layers.layer(at, layer)
    if (path && state.chosen?.kind === "path") return this.paths.band(at, path)
    const band = this.#orGround(this.layers.band(at), layer)
    return path ? this.#nodesFirst(this.paths.band(at, path), band, at) : band
  }

  /** Round nodes of a rider's path a band means these; round none it means layers, and a click nothing else. @param {Drag} nodes @param {Drag} layers @param {At} begun @returns {Drag} */
  #nodesFirst(nodes, layers, begun) {
    return {...nodes, drop: at => {
      nodes.drop(at)
      const moved = at.event.clientX !== begun.event.clientX || at.event.clientY !== begun.event.clientY
      if (moved && !this.store.state.nodes.length) layers.drop(at)
    }}
  }

  /** A click on the ground, where nothing else is, chooses it. @param {Drag} band @param {Layer|undefined} ground @returns {Drag} */
  #orGround(band, ground) {
    return {...band, drop: at => {
      band.drop(at)
      if (ground && !this.store.state.chosen) this.store.set({chosen: {kind: "layer", id: ground.id}})
    }}
  }

  /** A rail is chosen first, and moved when it is; with Alt it takes a node. @param {At} at @param {string} rail */
  #ofRail(at, rail) {
    const {chosen} = this.store.state, was = chosen?.kind === "path" && chosen.id === rail
    this.store.set({chosen: {kind: "path", id: rail}})
    if (at.event.altKey) {
      const fields = {path: rail, x: px(at.point[0]), y: px(at.point[1]), ...this.paths.seen()}
      void this.edits.commit({form: "node-insert", fields})
      return null
    }
    const path = pathsSeen(this.store.state).find(each => each.id === rail)
    return was && path ? this.paths.whole(at, path) : null
  }

  /** On a node it changes its kind; on a group it goes into it: its members are picked then. @param {At} at */
  double(at) {
    const {state} = this.store
    const path = chosenPath(state), index = nodeAt(path, at, state.nodes)
    if (!path || index < 0) return this.#enter(at)
    const to = path.marks[index][0] === "c" ? "round" : "corner"
    void this.edits.commit({form: "node-change", fields: {path: path.id, nodes: path.ids[index], to}})
  }

  /** @param {At} at */
  #enter(at) {
    const group = layerAt(this.store.state, at.point, at.near)
    if (group?.shows) return openShown(group.shows)
    if (group && !group.can.hold) return void this.words(group)
    if (!group) return
    this.store.set({inside: group.id})
    const member = layerAt(this.store.state, at.point, at.near)
    if (member) this.store.set({chosen: {kind: "layer", id: member.id}})
  }

  /** @param {At} at */
  hover(at) {
    const {state} = this.store, path = this.#pathSeen(), rider = chosenLayer(state)
    const handle = rider && this.#handleOf(at, path)
    if (handle) return cursorOf(state, this.view, handle)
    if (rider && this.#isPinned(at, rider)) return "move"
    if (path && (nodeAt(path, at) >= 0 || handleAt(state, at))) return "move"
    return path ? (CURSORS[frameAt(state, this.view, at)] ?? "") : ""
  }
}

/** @param {At} at @returns {string} the id of the rail there */
function railAt(at) {
  const rail = at.target.closest("[data-rail]")
  return rail instanceof SVGElement ? (rail.dataset.rail ?? "") : ""
}
