/** Play, step, loop, the time at the playhead, how fast and which part plays, the Pin, and what the graph shows. */

import {shown} from "./store.js"
import {tr} from "./words.js"

/** @import {StageScene, State, View} from "./types.js" */
/** @typedef {StageScene["settings"]} Settings */

const SPEEDS = [0.125, 0.25, 0.5, 1, 2]

/** Frames from what was typed: "2.5" or "2.5 s" are seconds, "75 f" frames. @param {string} text @param {number} fps */
export function framesOf(text, fps) {
  const match = /^\s*(\d+(?:[.,]\d*)?|[.,]\d+)\s*(s|f|fr|frames?)?\s*$/i.exec(text)
  if (!match) return NaN
  const number = Number(match[1].replace(",", "."))
  return match[2]?.toLowerCase().startsWith("f") ? number : number * fps
}

/**
 * @typedef {{store: import("./store.js").Store, player: import("./player.js").Player, say: (words: string, bad?: boolean) => void,
 *   acts: import("./acts.js").Acts}} Tools
 */

/** @implements {View} */
export class Transport {
  /** @param {HTMLElement} root @param {Tools} tools */
  constructor(root, {store, player, say, acts}) {
    const find = (/** @type {string} */ selector) => /** @type {HTMLElement} */ (root.querySelector(selector))
    this.root = root
    this.store = store
    this.player = player
    this.say = say
    this.switches = /** @type {const} */ ([["loop", find("#loop")], ["pin", find("#pin")]])
    this.play = find("#play")
    this.seconds = /** @type {HTMLInputElement} */ (find("#at"))
    this.speed = /** @type {HTMLSelectElement} */ (find("#rate"))
    this.frame = find("[data-frame]")
    this.length = find("[data-length]")
    this.range = find("[data-range]")
    this.play.addEventListener("click", () => player.toggle())
    find("#loop").addEventListener("click", () => store.set({loop: !store.state.loop}))
    find("#pin").addEventListener("click", () => acts.run("pin"))
    this.#wireSpeedAndGraph()
    this.#wireTime()
  }

  #wireSpeedAndGraph() {
    this.speed.addEventListener("change", () => {
      this.player.speed(Number(this.speed.value))
      this.speed.blur() // keys are for the stage again
    })
    this.root.addEventListener("change", event => {
      const input = /** @type {HTMLInputElement} */ (event.target)
      if (input.name === "graph") this.store.set({graph: /** @type {State["graph"]} */ (input.value)})
    })
  }

  #wireTime() {
    const {seconds, player} = this
    this.root.addEventListener("click", event => {
      const go = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-go]"))?.dataset.go
      if (go === "start") player.go(0)
      if (go === "end") player.go(Infinity)
      if (go === "back") player.step(-1)
      if (go === "on") player.step(1)
    })
    seconds.addEventListener("change", () => this.#goTo(seconds.value))
    seconds.addEventListener("keydown", event => {
      if (event.key === "Enter") seconds.blur()
    })
    seconds.addEventListener("focus", () => seconds.select())
  }

  /** @param {string} typed a time */
  #goTo(typed) {
    const settings = shown(this.store.state)?.settings
    if (!settings) return
    const wanted = framesOf(typed, settings.fps)
    if (Number.isNaN(wanted)) this.say(tr`“${typed}” is no time: type seconds, as 2.5, or frames, as 75 f.`, true)
    else {
      if (Math.round(wanted) >= settings.length) this.say(tr`The scene ends at ${inSeconds(settings.length, settings)} s; this is its last frame.`)
      this.player.go(wanted)
    }
    this.#drawTime(this.store.state, settings)
  }

  /** @param {State} state @param {Settings} settings */
  #drawTime(state, settings) {
    const {seconds} = this
    this.frame.textContent = String(state.frame)
    if (document.activeElement !== seconds || seconds.value.trim() === "") seconds.value = inSeconds(state.frame, settings)
    const length = String(settings.length)
    if (this.length.textContent !== length) this.length.textContent = length
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const settings = shown(state)?.settings, first = !shown(previous)
    if (!settings) return
    const changed = (/** @type {keyof State} */ name) => first || state[name] !== previous[name]
    if (changed("frame") || settings !== shown(previous)?.settings) this.#drawTime(state, settings)
    for (const [name, button] of this.switches) {
      if (!changed(name)) continue
      button.setAttribute("aria-pressed", String(state[name]))
      button.classList.toggle("on", state[name])
    }
    if (changed("rate")) this.speed.value = String(SPEEDS.includes(state.rate) ? state.rate : 1)
    if (changed("range")) {
      this.range.hidden = !state.range
      if (state.range) this.range.textContent = tr`plays ${state.range.map(f => inSeconds(f, settings)).join(" to ")} s`
    }
    if (changed("graph"))
      for (const radio of /** @type {NodeListOf<HTMLInputElement>} */ (this.root.querySelectorAll("[name='graph']")))
        radio.checked = radio.value === state.graph
    if (changed("playing")) this.#drawPlay(state.playing)
  }

  /** @param {boolean} playing */
  #drawPlay(playing) {
    this.play.setAttribute("aria-label", playing ? tr`Pause` : tr`Play`)
    for (const sign of this.play.querySelectorAll("[data-when]"))
      /** @type {HTMLElement} */ (sign).hidden = (/** @type {HTMLElement} */ (sign).dataset.when === "playing") !== playing
  }
}

/** @param {number} frames @param {Settings} settings */
const inSeconds = (frames, {fps}) => (frames / fps).toFixed(2)
