/** The time axis: ruler, playhead and scrubbing. Lanes and graph hang on the same axis. */

import {shown} from "./store.js"

/** @import {View, State} from "./types.js" */

const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300]

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, player: import("./player.js").Player}} tools
 * @returns {View & {redraw: () => void}}
 */
export function createTime(root, {store, player}) {
  const ruler = /** @type {HTMLElement} */ (root.querySelector(".ruler"))
  const playhead = /** @type {HTMLElement} */ (root.querySelector(".playhead"))
  const graph = /** @type {SVGElement} */ (root.querySelector(".graph"))

  /** @param {State} state */
  function drawRuler(state) {
    const settings = shown(state)?.settings
    if (!settings) return
    const seconds = settings.length / settings.fps
    const room = root.clientWidth / 52
    const step = STEPS.find(s => seconds / s <= room) ?? STEPS[STEPS.length - 1]
    const marks = []
    for (let i = 0; i * step < seconds - 1e-9; i++) {
      const mark = document.createElement("span")
      mark.style.left = `${((i * step) / seconds) * 100}%`
      mark.textContent = `${+(i * step).toFixed(1)}s`
      marks.push(mark)
    }
    ruler.replaceChildren(...marks)
    ruler.setAttribute("aria-valuemax", String(settings.length - 1))
  }

  /** @param {State} state */
  function drawPlayhead(state) {
    const length = shown(state)?.settings.length ?? 1
    playhead.style.transform = `translateX(${(state.frame / length) * root.clientWidth}px)`
    ruler.setAttribute("aria-valuenow", String(state.frame))
  }

  /** @param {PointerEvent} event */
  const frameAt = event => {
    const box = root.getBoundingClientRect()
    return ((event.clientX - box.left) / box.width) * (shown(store.state)?.settings.length ?? 1)
  }

  for (const place of [ruler, graph]) {
    place.addEventListener("pointerdown", event => {
      const pressed = /** @type {PointerEvent} */ (event)
      if (pressed.button !== 0) return
      const playing = store.state.playing
      if (playing) player.pause()
      place.setPointerCapture(pressed.pointerId)
      player.go(Math.floor(frameAt(pressed)))
      /** @param {Event} moved */
      const move = moved => player.go(Math.floor(frameAt(/** @type {PointerEvent} */ (moved))))
      const up = () => {
        place.removeEventListener("pointermove", move)
        if (playing) player.play()
      }
      place.addEventListener("pointermove", move)
      place.addEventListener("pointerup", up, {once: true})
      place.addEventListener("pointercancel", up, {once: true})
    })
  }

  return {
    redraw() {
      drawRuler(store.state)
      drawPlayhead(store.state)
    },
    update({state, previous}) {
      const now = shown(state)?.settings, then = shown(previous)?.settings
      if (now && (now.length !== then?.length || now.fps !== then?.fps)) drawRuler(state)
      if (state.frame !== previous.frame || now?.length !== then?.length) drawPlayhead(state)
    },
  }
}
