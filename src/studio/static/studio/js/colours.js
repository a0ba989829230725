/** The picker of colours: those of the scene by the names of what has them, any other, or one read off the stage. */

import {shown} from "./store.js"
import {tr} from "./words.js"

/** @import {StageScene} from "./types.js" */

/** So many of the scene's colours are offered. */
const MOST = 40
/** What is left free between the picker and what it is about, px. */
const GAP = 4

/**
 * Every colour of a scene once, with the names of what has it, the most used first.
 * @param {StageScene} scene @returns {[colour: string, names: string[]][]}
 */
export function coloursOf({layers, settings}) {
  /** @type {Map<string, Set<string>>} */
  const found = new Map()
  const add = (/** @type {unknown} */ colour, /** @type {string} */ name) => {
    const hex = typeof colour === "string" ? colour.slice(0, 7).toLowerCase() : ""
    if (hex) found.set(hex, (found.get(hex) ?? new Set()).add(name))
  }
  add(settings.background, tr`Background`)
  for (const {name, faces, keys} of layers) {
    for (const {fill, stroke} of faces.list[0]?.outlines ?? []) {
      for (const colour of typeof fill === "object" && fill ? fill.colours : [fill]) add(colour, name)
      add(stroke, name)
    }
    for (const {hex} of keys) for (const colour of hex ?? []) add(colour, name)
  }
  const sorted = [...found].map(([colour, names]) => /** @type {[string, string[]]} */ ([colour, [...names]]))
  return sorted.sort((a, b) => b[1].length - a[1].length).slice(0, MOST)
}

export class Colours {
  /** The field that is being set. @type {HTMLInputElement|null} */
  #input = null
  /** Takes the reading of the stage back. */
  #stop = () => {}

  /**
   * @param {HTMLElement} root the picker
   * @param {{store: import("./store.js").Store, stage: HTMLElement, canvas: HTMLCanvasElement, say: (words: string, bad?: boolean) => void}} tools
   */
  constructor(root, {store, stage, canvas, say}) {
    this.root = root
    this.store = store
    this.stage = stage
    this.canvas = canvas
    this.say = say
    const find = (/** @type {string} */ name) => /** @type {HTMLElement} */ (root.querySelector(`[data-${name}]`))
    this.parts = {swatches: find("swatches"), named: find("named"), hex: /** @type {HTMLInputElement} */ (find("hex")), other: find("other"), read: find("read")}
    document.addEventListener("click", event => {
      const target = /** @type {Element} */ (event.target)
      if (target instanceof HTMLInputElement && target.type === "color" && event.isTrusted && target !== this.#own) {
        event.preventDefault()
        this.#open(target)
      } else if (!root.contains(target)) this.close()
    })
    root.addEventListener("click", event => {
      const {colour} = /** @type {HTMLElement} */ (event.target).dataset
      if (colour) this.#take(colour)
    })
    for (const name of /** @type {const} */ (["pointerover", "focusin"])) root.addEventListener(name, event => this.#name(event))
    root.addEventListener("keydown", event => {
      event.stopPropagation()
      if (event.key === "Escape") this.close(true)
      if (event.key === "Enter" && event.target === this.parts.hex) this.#take(this.parts.hex.value)
    })
    this.parts.hex.addEventListener("change", () => this.#take(this.parts.hex.value))
    this.parts.other.addEventListener("click", () => this.#others())
    this.parts.read.addEventListener("click", () => this.#read())
  }

  /** The field whose own picker is up. @type {HTMLInputElement|null} */
  #own = null

  /** @param {boolean} [back] the focus goes back to the field */
  close(back = false) {
    if (this.root.hidden) return
    this.root.hidden = true
    if (back) this.#input?.focus()
  }

  /** Takes back the reading of the stage. */
  cancel() {
    const reading = this.stage.classList.contains("reading")
    this.#stop()
    return reading
  }

  /** @param {HTMLInputElement} input */
  #open(input) {
    const {root, parts} = this, scene = shown(this.store.state)
    this.#input = input
    parts.hex.value = input.value
    parts.named.textContent = tr`Colours of this scene`
    parts.swatches.replaceChildren(...(scene ? coloursOf(scene) : []).map(([colour, names]) => {
      const swatch = Object.assign(document.createElement("button"), {type: "button", className: "swatch", title: names.join(", ")})
      swatch.style.background = swatch.dataset.colour = colour
      swatch.setAttribute("aria-label", tr`${colour}, of ${names.join(", ")}`)
      swatch.setAttribute("aria-pressed", String(colour === input.value.toLowerCase()))
      return swatch
    }))
    root.hidden = false
    const box = input.getBoundingClientRect(), {offsetWidth: width, offsetHeight: height} = root
    const top = box.bottom + GAP + height > innerHeight ? box.top - GAP - height : box.bottom + GAP
    Object.assign(root.style, {left: `${Math.max(Math.min(box.left, innerWidth - width - GAP), GAP)}px`, top: `${Math.max(top, GAP)}px`})
    parts.hex.focus()
    parts.hex.select()
  }

  /** @param {string} colour */
  #take(colour) {
    const wanted = /^#?([0-9a-f]{3}|[0-9a-f]{6})$/i.exec(colour.trim())?.[1], input = this.#input
    if (!wanted || !input) return this.say(tr`“${colour}” is no colour like #1f6f8b; it was kept as it was.`, true)
    const hex = wanted.length === 3 ? [...wanted].map(digit => digit + digit).join("") : wanted
    this.close()
    if (!input.isConnected || input.value.toLowerCase() === `#${hex.toLowerCase()}`) return
    input.value = `#${hex}`
    for (const name of ["input", "change"]) input.dispatchEvent(new Event(name, {bubbles: true}))
  }

  /** @param {Event} event */
  #name({target}) {
    const {colour} = /** @type {HTMLElement} */ (target).dataset
    if (colour) this.parts.named.textContent = tr`${colour} · ${/** @type {HTMLElement} */ (target).title}`
  }

  /** The browser's own picker, for any other colour. */
  #others() {
    const input = this.#input
    this.close()
    if (!input) return
    this.#own = input
    input.showPicker()
    setTimeout(() => { this.#own = null })
  }

  /** The next press on the stage reads the colour that is seen there. */
  #read() {
    const {stage} = this
    this.close()
    this.#stop()
    const ended = new AbortController(), {signal} = ended
    this.#stop = () => {
      ended.abort()
      stage.classList.remove("reading")
    }
    stage.classList.add("reading")
    this.say(tr`Press on the stage where the colour is; Escape leaves it.`)
    document.addEventListener("pointerdown", event => {
      const on = stage.contains(/** @type {Node} */ (event.target))
      this.#stop()
      if (!on) return
      event.preventDefault()
      event.stopPropagation()
      const colour = this.#at(event)
      if (colour) this.#take(colour)
      else this.say(tr`Nothing is drawn there; the colour was kept as it was.`)
    }, {capture: true, signal})
    document.addEventListener("keydown", event => {
      if (event.key !== "Escape") return
      event.stopPropagation()
      this.#stop()
    }, {capture: true, signal})
  }

  /** @param {MouseEvent} event @returns {string} */
  #at(event) {
    const {canvas} = this, box = canvas.getBoundingClientRect()
    const x = Math.floor((event.clientX - box.left) * (canvas.width / box.width)), y = Math.floor((event.clientY - box.top) * (canvas.height / box.height))
    const [r, g, b, a] = canvas.getContext("2d")?.getImageData(x, y, 1, 1).data ?? [0, 0, 0, 0]
    return a ? `#${[r, g, b].map(level => level.toString(16).padStart(2, "0")).join("")}` : ""
  }
}
