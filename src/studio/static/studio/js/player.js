/** The clock: turns passing time into frames while playing, at a speed, round a range. */

import {shown} from "./store.js"

export class Player {
  /** When the clock was set, and to which frame. */
  #begun = 0
  #from = 0
  #asked = 0

  /** @param {import("./store.js").Store} store */
  constructor(store) { this.store = store }

  /** @param {number} frame */
  go(frame) {
    const {state} = this.store, last = (shown(state)?.settings.length ?? 1) - 1
    const kept = Math.min(Math.max(Math.round(frame), 0), last)
    this.#count(kept)
    if (kept !== state.frame) this.store.set({frame: kept})
  }

  /** @param {boolean} [fromStart] */
  play(fromStart = false) {
    const [begin, end] = this.#bounds(), {frame, loop} = this.store.state
    if (fromStart || frame < begin || frame >= end || (frame === end - 1 && !loop)) this.go(begin)
    this.#count(this.store.state.frame)
    this.store.set({playing: true})
    this.#askOn()
  }

  pause() {
    cancelAnimationFrame(this.#asked)
    this.store.set({playing: false})
  }

  toggle() {
    if (this.store.state.playing) this.pause()
    else this.play()
  }

  /** @param {number} frames */
  step(frames) {
    if (this.store.state.playing) this.pause()
    this.go(this.store.state.frame + frames)
  }

  /** How fast it plays; 1 is as it is rendered. @param {number} rate */
  speed(rate) {
    this.#count(this.store.state.frame)
    this.store.set({rate})
  }

  /** The frames that are played: from the first up to, not including, the second. @returns {[number, number]} */
  #bounds() {
    const {state} = this.store, length = shown(state)?.settings.length ?? 1
    const [begin, end] = state.range ?? [0, length]
    return end > begin && begin < length ? [begin, Math.min(end, length)] : [0, length]
  }

  /** Count time anew from a frame. @param {number} frame */
  #count(frame) {
    this.#begun = performance.now()
    this.#from = frame
  }

  #askOn() {
    cancelAnimationFrame(this.#asked)
    this.#asked = requestAnimationFrame(now => this.#tick(now))
  }

  /** @param {number} now */
  #tick(now) {
    const {state} = this.store, scene = shown(state)
    if (!state.playing || !scene) return
    const [begin, end] = this.#bounds()
    const passed = this.#from + Math.max(Math.floor(((now - this.#begun) / 1000) * scene.settings.fps * state.rate + 1e-6), 0)
    if (passed >= end && !state.loop) {
      this.store.set({playing: false, frame: end - 1})
      return
    }
    const frame = passed < end ? passed : begin + ((passed - begin) % (end - begin))
    if (frame !== state.frame) this.store.set({frame})
    this.#askOn()
  }
}
