/** One state for the whole editor. Views are told what changed; they never change it while updating. */

import {children, layerOf, seenPath} from "./layers.js"
import {stopsOf} from "./stops.js"

/** @import {Chosen, Layer, Path, State, View} from "./types.js" */

/** @param {State} initial */
export function createStore(initial) {
  let state = initial
  /** @type {View[]} */
  const views = []
  let updating = false
  return {
    get state() { return state },
    /** @param {Partial<State>} change */
    set(change) {
      if (updating) throw new Error("a view may not change the state while it updates")
      const previous = state
      state = consistent({...state, ...change}, previous, change)
      updating = true
      try {
        for (const view of views) view.update({state, previous})
      } finally {
        updating = false
      }
    },
    /** @param {View} view */
    add(view) {
      views.push(view)
      view.update({state, previous: initialState()})
    },
  }
}

/** @typedef {ReturnType<typeof createStore>} Store */

/** @type {readonly string[]} */
export const NONE = []

/** What follows from a change: no nodes of a path that is not chosen, and none that are gone. */
function consistent(/** @type {State} */ state, /** @type {State} */ previous, /** @type {Partial<State>} */ change) {
  const {chosen} = state
  if (chosen?.id !== previous.chosen?.id || chosen?.kind !== previous.chosen?.kind) {
    if (!change.nodes) state.nodes = NONE
    if (!change.picked && chosen?.kind !== "layer") state.picked = NONE
    else if (!change.picked && !state.picked.every(item => item.startsWith(`${chosen?.id}/`))) state.picked = NONE
    if (chosen?.kind === "layer") state.rider = chosen.id
    if (state.graph === "keys" && !change.graph && !chosenLayer(state)?.keys.length) state.graph = "speed"
  }
  if (state.nodes.length && shown(state) !== shown(previous)) {
    const there = new Set(chosenPath(state)?.ids)
    const kept = state.nodes.filter(id => there.has(id))
    if (kept.length < state.nodes.length) state.nodes = kept
  }
  if (state.picked.length && state.scene !== previous.scene) {
    const there = new Set((state.scene?.layers ?? []).flatMap(stopsOf).map(stop => stop.item))
    const kept = state.picked.filter(item => there.has(item))
    if (kept.length < state.picked.length) state.picked = kept
  }
  if (state.scene !== previous.scene) {
    const there = (/** @type {string} */ id) => Boolean(layerOf(state.scene, id))
    if (state.inside && !there(state.inside)) state.inside = null
    if (!state.solo.every(there)) state.solo = state.solo.filter(there)
    if (chosen?.ids && !chosen.ids.every(there)) state.chosen = layersChosen(chosen.ids.filter(there))
  }
  // What a span or a range names is gone when the scene got shorter.
  const length = shown(state)?.settings.length ?? 1
  if (state.span && state.span[1] > length) state.span = null
  if (state.range && state.range[1] > length) state.range = null
  return state
}

/** @returns {State} */
export function initialState() {
  return {
    scene: null, look: null, revision: -1, arrived: 0, frame: 0, playing: false, loop: true, rate: 1, range: null, span: null,
    pin: false, graph: "speed", property: "", draws: false, picked: NONE, chosen: null, solo: NONE, inside: null, folded: NONE, nodes: NONE, rider: null,
    tool: "pick", figure: "ellipse", options: {}, shape: "rectangle", guides: [], draft: null,
    prefs: {nodeSize: 4, railWidth: 1.2, handles: "chosen", snap: true, rails: true, ghosts: true, compare: false, unturned: false, along: "none"}, notes: {}, second: "", planes: {front: 0, above: null, side: null}, undo: "", redo: "", kept: "kept", sent: 1,
  }
}

/** The scene as it is to be seen: the one looked ahead to, or the kept one. @param {State} state */
export const shown = state => state.look ?? state.scene

/** @param {State} state @returns {Layer|undefined} */
export function chosenLayer(state) {
  return state.chosen?.kind === "layer" ? shown(state)?.layers.find(layer => layer.id === state.chosen?.id) : undefined
}

/**
 * The layer whose ride is told about: the chosen one, or of the chosen path's riders the one chosen last.
 * @param {State} state
 */
export function tellingRider(state) {
  const layer = chosenLayer(state)
  if (layer) return layer.ride ? layer : undefined
  if (state.chosen?.kind !== "path") return undefined
  const riders = shown(state)?.layers.filter(other => other.ride?.path === state.chosen?.id) ?? []
  return riders.find(rider => rider.id === state.rider) ?? riders.at(-1)
}

/** The layers that are chosen, the one chosen last included. @param {State} state @returns {readonly string[]} */
export function chosenIds({chosen}) {
  if (chosen?.kind !== "layer") return NONE
  return chosen.ids ?? [chosen.id]
}

/** Layers as what is chosen, the last of them telling. @param {readonly string[]} ids @returns {Chosen|null} */
export function layersChosen(ids) {
  const id = ids[ids.length - 1]
  return id ? {kind: "layer", id, ids} : null
}

/** The path the chosen thing is or rides, as it is seen now. @param {State} state @returns {Path|undefined} */
export function chosenPath(state) {
  const id = state.chosen?.kind === "path" ? state.chosen.id : chosenLayer(state)?.ride?.path
  return pathsSeen(state).find(path => path.id === id)
}

/** All paths, as they are seen now. @param {State} state @returns {Path[]} */
export function pathsSeen(state) {
  const scene = shown(state)
  return (scene?.paths ?? []).map(path => seenPath(scene, path, state.frame))
}

/** The group that lies next to the chosen layer, in front or else behind. @param {State} state */
export function groupBeside(state) {
  const layer = chosenLayer(state), ids = chosenIds(state)
  const beside = state.scene && layer ? children(state.scene, layer.parent) : [], at = beside.findIndex(each => each.id === layer?.id)
  const groups = [...beside.slice(at + 1), ...beside.slice(0, Math.max(at, 0)).reverse()].filter(each => each.can.hold && !ids.includes(each.id))
  return groups[0] ? {parent: groups[0].id} : null
}
