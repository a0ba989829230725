/** One state for the whole editor. Views are told what changed; they never change it while updating. */

/** @import {State, View, Layer, Path} from "./types.js" */

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
      state = settled({...state, ...change}, previous, change)
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
function settled(/** @type {State} */ state, /** @type {State} */ previous, /** @type {Partial<State>} */ change) {
  const {chosen} = state
  if (chosen?.id !== previous.chosen?.id || chosen?.kind !== previous.chosen?.kind) {
    if (!change.nodes) state.nodes = NONE
    if (!change.peg) state.peg = ""
    if (chosen?.kind === "layer") state.rider = chosen.id
  }
  if (state.nodes.length && shown(state) !== shown(previous)) {
    const there = new Set(chosenPath(state)?.ids)
    const kept = state.nodes.filter(id => there.has(id))
    if (kept.length < state.nodes.length) state.nodes = kept
  }
  return state
}

/** @returns {State} */
export function initialState() {
  return {
    scene: null, look: null, revision: -1, frame: 0, playing: false, loop: true, chosen: null, nodes: NONE, peg: "", rider: null,
    tool: "pick", figure: "ellipse", options: {}, shape: "rectangle", guides: [], draft: null,
    prefs: {nodeSize: 4, handles: "chosen", snap: true, rails: true}, notes: {}, undo: "", redo: "", kept: "kept",
  }
}

/** The scene as it is to be seen: the one looked ahead to, or the kept one. @param {State} state */
export const shown = state => state.look ?? state.scene

/** @param {State} state @returns {Layer|undefined} */
export function chosenLayer(state) {
  return state.chosen?.kind === "layer" ? shown(state)?.layers.find(layer => layer.id === state.chosen?.id) : undefined
}

/** The layer whose ride is told about: the chosen one, or of the chosen path's riders the one chosen last. @param {State} state */
export function tellingRider(state) {
  const layer = chosenLayer(state)
  if (layer) return layer.ride ? layer : undefined
  if (state.chosen?.kind !== "path") return undefined
  const riders = shown(state)?.layers.filter(other => other.ride?.path === state.chosen?.id) ?? []
  return riders.find(rider => rider.id === state.rider) ?? riders.at(-1)
}

/** The path the chosen thing is or rides. @param {State} state @returns {Path|undefined} */
export function chosenPath(state) {
  const id = state.chosen?.kind === "path" ? state.chosen.id : chosenLayer(state)?.ride?.path
  return shown(state)?.paths.find(path => path.id === id)
}
