/** Play, step, loop, the time at the playhead, how fast and which part plays, the Pin, and what the graph shows. */

import {shown} from "./store.js"

/** @import {State, View} from "./types.js" */

const SPEEDS = [0.125, 0.25, 0.5, 1, 2]

/** Frames from what was typed: "2.5" or "2.5 s" are seconds, "75 f" frames. @param {string} text @param {number} fps */
export function framesOf(text, fps) {
  const match = /^\s*(\d+(?:[.,]\d*)?|[.,]\d+)\s*(s|f|fr|frames?)?\s*$/i.exec(text)
  if (!match) return NaN
  const number = Number(match[1].replace(",", "."))
  return match[2]?.toLowerCase().startsWith("f") ? number : number * fps
}

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, player: import("./player.js").Player, say: (words: string, bad?: boolean) => void,
 *   acts: import("./acts.js").Acts}} tools
 * @returns {View}
 */
export function createTransport(root, {store, player, say, acts}) {
  const find = (/** @type {string} */ selector) => /** @type {HTMLElement} */ (root.querySelector(selector))
  const play = find("#play"), loop = find("#loop"), pin = find("#pin")
  const seconds = /** @type {HTMLInputElement} */ (find("#at")), speed = /** @type {HTMLSelectElement} */ (find("#rate"))
  const frame = find("[data-frame]"), length = find("[data-length]"), range = find("[data-range]")
  play.addEventListener("click", () => player.toggle())
  loop.addEventListener("click", () => store.set({loop: !store.state.loop}))
  pin.addEventListener("click", () => acts.run("pin"))
  speed.addEventListener("change", () => {
    player.speed(Number(speed.value))
    speed.blur() // keys are for the stage again
  })
  root.addEventListener("click", event => {
    const go = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-go]"))?.dataset.go
    if (go === "start") player.go(0)
    if (go === "end") player.go(Infinity)
    if (go === "back") player.step(-1)
    if (go === "on") player.step(1)
  })
  seconds.addEventListener("change", () => {
    const settings = shown(store.state)?.settings
    if (!settings) return
    const wanted = framesOf(seconds.value, settings.fps)
    if (Number.isNaN(wanted)) say(`“${seconds.value}” is no time: type seconds, as 2.5, or frames, as 75 f.`, true)
    else {
      if (Math.round(wanted) >= settings.length) say(`The scene ends at ${(settings.length / settings.fps).toFixed(2)} s; this is its last frame.`)
      player.go(wanted)
    }
    draw(store.state)
  })
  seconds.addEventListener("keydown", event => {
    if (event.key === "Enter") seconds.blur()
  })
  seconds.addEventListener("focus", () => seconds.select())
  root.addEventListener("change", event => {
    const input = /** @type {HTMLInputElement} */ (event.target)
    if (input.name === "graph") store.set({graph: /** @type {State["graph"]} */ (input.value)})
  })

  /** @param {State} state */
  function draw(state) {
    const settings = shown(state)?.settings
    if (!settings) return
    frame.textContent = String(state.frame)
    const words = (state.frame / settings.fps).toFixed(2)
    if (document.activeElement !== seconds || seconds.value.trim() === "") seconds.value = words
    length.textContent = String(settings.length)
  }

  return {
    update({state, previous}) {
      const settings = shown(state)?.settings
      if (!settings) return
      draw(state)
      for (const [button, on, was] of /** @type {[HTMLElement, boolean, boolean][]} */ ([[loop, state.loop, previous.loop], [pin, state.pin, previous.pin]])) {
        if (on === was && shown(previous)) continue
        button.setAttribute("aria-pressed", String(on))
        button.classList.toggle("on", on)
      }
      if (state.rate !== previous.rate) speed.value = String(SPEEDS.includes(state.rate) ? state.rate : 1)
      if (state.range !== previous.range) {
        range.hidden = !state.range
        if (state.range) range.textContent = `plays ${state.range.map(f => (f / settings.fps).toFixed(2)).join(" to ")} s`
      }
      for (const radio of /** @type {NodeListOf<HTMLInputElement>} */ (root.querySelectorAll("[name='graph']")))
        radio.checked = radio.value === state.graph
      if (state.playing === previous.playing) return
      play.setAttribute("aria-label", state.playing ? "Pause" : "Play")
      for (const sign of play.querySelectorAll("[data-when]"))
        /** @type {HTMLElement} */ (sign).hidden = (/** @type {HTMLElement} */ (sign).dataset.when === "playing") !== state.playing
    },
  }
}
