/** Commands of the chosen layers, and of whatever is selected. */

import {openShown} from "./insets.js"
import {children, layerOf} from "./layers.js"
import {chosenIds, chosenLayer, groupBeside, layersChosen} from "./store.js"
import {tr} from "./words.js"

/** @import {ActList, Tools} from "./acttools.js" */
/** @import {Chosen, State} from "./types.js" */

/** @param {Tools} tools @returns {ActList} */
export function layerActs({store, edits, say}) {
  /** @param {string} form @param {Record<string, string>} [more] */
  const onLayer = (form, more = {}) => () => {
    const layer = chosenLayer(store.state)
    if (layer) void edits.commit({form, fields: {layer: layer.id, frame: frameOf(store), ...more}})
  }

  function group() {
    const ids = chosenIds(store.state)
    if (!ids.length) return say(tr`Choose the layers to be grouped first: Ctrl adds one.`)
    void edits.commit({form: "group", fields: {layers: ids.join(" "), frame: frameOf(store)}})
  }

  function ungroup() {
    const layer = chosenLayer(store.state)
    if (layer?.can.show) return onLayer("inset-group")()
    if (!layer?.can.hold) return say(tr`Choose a group to dissolve.`)
    onLayer("ungroup")()
  }

  /** To the scene that the chosen layer shows. */
  function openScene() {
    const shows = chosenLayer(store.state)?.shows
    if (shows) openShown(shows)
  }

  /** Out of the group that was entered: it is chosen itself then. */
  function leave() {
    const {inside, scene} = store.state
    if (inside) store.set({inside: layerOf(scene, inside)?.parent ?? null, chosen: {kind: "layer", id: inside}})
  }

  /** Puts the chosen layers into a group, or out of it in front of it. @param {{parent: string, beside?: string}|null} where */
  function putInto(where) {
    const {scene} = store.state, ids = chosenIds(store.state)
    if (!scene || !where || !ids.length) return
    const staying = children(scene, where.parent || null).filter(layer => !ids.includes(layer.id))
    const place = where.beside ? staying.findIndex(layer => layer.id === where.beside) + 1 : staying.length
    void edits.commit({form: "put", fields: {layers: ids.join(" "), parent: where.parent, place: String(place), frame: frameOf(store)}})
  }

  /** @param {(layer: import("./types.js").Layer, chosen: readonly string[]) => boolean} wanted of those beside what is chosen */
  const choose = wanted => () => {
    const {scene, inside} = store.state, chosen = chosenIds(store.state)
    const found = scene ? children(scene, inside).filter(layer => wanted(layer, chosen)) : []
    store.set({chosen: layersChosen(found.map(layer => layer.id)), nodes: [], picked: []})
  }

  return {
    group, ungroup, "open-scene": openScene,
    "group-scene": () => {
      const layer = chosenLayer(store.state)
      if (layer?.can.hold) void edits.groupScene(layer.id)
    },
    "choose-riders": () => {
      const path = chosenLayer(store.state)?.ride?.path
      choose(layer => layer.ride?.path === path)()
    },
    "choose-kind": () => {
      const kind = chosenLayer(store.state)?.kind
      choose(layer => layer.kind === kind)()
    },
    "choose-none": () => store.set({chosen: null, nodes: [], picked: []}),
    solo: () => {
      const ids = chosenIds(store.state), {solo} = store.state
      const same = ids.length === solo.length && ids.every(id => solo.includes(id))
      store.set({solo: same ? [] : [...ids]})
    },
    "show-all": () => store.set({solo: []}),
    "order-up": onLayer("order", {to: "up"}),
    "order-down": onLayer("order", {to: "down"}),
    "order-front": onLayer("order", {to: "front"}),
    "order-back": onLayer("order", {to: "back"}),
    "into-group": () => putInto(groupBeside(store.state)),
    "out-of-group": () => {
      const layer = chosenLayer(store.state), group = layerOf(store.state.scene, layer?.parent)
      if (group) putInto({parent: group.parent ?? "", beside: group.id})
    },
    "choose-others": choose((layer, chosen) => !chosen.includes(layer.id)),
    "leave-group": leave,
    camera: () => void edits.commit({form: "add", fields: {what: "camera"}}),
    light: () => void edits.commit({form: "add", fields: {what: "light"}}),
    starter: onLayer("starter"),
    outline: onLayer("outline"),
    wake: onLayer("wake", {new: "bubbles"}),
    tail: onLayer("wake", {new: "tail"}),
    trace: onLayer("wake", {new: "line"}),
    unlink: onLayer("copy", {unlink: "true"}),
  }
}

/** What is done to whatever is chosen, layers or a path. @param {Tools} tools @returns {ActList} */
export function chosenActs({store, edits, asking}) {
  function duplicate() {
    const {state} = store, {chosen, picked} = state
    if (picked.length) void edits.commit({form: "keys-repeat", fields: {items: picked.join(" "), times: "2"}})
    else if (chosen) void edits.commit({form: "copy", fields: named(state, chosen)})
  }

  /** Picked keys first, then nodes, then the thing itself. */
  function remove() {
    const {chosen, nodes, picked} = store.state
    if (picked.length) return void edits.commit({form: "keys-delete", fields: {items: picked.join(" ")}})
    if (!nodes.length || !chosen) return removeThing()
    const path = chosen.kind === "path" ? chosen.id : chosenLayer(store.state)?.ride?.path ?? ""
    void edits.commit({form: "node-delete", fields: {path, nodes: nodes.join(" ")}})
  }

  /** The chosen layers or the chosen path, whatever is selected of it. */
  function removeThing() {
    const {state} = store, {chosen} = state
    if (!chosen) return
    const edit = {form: "delete", fields: {...named(state, chosen), frame: frameOf(store)}}
    const carryOut = () => {
      store.set({chosen: null, nodes: [], picked: []})
      void edits.commit(edit)
    }
    const masked = chosen.kind === "path" ? (state.scene?.layers ?? []).filter(layer => layer.maskedBy.includes(chosen.id)) : []
    if (!masked.length) return carryOut()
    const names = masked.map(layer => layer.name).join(", ")
    asking.ask(tr`It masks ${names}: what it hides is seen without it, as now on the stage.`, tr`Delete it`, edit, carryOut)
  }

  return {
    duplicate,
    delete: remove,
    "delete-thing": removeThing,
    undo: () => void edits.step("undo"),
    redo: () => void edits.step("redo"),
  }
}

/** @param {import("./store.js").Store} store */
const frameOf = store => String(store.state.frame)

/** What is chosen as forms take it: all of the layers, or the path. @param {State} state @param {Chosen} chosen */
const named = (state, chosen) => ({[chosen.kind]: chosen.kind === "layer" ? chosenIds(state).join(" ") : chosen.id})
