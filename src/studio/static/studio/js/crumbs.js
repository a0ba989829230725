/** The line over the stage: which group one is in, with the way out, and whether only some layers are shown. */

import {groupsOf, layerOf} from "./layers.js"
import {tr} from "./words.js"

/** @import {State, View} from "./types.js" */

/** @param {HTMLElement} root @param {import("./store.js").Store} store @returns {View} */
export function createCrumbs(root, store) {
  root.addEventListener("click", event => {
    const {dataset} = /** @type {HTMLElement} */ (/** @type {Element} */ (event.target).closest("button") ?? root)
    if ("all" in dataset) store.set({solo: []})
    else if (dataset.into !== undefined) {
      const from = store.state.inside
      store.set({inside: dataset.into || null, chosen: from ? {kind: "layer", id: from} : null})
    }
  })
  return {
    update({state, previous}) {
      if (state.inside === previous.inside && state.scene === previous.scene && state.solo === previous.solo) return
      const words = [...wayTo(state), ...onlySome(state)]
      root.hidden = !words.length
      root.replaceChildren(...words)
    },
  }
}

/** The groups from the outermost in, each a button that leads out to it. @param {State} state @returns {HTMLElement[]} */
function wayTo({scene, inside}) {
  const here = layerOf(scene, inside)
  if (!here) return []
  const outer = groupsOf(scene, here).reverse()
  const steps = [button(tr`Scene`, {into: ""}), ...outer.map(group => button(group.name, {into: group.id}))]
  const last = Object.assign(document.createElement("b"), {textContent: here.name})
  last.setAttribute("aria-current", "true")
  return [...steps.flatMap(step => [step, Object.assign(document.createElement("span"), {textContent: "›"})]), last]
}

/** @param {State} state @returns {HTMLElement[]} */
function onlySome({scene, solo}) {
  if (!solo.length) return []
  const names = solo.map(id => layerOf(scene, id)?.name).filter(Boolean)
  const words = names.length === 1 ? tr`Only ${names[0]} is shown` : tr`Only ${names.length} layers are shown`
  return [Object.assign(document.createElement("span"), {textContent: words}), button(tr`Show all`, {all: ""})]
}

/** @param {string} words @param {Record<string, string>} data */
function button(words, data) {
  const made = Object.assign(document.createElement("button"), {type: "button", textContent: words})
  Object.assign(made.dataset, data)
  return made
}
