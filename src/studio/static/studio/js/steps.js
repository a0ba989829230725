/** The four first steps in a new scene: what is done is ticked, and with the last they go away; they can be called back. */

import {shown} from "./store.js"

/** @import {State, View} from "./types.js" */

const KEPT_AS = "coaster-steps"
/** @typedef {"thing"|"path"|"ride"|"play"} Step */

/**
 * Which of the steps are done. @param {State} state @param {boolean} played whether it has played since something rides
 * @returns {Record<Step, boolean>}
 */
export function stepsDone(state, played) {
  const {layers = [], paths = []} = shown(state) ?? {}
  const rides = layers.some(layer => layer.ride)
  return {thing: layers.some(layer => layer.can.stand), path: paths.length > 0, ride: rides, play: rides && played}
}

/**
 * @param {HTMLElement} root the row of steps
 * @param {import("./store.js").Store} store
 * @returns {View & {callBack: () => void}}
 */
export function createSteps(root, store) {
  let played = false, wanted = false, begun = false

  /** @param {boolean} on */
  function want(on) {
    wanted = on
    played = false
    localStorage.setItem(KEPT_AS, on ? "on" : "off")
  }

  /** @param {State} state */
  function draw(state) {
    const done = stepsDone(state, played)
    if (wanted && Object.values(done).every(Boolean)) want(false)
    root.hidden = !wanted
    for (const item of /** @type {NodeListOf<HTMLElement>} */ (root.querySelectorAll("[data-step]"))) {
      const ticked = done[/** @type {Step} */ (item.dataset.step)]
      item.classList.toggle("done", ticked)
      const words = /** @type {HTMLElement} */ (item.querySelector(".sr-only"))
      words.textContent = ticked ? "done" : ""
    }
  }

  root.querySelector("[data-no-steps]")?.addEventListener("click", () => {
    want(false)
    draw(store.state)
  })
  return {
    callBack() {
      want(true)
      draw(store.state)
    },
    update({state, previous}) {
      if (!begun && state.scene) {
        begun = true
        // A scene in which something rides already is no new one, nor is one that another shows.
        const asked = localStorage.getItem(KEPT_AS) !== "off"
        wanted = asked && !stepsDone(state, false).ride && !new URLSearchParams(location.search).has("from")
      }
      if (state.playing && stepsDone(state, true).ride) played = true
      if (shown(state) !== shown(previous) || state.playing !== previous.playing) draw(state)
    },
  }
}
