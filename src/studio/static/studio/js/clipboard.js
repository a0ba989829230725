/** Copying and pasting: picked keys with all that shapes their sections, and paths as path data. */

import {pickedStops} from "./stops.js"
import {chosenLayer, chosenPath} from "./store.js"
import {typesIn} from "./typing.js"

/** @import {Layer, State} from "./types.js" */
/** @import {Stop} from "./stops.js" */

const OURS = '{"coaster-keys"'
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

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string, bad?: boolean) => void,
 *   take: (files: File[]) => void}} tools `take` takes in files as if they were dropped
 */
export function wireClipboard({store, edits, say, take}) {
  let middle = -Infinity
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
    if (!text.startsWith(OURS)) return say("Paths, SVG, pictures and keys can be pasted; this text is none of them.")
    const layer = chosenLayer(store.state)
    if (!layer) return say("Choose the layer the keys are to be pasted to.")
    void edits.commit({form: "keys-paste", fields: {layer: layer.id, frame: String(store.state.frame), data: text}})
  }

  document.addEventListener("copy", event => {
    if (typesIn() || String(document.getSelection())) return
    const keys = copiedKeys(store.state)
    if (keys) return copy(event, keys, "The keys are copied. Go to another time, or choose another layer, and paste them.")
    const path = store.state.chosen?.kind === "path" ? chosenPath(store.state) : undefined
    if (path) copy(event, path.d, `${path.name} is copied as path data.`)
  })
  document.addEventListener("pointerup", event => { if (event.button === 1) middle = event.timeStamp }, true)
  document.addEventListener("paste", event => {
    if (typesIn() || document.querySelector("dialog[open]")) return
    const files = [...(event.clipboardData?.files ?? [])], text = event.clipboardData?.getData("text/plain").trim() ?? ""
    event.preventDefault()
    // Some desktops paste what is selected anywhere when the middle button goes up: here it has moved the view.
    if (event.timeStamp - middle < MIDDLE_MS) return
    if (files.length) take(files)
    else if (text) pasteText(text)
  })
}
