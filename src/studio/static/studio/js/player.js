/** The clock: turns passing time into frames while playing, at a speed, round a range. */

import {shown} from "./store.js"

/** @param {import("./store.js").Store} store */
export function createPlayer(store) {
  let begun = 0, from = 0, asked = 0

  /** The frames that are played: from the first up to, not including, the second. @returns {[number, number]} */
  function bounds() {
    const length = shown(store.state)?.settings.length ?? 1
    const [begin, end] = store.state.range ?? [0, length]
    return end > begin && begin < length ? [begin, Math.min(end, length)] : [0, length]
  }

  /** @param {number} now */
  function tick(now) {
    const scene = shown(store.state)
    if (!store.state.playing || !scene) return
    const [begin, end] = bounds()
    const passed = from + Math.max(Math.floor(((now - begun) / 1000) * scene.settings.fps * store.state.rate + 1e-6), 0)
    if (passed >= end && !store.state.loop) {
      store.set({playing: false, frame: end - 1})
      return
    }
    const frame = passed < end ? passed : begin + ((passed - begin) % (end - begin))
    if (frame !== store.state.frame) store.set({frame})
    asked = requestAnimationFrame(tick)
  }

  /** Count time anew from a frame. @param {number} frame */
  function count(frame) {
    begun = performance.now()
    from = frame
  }

  /** @param {number} frame */
  function go(frame) {
    const last = (shown(store.state)?.settings.length ?? 1) - 1
    const kept = Math.min(Math.max(Math.round(frame), 0), last)
    count(kept)
    if (kept !== store.state.frame) store.set({frame: kept})
  }

  return {
    go,
    /** @param {boolean} [fromStart] */
    play(fromStart = false) {
      const [begin, end] = bounds(), {frame, loop} = store.state
      if (fromStart || frame < begin || frame >= end || (frame === end - 1 && !loop)) go(begin)
      count(store.state.frame)
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
    /** How fast it plays; 1 is as it is rendered. @param {number} rate */
    speed(rate) {
      count(store.state.frame)
      store.set({rate})
    },
  }
}

/** @typedef {ReturnType<typeof createPlayer>} Player */
