/** The time axis: ruler, playhead, scrubbing, the range that plays, zoom and pan. Lanes and graph hang on it. */

import {frameAtShare, panned, shareOf, spanOf, zoomed} from "./axis.js"
import {Hold} from "./hold.js"
import {shown} from "./store.js"

/** @import {View, State} from "./types.js" */

const STEPS = [1 / 60, 1 / 30, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300]

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, player: import("./player.js").Player}} tools
 * @returns {View & {redraw: () => void}}
 */
export function createTime(root, {store, player}) {
  const ruler = /** @type {HTMLElement} */ (root.querySelector(".ruler"))
  const playhead = /** @type {HTMLElement} */ (root.querySelector(".playhead"))
  const onRuler = new Hold(ruler)
  /** @type {Hold|undefined} made when the graph first asks to have time scrubbed from it */
  let onGraph

  /** @param {State} state */
  function drawRuler(state) {
    const settings = shown(state)?.settings
    if (!settings) return
    const [from, to] = spanOf(state), {fps, length} = settings
    const seconds = (to - from) / fps
    const room = root.clientWidth / 52
    const step = STEPS.find(s => seconds / s <= room) ?? STEPS[STEPS.length - 1]
    const marks = []
    for (let i = Math.ceil(from / fps / step - 1e-9); i * step < to / fps - 1e-9; i++) {
      const mark = document.createElement("span")
      mark.style.left = `${shareOf(state, i * step * fps) * 100}%`
      mark.textContent = step < 0.1 ? `${Math.round(i * step * fps)}f` : `${+(i * step).toFixed(1)}s`
      marks.push(mark)
    }
    if (state.range) {
      const band = document.createElement("i")
      const [begin, end] = state.range.map(frame => Math.min(Math.max(shareOf(state, frame), 0), 1) * 100)
      band.style.left = `${begin}%`
      band.style.width = `${end - begin}%`
      marks.unshift(band)
    }
    ruler.replaceChildren(...marks)
    ruler.setAttribute("aria-valuemax", String(length - 1))
  }

  /** @param {State} state */
  function drawPlayhead(state) {
    const share = shareOf(state, state.frame)
    playhead.hidden = share < -0.001 || share > 1.001
    playhead.style.transform = `translateX(${share * root.clientWidth}px)`
    ruler.setAttribute("aria-valuenow", String(state.frame))
  }

  /** @param {MouseEvent} event */
  const shareAt = event => {
    const box = root.getBoundingClientRect()
    return (event.clientX - box.left) / box.width
  }

  /** Move the playhead with the pointer until it is let go. @param {Hold} hold @param {PointerEvent} pressed */
  function scrub(hold, pressed) {
    const playing = store.state.playing
    if (playing) player.pause()
    const go = (/** @type {PointerEvent} */ event) => player.go(Math.floor(frameAtShare(store.state, shareAt(event)) + 1e-6))
    const on = () => { if (playing) player.play() }
    go(pressed)
    hold.begin(pressed, {move: go, drop: on, cancel: on})
  }

  ruler.addEventListener("pointerdown", event => {
    if (event.button === 0) scrub(onRuler, event)
  })
  root.addEventListener("scrub", event => {
    const {place, pressed} = /** @type {CustomEvent} */ (event).detail
    scrub(onGraph ??= new Hold(place), pressed)
  })
  // The wheel zooms time with Ctrl or Alt, and moves along it sideways or with Shift.
  root.addEventListener("wheel", event => {
    const {state} = store, [from, to] = spanOf(state)
    if (event.ctrlKey || event.altKey) {
      event.preventDefault()
      store.set({span: zoomed(state, Math.exp(-event.deltaY / 300), frameAtShare(state, shareAt(event)))})
    } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      event.preventDefault()
      const delta = event.deltaX || event.deltaY
      store.set({span: panned(state, (delta / root.clientWidth) * (to - from))})
    }
  }, {passive: false})

  return {
    redraw() {
      drawRuler(store.state)
      drawPlayhead(store.state)
    },
    update({state, previous}) {
      const now = shown(state)?.settings, then = shown(previous)?.settings
      const moved = state.span !== previous.span || now?.length !== then?.length
      if (now && (moved || now.fps !== then?.fps || state.range !== previous.range)) drawRuler(state)
      if (state.frame !== previous.frame || moved) drawPlayhead(state)
    },
  }
}
