/** Play, step, loop, and the time at the playhead. */

import {shown} from "./store.js"

/** @import {View} from "./types.js" */

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, player: import("./player.js").Player}} tools
 * @returns {View}
 */
export function createTransport(root, {store, player}) {
  const find = (/** @type {string} */ selector) => /** @type {HTMLElement} */ (root.querySelector(selector))
  const play = find("#play"), loop = find("#loop")
  const seconds = find("[data-seconds]"), frame = find("[data-frame]"), length = find("[data-length]")
  play.addEventListener("click", () => player.toggle())
  loop.addEventListener("click", () => store.set({loop: !store.state.loop}))
  root.addEventListener("click", event => {
    const go = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-go]"))?.dataset.go
    if (go === "start") player.go(0)
    if (go === "end") player.go(Infinity)
    if (go === "back") player.step(-1)
    if (go === "on") player.step(1)
  })
  return {
    update({state, previous}) {
      const settings = shown(state)?.settings
      if (!settings) return
      frame.textContent = String(state.frame)
      seconds.textContent = (state.frame / settings.fps).toFixed(2)
      length.textContent = String(settings.length)
      if (state.loop !== previous.loop || !shown(previous)) {
        loop.setAttribute("aria-pressed", String(state.loop))
        loop.classList.toggle("on", state.loop)
      }
      if (state.playing === previous.playing) return
      play.setAttribute("aria-label", state.playing ? "Pause" : "Play")
      for (const sign of play.querySelectorAll("[data-when]"))
        /** @type {HTMLElement} */ (sign).hidden = (/** @type {HTMLElement} */ (sign).dataset.when === "playing") !== state.playing
    },
  }
}
