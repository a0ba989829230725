/** The clock: turns passing time into frames while playing. */

import {shown} from "./store.js"

/** @param {import("./store.js").Store} store */
export function createPlayer(store) {
  let begun = 0, from = 0, asked = 0

  /** @param {number} now */
  function tick(now) {
    const scene = shown(store.state)
    if (!store.state.playing || !scene) return
    const {fps, length} = scene.settings
    const passed = from + Math.floor(((now - begun) / 1000) * fps)
    if (passed >= length && !store.state.loop) {
      store.set({playing: false, frame: length - 1})
      return
    }
    const frame = ((passed % length) + length) % length
    if (frame !== store.state.frame) store.set({frame})
    asked = requestAnimationFrame(tick)
  }

  /** @param {number} frame */
  function go(frame) {
    const last = (shown(store.state)?.settings.length ?? 1) - 1
    const kept = Math.min(Math.max(Math.round(frame), 0), last)
    begun = performance.now()
    from = kept
    if (kept !== store.state.frame) store.set({frame: kept})
  }

  return {
    go,
    /** @param {boolean} [fromStart] */
    play(fromStart = false) {
      const last = (shown(store.state)?.settings.length ?? 1) - 1
      if (fromStart || (store.state.frame >= last && !store.state.loop)) go(0)
      begun = performance.now()
      from = store.state.frame
      store.set({playing: true})
      cancelAnimationFrame(asked)
      asked = requestAnimationFrame(tick)
    },
    pause() {
      cancelAnimationFrame(asked)
      store.set({playing: false})
    },
    toggle() {
      if (store.state.playing) this.pause()
      else this.play()
    },
    /** @param {number} frames */
    step(frames) {
      if (store.state.playing) this.pause()
      go(store.state.frame + frames)
    },
  }
}

/** @typedef {ReturnType<typeof createPlayer>} Player */
