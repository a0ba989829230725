/** What the pill of the seam opens: who does not meet its start again, why, and what would mend it. */

import {shown} from "./store.js"

/** @import {Edit, Layer, State} from "./types.js" */
/** @typedef {{words: string, edit: Edit}} Cure */

/** What mends the seam of a layer. @param {Layer} layer @param {number} length the scene's, in frames @returns {Cure[]} */
export function curesOf(layer, length) {
  const {ride} = layer
  if (!ride || ride.pegs.length < 2) return []
  const [first, last] = [ride.pegs[0].time, ride.pegs[ride.pegs.length - 1].time], lasts = last - first
  /** @type {Cure[]} */
  const found = []
  if (lasts !== length || first !== 0) {
    const fields = {layer: layer.id, start_f: "0", lasts_f: String(length)}
    found.push({words: "Let it fill the scene", edit: {form: "time", fields}})
    if (first === 0 && Number.isInteger(lasts))
      found.push({words: `Make the scene as long as it: ${lasts} frames`, edit: {form: "scene", fields: {frames: String(lasts)}}})
  } else {
    found.push({words: "Smooth its speed through the seam", edit: {form: "ride-tool", fields: {layer: layer.id, to: "smooth"}}})
    found.push({words: "Send it to and fro", edit: {form: "ride-tool", fields: {layer: layer.id, to: "return"}}})
  }
  return found
}

/** @param {string} className @param {string} textContent @param {string} [tag] */
const made = (className, textContent, tag = "p") => Object.assign(document.createElement(tag), {className, textContent})

/**
 * @param {{button: HTMLElement, menu: HTMLElement, store: import("./store.js").Store, edits: import("./edits.js").Edits}} parts
 */
export function wireSeam({button, menu, store, edits}) {
  // Before the menu opens: what it says is of now.
  button.addEventListener("click", () => fill(menu, store.state), true)
  menu.addEventListener("click", event => {
    const item = /** @type {HTMLElement} */ (event.target).closest("button")
    if (!item) return
    if (item.dataset.layer) store.set({chosen: {kind: "layer", id: item.dataset.layer}, nodes: [], frame: 0})
    else void edits.commit(JSON.parse(item.dataset.edit ?? "{}"))
  })
}

/** @param {HTMLElement} menu @param {State} state */
function fill(menu, state) {
  const scene = shown(state)
  menu.replaceChildren()
  if (!scene) return
  const movers = scene.layers.filter(layer => layer.seen && layer.seam)
  const broken = movers.filter(layer => !layer.seam?.clean)
  const words = !movers.length
    ? "Nothing moves yet. Put a layer on a path, or give it keys; then this says whether the end meets the beginning."
    : broken.length ? "The seam is where the end meets the beginning. Here it shows:" : "The seam is clean: all that moves meets its start again."
  menu.append(made("text-soft text-[0.75rem]", words))
  for (const layer of broken) {
    const go = made("font-semibold", layer.name, "button")
    go.dataset.layer = layer.id
    go.title = "Choose it, and go to the seam"
    menu.append(go, made("text-[0.75rem] text-soft -mt-1", layer.seam?.reasons.join(", ") ?? ""))
    for (const {words: cure, edit} of curesOf(layer, scene.settings.length)) {
      const item = made("text-now-deep", cure, "button")
      item.dataset.edit = JSON.stringify(edit)
      menu.append(item)
    }
  }
}
