/**
 * How the window is shared out: shelf, card and strip are made wider, higher or folded away, by dragging the line
 * beside them or with the keyboard. Kept in this browser.
 */

import {Hold} from "./hold.js"
import {tr} from "./words.js"

const KEPT_AS = "coaster-layout"
const STEP = 20

/**
 * @typedef {{name: "shelf"|"card"|"strip"|"second", stays?: boolean, words: string, usual: number, least: number, most: () => number, across: boolean, sign: 1|-1}} Part
 * how wide or high it is in px; ``sign`` says which way the line is dragged to make it more; what ``stays`` is never folded
 */

/** Parts are as wide as their words need, however large a person has set these. */
const EM = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16
/** @type {Part[]} */
const PARTS = [
  {name: "shelf", words: tr`Width of the shelf`, usual: 240 * EM, least: 180 * EM, most: () => window.innerWidth * 0.4, across: true, sign: 1},
  {name: "card", words: tr`Width of the card`, usual: 284 * EM, least: 264 * EM, most: () => window.innerWidth * 0.45, across: true, sign: -1},
  {name: "second", words: tr`Width of the second view`, usual: 320 * EM, least: 220 * EM, most: () => window.innerWidth * 0.5, across: true, sign: -1, stays: true},
  {name: "strip", words: tr`Height of the strip`, usual: 236 * EM, least: 150 * EM, most: () => window.innerHeight * 0.72, across: false, sign: -1},
]

export class Layout {
  /** Px of each part where a person has set it, and which are folded. @type {{px: Record<string, number>, folded: string[]}} */
  #kept = {px: {}, folded: []}
  /** What was folded before all was. @type {string[]} */
  #before = []

  /** @param {HTMLElement} editor */
  constructor(editor) {
    this.editor = editor
    try {
      const kept = JSON.parse(localStorage.getItem(KEPT_AS) ?? "{}")
      this.#kept = {px: kept.px ?? {}, folded: Array.isArray(kept.folded) ? kept.folded : []}
    } catch {
      localStorage.removeItem(KEPT_AS) // not ours, or of another version
    }
    for (const part of PARTS) this.#wire(part)
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (editor.querySelectorAll("[data-part]")))
      button.addEventListener("click", () => this.fold(button.dataset.part ?? ""))
    window.addEventListener("resize", () => this.#show())
    this.#show()
  }

  /** Folds a part, or unfolds it. @param {string} name */
  fold(name) {
    const {folded} = this.#kept, away = folded.includes(name)
    this.#keep({folded: away ? folded.filter(other => other !== name) : [...folded, name]})
  }

  /** All but the stage away; again: as it was. */
  alone() {
    const all = PARTS.filter(part => !part.stays).map(part => part.name), {folded} = this.#kept
    const back = all.every(name => folded.includes(name))
    if (!back) this.#before = folded
    this.#keep({folded: back ? this.#before : all})
  }

  /** @param {Part} part */
  #wire(part) {
    const line = /** @type {HTMLElement} */ (this.editor.querySelector(`[data-line="${part.name}"]`))
    const hold = new Hold(line)
    line.setAttribute("aria-label", part.words)
    line.addEventListener("pointerdown", event => {
      if (event.button !== 0) return
      const from = this.#px(part), at = part.across ? event.clientX : event.clientY
      hold.begin(event, {
        move: now => this.#set(part, from + part.sign * ((part.across ? now.clientX : now.clientY) - at)),
        drop: () => this.#keep({}),
        cancel: () => this.#set(part, from),
      })
    })
    line.addEventListener("dblclick", () => this.#keep({px: {...this.#kept.px, [part.name]: part.usual}}))
    line.addEventListener("keydown", event => {
      const [less, more] = part.across ? ["ArrowLeft", "ArrowRight"] : ["ArrowUp", "ArrowDown"]
      const step = Number(event.key === more) - Number(event.key === less)
      if (!step) return
      event.preventDefault()
      event.stopPropagation()
      this.#set(part, this.#px(part) + part.sign * step * STEP)
      this.#keep({})
    })
  }

  /** @param {Part} part */
  #px(part) {
    const wanted = this.#kept.px[part.name] ?? part.usual
    return Math.round(Math.min(Math.max(wanted, part.least), Math.max(part.most(), part.least)))
  }

  /** @param {Part} part @param {number} px */
  #set(part, px) {
    this.#kept.px = {...this.#kept.px, [part.name]: px}
    this.#kept.folded = this.#kept.folded.filter(name => name !== part.name)
    this.#show()
  }

  /** @param {Partial<{px: Record<string, number>, folded: string[]}>} change */
  #keep(change) {
    this.#kept = {...this.#kept, ...change}
    localStorage.setItem(KEPT_AS, JSON.stringify(this.#kept))
    this.#show()
  }

  #show() {
    for (const part of PARTS) {
      const away = this.#kept.folded.includes(part.name), px = this.#px(part)
      const set = part.name in this.#kept.px
      if (away) this.editor.style.setProperty(`--${part.name}`, "0px")
      else if (set) this.editor.style.setProperty(`--${part.name}`, `${px}px`)
      else this.editor.style.removeProperty(`--${part.name}`)
      this.editor.classList.toggle(`no-${part.name}`, away)
      const line = /** @type {HTMLElement} */ (this.editor.querySelector(`[data-line="${part.name}"]`))
      line.setAttribute("aria-valuenow", String(away ? 0 : px))
      const button = this.editor.querySelector(`[data-part="${part.name}"]`)
      button?.setAttribute("aria-expanded", String(!away))
    }
  }
}
