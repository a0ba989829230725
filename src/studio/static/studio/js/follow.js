/**
 * The tool that follows a spot through footage: a box is dragged round it, and the studio finds it frame by frame,
 * forwards and backwards. Where it is lost, or wrong, another box sets it right from there.
 */

import {faceOf, layerOf, matrixOf} from "./layers.js"
import {mapped} from "./matrices.js"
import {chosenLayer, shown} from "./store.js"
import {tr} from "./words.js"

/** @import {At, Drag, Layer, Point, State, Tool} from "./types.js" */

/**
 * @typedef {{index: number, x: number, y: number, width: number, height: number}} Marked a box of the file, by its middle
 * @typedef {{x: number, y: number, sure: number}} Spot px of the file
 * @typedef {{spots: [number, number, number, number][], marked: Marked, warp: number[], lost: boolean, ended: boolean}} Part
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, server: import("./server.js").Server,
 *   player: import("./player.js").Player, say: (words: string, bad?: boolean) => void, done: () => void,
 *   changed: () => void}} Tools
 */

/** A box that is smaller on the stage is a click. */
const LEAST = 4
/** Below this it is said how sure a spot is where that is least. */
const DOUBTFUL = 0.85

/** @implements {Tool} */
export class FollowTool {
  cursor = "crosshair"
  /** Which layer is followed, and how large its file is. */
  #layer = ""
  /** @type {[number, number]} */
  #size = [1, 1]
  /** Spots by the frames of the file. @type {Map<number, Spot>} */
  #spots = new Map()
  /** Sides of the box, px of the file. @type {[number, number]} */
  #sides = [0, 0]
  /** Raised when what is under way is of no use any more. */
  #round = 0
  #running = false
  /** The frame of the file before which it was lost. @type {number|null} */
  #lost = null

  /** @param {HTMLElement} panel @param {Tools} tools */
  constructor(panel, tools) {
    this.panel = panel
    this.tools = tools
    this.words = /** @type {HTMLElement} */ (panel.querySelector("[data-follow-words]"))
    panel.addEventListener("click", event => this.#click(/** @type {HTMLElement} */ (event.target).closest("button")))
  }

  hint() {
    if (this.#running || this.#spots.size) return ""
    return tr`Go to where the spot is plain to see, and drag a box round it: a corner, or a mark with an edge.`
  }

  /** @param {At} at @returns {Drag|null} */
  press(at) {
    const {store, player} = this.tools, layer = chosenLayer(store.state)
    if (layer?.kind !== "footage") {
      this.tools.say(tr`Choose the footage first, in which a spot is to be followed.`)
      return null
    }
    player.pause()
    const from = at.point
    return {
      move: now => store.set({draft: {...this.#seen(), band: [from, now.point]}}),
      drop: now => {
        const large = Math.min(...from.map((value, axis) => Math.abs(value - now.point[axis]))) > LEAST
        if (large) void this.#begin(layer, from, now.point)
        else this.#show()
      },
      cancel: () => this.#show(),
    }
  }

  /** The tool is put down: what was found is forgotten. */
  leave() { this.#forget() }

  /** The box is where the spot is in the frame on the stage. @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (state.tool !== "follow" || !this.#spots.size) return
    const gone = !layerOf(state.scene, this.#layer)
    if (!gone && state.frame === previous.frame && state.scene === previous.scene) return
    // Once all others have seen the change: no view changes anything meanwhile.
    queueMicrotask(() => gone ? this.tools.done() : this.#show())
  }

  #forget() {
    this.#round++
    this.#running = false
    this.#spots.clear()
    this.#lost = null
    this.panel.hidden = true
  }

  /** Follows from a new box on, over what was found there before. @param {Layer} layer @param {Point} from @param {Point} to */
  async #begin(layer, from, to) {
    const {store} = this.tools
    if (layer.id !== this.#layer) this.#forget()
    const round = ++this.#round
    const [left, right] = [from[0], to[0]].sort((a, b) => a - b), [top, bottom] = [from[1], to[1]].sort((a, b) => a - b)
    const box = {left, top, right, bottom, frame: store.state.frame}
    const fields = Object.fromEntries(Object.entries(box).map(([name, value]) => [name, String(value)]))
    const told = await this.#asked("mark", {layer: layer.id, ...fields})
    if (!told || round !== this.#round) return this.#show()
    const marked = /** @type {Marked} */ (told.marked)
    this.#layer = layer.id
    this.#size = told.size
    this.#sides = [marked.width, marked.height]
    this.#lost = null
    this.#running = true
    this.#spots.set(marked.index, {x: marked.x, y: marked.y, sure: 1})
    // Backwards it only goes as far as to what is known from before.
    const known = new Set(this.#spots.keys())
    const forwards = await this.#on(marked, 1, round, null)
    if (forwards && round === this.#round) await this.#on(marked, -1, round, known)
    if (round !== this.#round) return
    this.#running = false
    this.#show()
  }

  /**
   * Follows one way, a part at a time.
   * @param {Marked} begun @param {1|-1} step @param {number} round @param {Set<number>|null} known where to stop
   * @returns {Promise<boolean>} whether anything was answered
   */
  async #on(begun, step, round, known) {
    let marked = begun, warp = /** @type {number[]|null} */ (null), after = begun.index
    for (;;) {
      const fields = {layer: this.#layer, marked: JSON.stringify(marked), warp: JSON.stringify(warp), after: String(after), step: String(step)}
      const part = /** @type {Part|null} */ (await this.#asked("on", fields))
      if (round !== this.#round) return false
      if (!part) {
        this.#running = false
        this.#show()
        return false
      }
      for (const [index, x, y, sure] of part.spots) {
        if (known?.has(index) && index !== begun.index) return true
        this.#spots.set(index, {x, y, sure})
        after = index
      }
      marked = part.marked
      warp = part.warp
      this.#goTo(after)
      this.#show()
      // Towards what is known from before it may be hidden for a while: a gap is no end.
      const goesOn = [...this.#spots.keys()].some(index => (index - after) * step > 0)
      if (part.lost && !goesOn) this.#lost = after
      if (part.ended) return true
    }
  }

  /** @param {string} what @param {Record<string, string>} fields @returns {Promise<any>} */
  async #asked(what, fields) {
    try {
      return await (await this.tools.server.post(`follow/${what}`, fields)).json()
    } catch (error) {
      this.tools.say(/** @type {Error} */ (error).message, true)
      return null
    }
  }

  /** The first frame of the scene that shows a frame of the file. @param {number} index */
  #frameOf(index) {
    const {scene} = this.tools.store.state, layer = layerOf(scene, this.#layer)
    for (let frame = 0; layer && frame < (scene?.settings.length ?? 0); frame++) if (faceOf(layer, frame).picture?.[1] === index) return frame
    return null
  }

  /** @param {number} index */
  #goTo(index) {
    const frame = this.#frameOf(index)
    if (frame !== null) this.tools.store.set({frame})
  }

  /** A place of the file in the scene. @param {Layer} layer @param {number} frame @param {number} x @param {number} y @returns {Point} */
  #inScene(layer, frame, x, y) {
    const [left, top, width, height] = faceOf(layer, frame).box
    return mapped(matrixOf(layer, frame), [left + (x / this.#size[0]) * width, top + (y / this.#size[1]) * height])
  }

  /** The way of the spot, and its box in the frame on the stage. @returns {import("./types.js").Draft} */
  #seen() {
    const {state} = this.tools.store, layer = layerOf(state.scene, this.#layer), length = state.scene?.settings.length ?? 0
    if (!layer || !this.#spots.size) return {}
    const places = /** @type {Point[]} */ ([])
    for (let frame = 0; frame < length; frame++) {
      const spot = this.#spots.get(faceOf(layer, frame).picture?.[1] ?? -1)
      if (spot) places.push(this.#inScene(layer, frame, spot.x, spot.y))
    }
    const d = places.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("")
    const here = this.#here(layer)
    if (!here) return {d}
    const [w, h] = this.#sides.map(side => side / 2)
    const at = state.frame, band = /** @type {[Point, Point]} */ ([this.#inScene(layer, at, here.x - w, here.y - h), this.#inScene(layer, at, here.x + w, here.y + h)])
    return {d, band}
  }

  /** @param {Layer} layer */
  #here(layer) { return this.#spots.get(faceOf(layer, this.tools.store.state.frame).picture?.[1] ?? -1) }

  #show() {
    const {store} = this.tools, layer = layerOf(store.state.scene, this.#layer)
    if (store.state.tool !== "follow") return
    store.set({draft: this.#spots.size ? this.#seen() : null})
    this.panel.hidden = !this.#spots.size
    this.tools.changed()
    if (!layer || !this.#spots.size) return
    this.words.textContent = this.#told(layer)
    this.panel.toggleAttribute("data-running", this.#running)
  }

  /** @param {Layer} layer */
  #told(layer) {
    const here = this.#here(layer), sure = here ? tr`${Math.round(here.sure * 100)} % sure here` : tr`not followed here`
    const count = tr`${this.#spots.size} frames`
    if (this.#running) return tr`Following: ${count}, ${sure}`
    if (this.#lost !== null) return tr`Lost after ${this.#seconds(this.#lost)}. Go on from a later frame: drag the box round it again. ${count}`
    const [index, least] = [...this.#spots].reduce((worst, each) => (each[1].sure < worst[1].sure ? each : worst))
    const doubt = least.sure < DOUBTFUL ? tr`, least at ${this.#seconds(index)}: ${Math.round(least.sure * 100)} %` : ""
    return tr`Followed through ${count}; ${sure}${doubt}`
  }

  /** When a frame of the file is seen, in words. @param {number} index */
  #seconds(index) {
    const frame = this.#frameOf(index), fps = shown(this.tools.store.state)?.settings.fps ?? 30
    return frame === null ? tr`frame ${index}` : `${(frame / fps).toFixed(2)} s`
  }

  /** @param {HTMLElement|null} button */
  #click(button) {
    const what = button?.dataset.follow
    if (what === "stop") {
      this.#round++
      this.#running = false
      this.#show()
    } else if (what === "leave") this.tools.done()
    else if (what) void this.#make(what)
  }

  /** @param {string} make a take, or a helper */
  async #make(make) {
    const rows = [...this.#spots].sort(([a], [b]) => a - b).map(([index, {x, y}]) => [index, +x.toFixed(3), +y.toFixed(3)])
    const head = await this.tools.edits.followed({layer: this.#layer, make, spots: JSON.stringify(rows)})
    if (head) this.tools.done()
  }
}
