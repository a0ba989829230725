/**
 * The tool that catches a movement: it waits for the press, draws what the hand does in real time, and sends it when
 * the hand lets go. The scene runs along at the speed it plays at; slower, and the take is kept at its true speed.
 */

import {chosenLayer, chosenPath, shown, tellingRider} from "./store.js"

/** @import {At, Drag, Point, Tool} from "./types.js" */

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, player: import("./player.js").Player,
 *   view: import("./view.js").StageView, say: (words: string) => void, done: () => void}} tools
 * @returns {Tool}
 */
export function createRecord({store, edits, player, view, say, done}) {
  /** Whether what is armed runs. */
  let running = false

  /** @param {At} at @returns {Drag} */
  function press(at) {
    const {state} = store, slow = state.rate, begun = at.event.timeStamp
    const settings = shown(state)?.settings ?? {fps: 30, length: 1}
    // Once more, it is for whoever rides the take that was recorded before.
    const layer = chosenLayer(state)?.id ?? (chosenPath(state)?.drawn ? tellingRider(state)?.id : "") ?? ""
    /** @type {number[][]} milliseconds, x, y, pressure */
    const samples = []
    /** @type {Point[]} */
    let line = []
    running = true
    // Without loop the scene's end stops it.
    const looped = state.loop
    store.set({loop: false})
    player.play()
    const start = store.state.frame

    /** @param {PointerEvent} event */
    function take(event) {
      const together = event.getCoalescedEvents?.() ?? []
      for (const one of together.length ? together : [event]) {
        const time = one.timeStamp - begun
        if (samples.length && time <= samples[samples.length - 1][0]) continue
        const [x, y] = view.point(one)
        samples.push([+Math.max(time, 0).toFixed(3), +x.toFixed(3), +y.toFixed(3), +one.pressure.toFixed(3)])
        line.push([x, y])
      }
    }

    function show() {
      store.set({draft: {d: line.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("")}})
    }

    function stop() {
      running = false
      player.pause()
      store.set({loop: looped, draft: null})
    }

    function keep() {
      stop()
      if (samples.length < 3) return say("That was too short for a take. Press, draw the movement, and let go.")
      void edits.record({samples: JSON.stringify(samples), slow: String(slow), frame: String(start), layer}).then(head => {
        if (head) player.go(start)
      })
      done()
    }

    take(at.event)
    return {
      eager: true,
      move(now) {
        if (!running) return
        take(now.event)
        show()
        const spent = ((now.event.timeStamp - begun) / 1000) * settings.fps * slow
        if (start + spent >= settings.length) {
          running = false
          say("The scene's end stopped the take.")
          keep()
        }
      },
      drop(now) {
        if (!running) return
        take(now.event)
        keep()
      },
      cancel() {
        stop()
        say("The take was given up; nothing was kept of it.")
      },
    }
  }

  return {
    cursor: "crosshair",
    hint: () => (running ? "Recording…" : `Waits for you: press and draw the movement, as fast as it is to be${store.state.rate === 1 ? "" : `; the scene runs at ${store.state.rate} ×`}.`),
    press,
  }
}
