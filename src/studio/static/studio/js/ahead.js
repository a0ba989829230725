/**
 * Playing that is true to what is rendered, where drawing is too slow for it: frames are kept as they were drawn, and
 * drawn ahead while nothing else is done. A bar in the ruler shows which are there; an edit makes those anew that it changes.
 */

import {alike} from "./alike.js"
import {shareOf} from "./axis.js"
import {shown} from "./store.js"

/** @import {State, StageScene, View} from "./types.js" */
/** @typedef {import("./sheets.js").Box} Box */
/** @typedef {{image: ImageBitmap, box: Box}} Drawn */

/** Bytes of frames that are kept; where all of them need more they are kept smaller, down to a half. */
const ROOM = 256e6, SMALLEST = 0.5
/** Drawing is slow that takes so much of the time that a frame is seen, in so many of the last frames. */
const SLOW = 0.8, OF = 12, AT_LEAST = 6
/** Keeping a frame takes time itself: of those that are drawn almost in time only one in so many is kept in each round. */
const ALMOST = 1.5, ONE_IN = 4
/** Nothing is drawn ahead until nothing was done for so long. */
const QUIET_MS = 600
const BAR_MS = 250

/** @implements {View} */
export class Ahead {
  /** @type {Map<number, Drawn>} */
  #drawn = new Map()
  #bytes = 0
  /** What was drawn: the scene as it was then, and how it lay on the stage. @type {{scene: StageScene|null, lies: string}} */
  #of = {scene: null, lies: ""}
  /** How long the last frames took, ms. @type {number[]} */
  #took = []
  #slow = false
  /** Frames drawn since then, and not kept before. */
  #drawnLate = 0
  #touched = 0
  #filling = 0
  #barred = 0
  /** @type {State|null} */
  #state = null

  /** @param {HTMLElement} ruler @param {{store: import("./store.js").Store, picture: import("./picture.js").Picture}} tools */
  constructor(ruler, {store, picture}) {
    this.store = store
    this.picture = picture
    picture.ahead = this
    this.bar = document.createElement("div")
    this.bar.className = "ahead"
    this.bar.hidden = true
    ruler.after(this.bar)
    for (const kind of ["pointerdown", "pointermove", "keydown", "wheel"])
      document.addEventListener(kind, () => { this.#touched = performance.now() }, {capture: true, passive: true})
  }

  /** Whether the frame that was drawn last while it plays is to be kept, as drawing takes too long to play in time. */
  takes() { return this.#slow && isKept(this.#took, ++this.#drawnLate) }

  /** The frame as it was drawn, if it is kept. @param {number} frame @returns {Drawn|undefined} */
  at(frame) { return this.#drawn.get(frame) }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    this.#state = state
    const scene = shown(state)
    if (state.solo !== previous.solo || state.arrived !== previous.arrived) this.clear()
    if (state.scene !== previous.scene && state.scene) this.#changed(state.scene)
    if (!state.playing) this.#fillSoon()
    else if (previous.playing && scene && isLate(state, previous, scene)) this.#note(2 * 1000)
    if (scene && (state.span !== previous.span || state.scene !== previous.scene)) this.#tell()
  }

  /** Drops all, as where the scene lies elsewhere on the stage or a picture has come in. */
  clear() {
    for (const {image} of this.#drawn.values()) image.close()
    this.#drawn.clear()
    this.#bytes = 0
    this.#tell()
  }

  /** Drops the frames that look otherwise now. @param {StageScene} scene */
  #changed(scene) {
    // To compare two scenes takes long where many ride: not for nothing.
    const before = this.#drawn.size ? this.#of.scene : null, isSame = before ? alike(before, scene) : () => false
    for (const frame of [...this.#drawn.keys()]) if (!isSame(frame)) this.#drop(frame)
    this.#of.scene = scene
    this.#tell()
  }

  /** @param {number} frame */
  #drop(frame) {
    const {image} = /** @type {Drawn} */ (this.#drawn.get(frame))
    this.#bytes -= 4 * image.width * image.height
    image.close()
    this.#drawn.delete(frame)
  }

  /** Hears how long a frame took that was drawn while it plays, ms. @param {number} took */
  played(took) {
    const {fps = 30} = shown(this.store.state)?.settings ?? {}
    this.#note(took * fps * this.store.state.rate)
  }

  /** Notes how long a frame took, in thousandths of the time that it is seen. @param {number} took */
  #note(took) {
    this.#took = [...this.#took.slice(1 - OF), took]
    if (this.#took.filter(each => each > 1000 * SLOW).length >= AT_LEAST) this.#slow = true
  }

  /** @param {number} frame @param {HTMLCanvasElement} canvas @param {Box} box what of it was drawn on */
  keep(frame, canvas, [left, top, width, height]) {
    const length = shown(this.store.state)?.settings.length ?? 1
    if (this.#drawn.has(frame) || !width || this.#bytes > ROOM) return
    const scale = Math.min(1, Math.max(SMALLEST, Math.sqrt(ROOM / (4 * width * height * length))))
    const sheet = new OffscreenCanvas(Math.ceil(width * scale), Math.ceil(height * scale))
    sheet.getContext("2d")?.drawImage(canvas, left, top, width, height, 0, 0, sheet.width, sheet.height)
    this.#drawn.set(frame, {image: sheet.transferToImageBitmap(), box: [left, top, width, height]})
    this.#bytes += 4 * sheet.width * sheet.height
    this.#tell()
  }

  #fillSoon() {
    clearTimeout(this.#filling)
    if (this.#slow) this.#filling = setTimeout(() => this.#fill(), QUIET_MS)
  }

  /** Draws the next frame that is not there, and asks to go on. */
  #fill() {
    const state = this.#state, scene = state && shown(state)
    if (!state || !scene || state.playing || state.look) return
    if (performance.now() - this.#touched < QUIET_MS || document.hidden) return this.#fillSoon()
    const next = this.#lacking(state, scene)
    if (next === undefined || this.#bytes > ROOM) return
    const drawn = this.picture.aside(next)
    // Footage is on its way.
    if (!drawn) return this.#fillSoon()
    this.keep(next, ...drawn)
    requestIdleCallback(() => this.#fill(), {timeout: QUIET_MS})
  }

  /** The next frame that is played and not there. @param {State} state @param {StageScene} scene */
  #lacking({range, frame}, {settings: {length}}) {
    const [begin, end] = range ?? [0, length], here = Math.min(Math.max(frame, begin), end - 1)
    for (let i = 0; i < end - begin; i++) {
      const each = begin + (here - begin + i) % (end - begin)
      if (!this.#drawn.has(each)) return each
    }
    return undefined
  }

  /** Shows which frames are there, a few times a second. */
  #tell() {
    if (this.#barred) return
    this.#barred = setTimeout(() => {
      this.#barred = 0
      this.#drawBar()
    }, BAR_MS)
  }

  #drawBar() {
    const state = this.#state
    if (!state) return
    this.bar.hidden = !this.#drawn.size
    this.bar.dataset.kept = String(this.#drawn.size)
    this.bar.replaceChildren(...runsOf([...this.#drawn.keys()]).map(([from, to]) => {
      const mark = document.createElement("i")
      const [left, right] = [from, to].map(frame => Math.min(Math.max(shareOf(state, frame), 0), 1) * 100)
      mark.style.left = `${left}%`
      mark.style.width = `${right - left}%`
      return mark
    }))
  }
}

/**
 * Whether a frame that takes long is to be kept. @param {readonly number[]} took how late the last ones came, and how long
 * they took, in thousandths of the time that they are seen @param {number} nth of those
 */
export const isKept = (took, nth) => Math.max(...took.slice(-2)) > 1000 * ALMOST || nth % ONE_IN === 0

/** A window shows no more pictures a second than this. */
const SHOWN_A_SECOND = 60

/**
 * Whether frames were passed over that a window could have shown, as where the browser itself cannot keep up.
 * @param {State} state @param {State} previous @param {StageScene} scene
 */
export function isLate({frame, rate}, previous, {settings: {fps, length}}) {
  const passed = (frame - previous.frame + length) % length
  return passed > 2 * Math.max(1, fps * rate / SHOWN_A_SECOND)
}

/** Numbers as runs: from the first up to, not including, the second. @param {number[]} numbers @returns {[number, number][]} */
export function runsOf(numbers) {
  const runs = /** @type {[number, number][]} */ ([])
  for (const number of numbers.sort((a, b) => a - b)) {
    const last = runs.at(-1)
    if (last?.[1] === number) last[1]++
    else runs.push([number, number + 1])
  }
  return runs
}
