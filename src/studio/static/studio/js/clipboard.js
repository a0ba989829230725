/**
 * Copying and pasting: picked keys with all that shapes their sections, paths as path data, and layers by naming the
 * scene and the revision they are in, from which the studio takes them, whatever becomes of them meanwhile.
 */

import {pickedStops} from "./stops.js"
import {chosenIds, chosenLayer, chosenPath} from "./store.js"
import {holdsText} from "./typing.js"
import {tr} from "./words.js"

/** @import {Layer, State} from "./types.js" */
/** @import {Stop} from "./stops.js" */

const OURS = '{"coaster-keys"', LAYERS = '{"coaster-layers"'
/** What path data begin with. */
const PATH = /^m[\s,]*[-+.\d]/i
const MIDDLE_MS = 500

/** One key as text; the core reads it (edits/keys.py). @param {Layer} layer @param {Stop} stop */
function keyAsText(layer, {property, id}) {
  const track = layer.keys.find(each => each.property === property)
  const at = track?.keys.findIndex(key => key[0] === id) ?? -1
  if (!track || at < 0) return null
  const [, time, value] = track.keys[at]
  const reaches = [...track.reaches.subarray(at * 4, at * 4 + 4)].map(share => +share.toFixed(6))
  return {time, value: track.hex?.[at] ?? value, arrive: reaches.slice(0, 2), leave: reaches.slice(2), step: track.steps[at]}
}

/** The picked keys, by property; "" where there are none. @param {State} state */
export function copiedKeys(state) {
  /** @type {Record<string, object[]>} */
  const found = {}
  for (const stop of pickedStops(state)) {
    const layer = state.scene?.layers.find(each => each.id === stop.layer)
    const key = layer && keyAsText(layer, stop)
    if (key) (found[stop.property] ??= []).push(key)
  }
  return Object.keys(found).length ? JSON.stringify({"coaster-keys": found}) : ""
}

/** The chosen layers, as the studio finds them again; "" where there are none. @param {State} state @param {string} scene */
function copiedLayers(state, scene) {
  const layers = chosenIds(state)
  return layers.length ? JSON.stringify({"coaster-layers": {scene: +scene, revision: state.revision, layers}}) : ""
}

/** @param {State} state */
const namesOf = state => {
  const ids = chosenIds(state), one = state.scene?.layers.find(layer => layer.id === ids[0])
  return ids.length > 1 ? tr`${ids.length} layers are` : tr`${one?.name} is`
}

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string, bad?: boolean) => void,
 *   take: (files: File[]) => void, scene: string}} tools `take` takes in files as if they were dropped
 */
export function wireClipboard({store, edits, say, take, scene}) {
  let middle = -Infinity, shift = false
  /** @param {ClipboardEvent} event @param {string} text @param {string} words */
  function copy(event, text, words) {
    event.clipboardData?.setData("text/plain", text)
    event.preventDefault()
    say(words)
  }

  /** @param {string} text */
  function pasteText(text) {
    if (text.includes("<svg")) return take([new File([text], "Pasted.svg", {type: "image/svg+xml"})])
    if (PATH.test(text)) return void edits.commit({form: "path-data", fields: {data: text}})
    if (text.startsWith(LAYERS)) return pasteLayers(text)
    if (!text.startsWith(OURS)) return say(tr`Layers, paths, SVG, pictures and keys can be pasted; this text is none of them.`)
    const layer = chosenLayer(store.state)
    if (!layer) return say(tr`Choose the layer the keys are to be pasted to.`)
    void edits.commit({form: "keys-paste", fields: {layer: layer.id, frame: String(store.state.frame), data: text}})
  }

  /** @param {string} text */
  function pasteLayers(text) {
    const {frame, inside} = store.state
    void edits.commit({form: "layers-paste", fields: {copied: text, into: scene, frame: String(frame), inside: inside ?? "", ...(shift ? {} : {aside: "on"})}})
  }

  /** @param {ClipboardEvent} event @param {string} text */
  function cut(event, text) {
    copy(event, text, tr`${namesOf(store.state)} cut; Ctrl V puts it in, here or in another scene.`)
    void edits.commit({form: "delete", fields: {layer: chosenIds(store.state).join(" "), frame: String(store.state.frame)}})
  }

  document.addEventListener("keydown", event => { shift = event.shiftKey }, true)
  document.addEventListener("cut", event => {
    const layers = holdsText() || String(document.getSelection()) ? "" : copiedLayers(store.state, scene)
    if (layers) cut(event, layers)
  })
  document.addEventListener("copy", event => {
    if (holdsText() || String(document.getSelection())) return
    const keys = copiedKeys(store.state), layers = copiedLayers(store.state, scene)
    if (keys) return copy(event, keys, tr`The keys are copied. Go to another time, or choose another layer, and paste them.`)
    if (layers) return copy(event, layers, tr`${namesOf(store.state)} copied; Ctrl V puts it in, here or in another scene.`)
    const path = store.state.chosen?.kind === "path" ? chosenPath(store.state) : undefined
    if (path) copy(event, path.d, tr`${path.name} is copied as path data.`)
  })
  document.addEventListener("pointerup", event => { if (event.button === 1) middle = event.timeStamp }, true)
  document.addEventListener("paste", event => {
    if (holdsText() || document.querySelector("dialog[open]")) return
    const files = [...(event.clipboardData?.files ?? [])], text = event.clipboardData?.getData("text/plain").trim() ?? ""
    event.preventDefault()
    // Some desktops paste what is selected anywhere when the middle button goes up: here it has moved the view.
    if (event.timeStamp - middle < MIDDLE_MS) return
    if (files.length) take(files)
    else if (text) pasteText(text)
  })
}
