/** Commands of the chosen layers, and of whatever is selected. */

import {layerOf} from "./layers.js"
import {chosenIds, chosenLayer} from "./store.js"

/** @import {ActList, Tools} from "./acttools.js" */

/** @param {Tools} tools @returns {ActList} */
export function layerActs({store, edits, say}) {
  const frame = () => String(store.state.frame)

  /** @param {string} form @param {Record<string, string>} [more] */
  const onLayer = (form, more = {}) => () => {
    const layer = chosenLayer(store.state)
    if (layer) void edits.commit({form, fields: {layer: layer.id, frame: frame(), ...more}})
  }

  /** What is chosen as forms take it: all of the layers, or the path. @param {import("./types.js").Chosen} chosen */
  const named = chosen => (chosen.kind === "layer" ? chosenIds(store.state).join(" ") : chosen.id)

  function duplicate() {
    const {chosen, picked} = store.state
    if (picked.length) void edits.commit({form: "keys-repeat", fields: {items: picked.join(" "), times: "2"}})
    else if (chosen) void edits.commit({form: "copy", fields: {[chosen.kind]: named(chosen)}})
  }

  /** Picked keys first, then nodes, then the thing itself. */
  function remove() {
    const {chosen, nodes, picked} = store.state
    if (picked.length) return void edits.commit({form: "keys-delete", fields: {items: picked.join(" ")}})
    if (nodes.length && chosen) return void edits.commit({form: "node-delete", fields: {path: pathId(), nodes: nodes.join(" ")}})
    removeThing()
  }

  const pathId = () => (store.state.chosen?.kind === "path" ? store.state.chosen.id : chosenLayer(store.state)?.ride?.path ?? "")

  /** The chosen layers or the chosen path, whatever is selected of it. */
  function removeThing() {
    const {chosen} = store.state
    if (!chosen) return
    const fields = {[chosen.kind]: named(chosen), frame: frame()}
    store.set({chosen: null, nodes: [], picked: []})
    void edits.commit({form: "delete", fields})
  }

  function group() {
    const ids = chosenIds(store.state)
    if (!ids.length) return say("Choose the layers to be grouped first: Shift adds one.")
    void edits.commit({form: "group", fields: {layers: ids.join(" "), frame: frame()}})
  }

  function ungroup() {
    if (!chosenLayer(store.state)?.can.hold) return say("Choose a group to dissolve.")
    onLayer("ungroup")()
  }

  /** Out of the group that was entered: it is chosen itself then. */
  function leave() {
    const {inside, scene} = store.state
    if (inside) store.set({inside: layerOf(scene, inside)?.parent ?? null, chosen: {kind: "layer", id: inside}})
  }

  return {
    delete: remove,
    "delete-thing": removeThing,
    duplicate, group, ungroup,
    "leave-group": leave,
    starter: onLayer("starter"),
    outline: onLayer("outline"),
    unlink: onLayer("copy", {unlink: "true"}),
    undo: () => void edits.step("undo"),
    redo: () => void edits.step("redo"),
  }
}
