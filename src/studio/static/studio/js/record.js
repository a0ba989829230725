/**
 * The tool that catches a movement: it waits for the press, draws what the hand does in real time, and sends it when
 * the hand lets go. The scene runs along at the speed it plays at; slower, and the take is kept at its true speed.
 */

import {chosenLayer, chosenPath, shown, tellingRider} from "./store.js"
import {tr} from "./words.js"

/** @import {At, Drag, Point, Tool} from "./types.js" */

/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, player: import("./player.js").Player,
 *   view: import("./pane.js").Pane, say: (words: string) => void, done: () => void, most: number}} Tools most samples of a take
 */

const FEWEST = 3

/** @implements {Tool} */
export class RecordTool {
  /** The take under way. @type {Take|null} */
  #take = null

  /** @param {Tools} tools */
  constructor(tools) {
    this.tools = tools
    this.cursor = "crosshair"
  }

  hint() {
    const {rate} = this.tools.store.state
    if (this.#take?.running) return tr`Recording…`
    return tr`Waits for you: press and draw the movement, as fast as it is to be${rate === 1 ? "" : tr`; the scene runs at ${rate} ×`}.`
  }

  /** @param {At} at @returns {Drag} */
  press(at) { return (this.#take = new Take(this.tools, at.event)) }
}

/** One take, from the press to the release: the scene plays along. @implements {Drag} */
class Take {
  eager = true
  running = true
  /** Milliseconds, x, y, pressure. @type {number[][]} */
  #samples = []
  /** @type {Point[]} */
  #line = []

  /** @param {Tools} tools @param {PointerEvent} pressed */
  constructor(tools, pressed) {
    const {store, player} = tools, {state} = store
    this.tools = tools
    this.begun = pressed.timeStamp
    this.slow = state.rate
    this.looped = state.loop
    // Once more, it is for whoever rides the take that was recorded before.
    this.layer = chosenLayer(state)?.id ?? (chosenPath(state)?.drawn ? tellingRider(state)?.id : "") ?? ""
    // Without loop the scene's end stops it.
    store.set({loop: false})
    player.play()
    this.start = store.state.frame
    this.#catch(pressed)
  }

  /** @param {At} now */
  move({event}) {
    if (!this.running) return
    this.#catch(event)
    const d = this.#line.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("")
    this.tools.store.set({draft: {d}})
    if (this.#samples.length >= this.tools.most) {
      this.tools.say(tr`The take is as long as one can be, and was kept; go on with another.`)
      return this.#keep()
    }
    const {fps, length} = shown(this.tools.store.state)?.settings ?? {fps: 30, length: 1}
    if (this.start + ((event.timeStamp - this.begun) / 1000) * fps * this.slow < length) return
    this.tools.say(tr`The scene's end stopped the take.`)
    this.#keep()
  }

  /** @param {At} now */
  drop({event}) {
    if (!this.running) return
    this.#catch(event)
    this.#keep()
  }

  cancel() {
    if (!this.running) return
    this.#stop()
    this.tools.say(tr`The take was given up; nothing was kept of it.`)
  }

  /** All movements that came in since the last picture, with their own times. @param {PointerEvent} event */
  #catch(event) {
    const together = event.getCoalescedEvents?.() ?? []
    for (const one of together.length ? together : [event]) {
      const time = one.timeStamp - this.begun
      if (this.#samples.length >= this.tools.most) return
      if (this.#samples.length && time <= this.#samples[this.#samples.length - 1][0]) continue
      const [x, y] = this.tools.view.point(one)
      this.#samples.push([Math.max(time, 0), x, y, one.pressure].map(value => +value.toFixed(3)))
      this.#line.push([x, y])
    }
  }

  #stop() {
    this.running = false
    this.tools.player.pause()
    this.tools.store.set({loop: this.looped, draft: null})
  }

  #keep() {
    const {edits, player, say, done} = this.tools, {start, layer, slow} = this
    this.#stop()
    if (this.#samples.length < FEWEST) return say(tr`That was too short for a take. Press, draw the movement, and let go.`)
    void edits.record({samples: JSON.stringify(this.#samples), slow: String(slow), frame: String(start), layer}).then(head => {
      if (head) player.go(start)
    })
    done()
  }
}
