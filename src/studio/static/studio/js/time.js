/** The time axis: ruler, playhead, scrubbing, the range that plays, zoom and pan. Lanes and graph hang on it. */

import {frameAtShare, panned, shareOf, spanOf, zoomed} from "./axis.js"
import {Hold} from "./hold.js"
import {shown} from "./store.js"

/** @import {View, State} from "./types.js" */

const STEPS = [1 / 60, 1 / 30, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300]
/** Px of the ruler that a mark needs. */
const MARK_PX = 52
/** Px of the way of the playhead, wider than any window. */
const WAY = 1e5

/** @implements {View} */
export class Time {
  /** Made when the graph first asks to have time scrubbed from it. @type {Hold|undefined} */
  #onGraph

  /**
   * @param {HTMLElement} root
   * @param {{store: import("./store.js").Store, player: import("./player.js").Player}} tools
   */
  constructor(root, {store, player}) {
    this.root = root
    this.store = store
    this.player = player
    this.ruler = /** @type {HTMLElement} */ (root.querySelector(".ruler"))
    this.playhead = /** @type {HTMLElement} */ (root.querySelector(".playhead"))
    // Measured when it changes: asking the page each time makes it lay itself out anew.
    this.wide = root.clientWidth
    new ResizeObserver(() => {
      this.wide = root.clientWidth
      this.#drawRuler(store.state)
      this.#drawPlayhead(store.state)
    }).observe(root)
    // By an animation that stands: with a transform that changes the page puts its layers together anew, which takes longer.
    this.way = this.playhead.animate([{transform: "translateX(0px)"}, {transform: `translateX(${WAY}px)`}], {duration: WAY, fill: "both"})
    this.way.pause()
    const onRuler = new Hold(this.ruler)
    this.ruler.addEventListener("pointerdown", event => {
      if (event.button === 0) this.#scrub(onRuler, event)
    })
    root.addEventListener("scrub", event => {
      const {place, pressed} = /** @type {CustomEvent} */ (event).detail
      this.#scrub(this.#onGraph ??= new Hold(place), pressed)
    })
    root.addEventListener("wheel", event => this.#wheel(event), {passive: false})
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const now = shown(state)?.settings, then = shown(previous)?.settings
    const moved = state.span !== previous.span || now?.length !== then?.length
    if (now && (moved || now.fps !== then?.fps || state.range !== previous.range)) this.#drawRuler(state)
    if (state.frame !== previous.frame || moved) this.#drawPlayhead(state)
  }

  /** @param {State} state */
  #drawRuler(state) {
    const settings = shown(state)?.settings
    if (!settings) return
    const [from, to] = spanOf(state), {fps, length} = settings, seconds = (to - from) / fps
    const room = this.wide / MARK_PX
    const step = STEPS.find(s => seconds / s <= room) ?? STEPS[STEPS.length - 1]
    const marks = state.range ? [bandOf(state, state.range)] : []
    for (let i = Math.ceil(from / fps / step - 1e-9); i * step < to / fps - 1e-9; i++) {
      const mark = document.createElement("span")
      mark.style.left = `${shareOf(state, i * step * fps) * 100}%`
      mark.textContent = step < 0.1 ? `${Math.round(i * step * fps)}f` : `${+(i * step).toFixed(1)}s`
      marks.push(mark)
    }
    this.ruler.replaceChildren(...marks)
    this.ruler.setAttribute("aria-valuemax", String(length - 1))
  }

  /** @param {State} state */
  #drawPlayhead(state) {
    const share = shareOf(state, state.frame)
    this.playhead.hidden = share < -0.001 || share > 1.001
    this.way.currentTime = Math.min(Math.max(share, 0), 1) * this.wide
    this.ruler.setAttribute("aria-valuenow", String(state.frame))
  }

  /** @param {MouseEvent} event */
  #shareAt(event) {
    const box = this.root.getBoundingClientRect()
    return (event.clientX - box.left) / box.width
  }

  /** Move the playhead with the pointer until it is let go. @param {Hold} hold @param {PointerEvent} pressed */
  #scrub(hold, pressed) {
    const {player, store} = this, {playing} = store.state
    if (playing) player.pause()
    const go = (/** @type {PointerEvent} */ event) => player.go(Math.floor(frameAtShare(store.state, this.#shareAt(event)) + 1e-6))
    const on = () => { if (playing) player.play() }
    go(pressed)
    hold.begin(pressed, {move: go, drop: on, cancel: on})
  }

  /** Zooms time with Ctrl or Alt, and moves along it sideways or with Shift. @param {WheelEvent} event */
  #wheel(event) {
    const {state} = this.store, [from, to] = spanOf(state)
    if (event.ctrlKey || event.altKey) {
      event.preventDefault()
      this.store.set({span: zoomed(state, Math.exp(-event.deltaY / 300), frameAtShare(state, this.#shareAt(event)))})
    } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      event.preventDefault()
      const delta = event.deltaX || event.deltaY
      this.store.set({span: panned(state, (delta / this.wide) * (to - from))})
    }
  }
}

/** The part that plays, on the ruler. @param {State} state @param {[number, number]} range @returns {HTMLElement} */
function bandOf(state, range) {
  const band = document.createElement("i")
  const [begin, end] = range.map(frame => Math.min(Math.max(shareOf(state, frame), 0), 1) * 100)
  band.style.left = `${begin}%`
  band.style.width = `${end - begin}%`
  return band
}
