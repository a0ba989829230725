/** Writing on the stage: a text's words are typed where they stand; what is drawn under them is what will be kept. */

import {boxOf, layerOf, matrixOf} from "./layers.js"
import {composed, onCanvas} from "./matrices.js"
import {shown} from "./store.js"
import {tr} from "./words.js"

/** @import {State, Words} from "./types.js" */

/** Px of the layer's size that a caret behind the last letter takes. */
const CARET = 0.2
/** Fonts that were asked for, by the names of their files. @type {Set<string>} */
const asked = new Set()

export class Writing {
  /** @type {HTMLTextAreaElement|null} */
  #area = null
  #layer = ""
  /** What was refused last: left a second time as it is, it is given up. */
  #refused = ""

  /**
   * @param {HTMLElement} stage
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, view: import("./view.js").StageView,
   *   say: (words: string, bad?: boolean) => void, letters: string, assets: string, fallbacks: string[]}} tools
   *   where the fonts that ship are, and those that were brought in; what letters are taken from last
   */
  constructor(stage, {store, edits, view, say, letters, assets, fallbacks}) {
    this.stage = stage
    this.store = store
    this.edits = edits
    this.view = view
    this.say = say
    this.letters = letters
    this.assets = assets
    this.fallbacks = fallbacks
    window.addEventListener("pagehide", () => void this.end())
  }

  /** Type the words of a layer, if it has any. @param {string} id */
  begin(id) {
    const layer = layerOf(shown(this.store.state), id)
    if (!layer?.words || this.#layer === id) return
    void this.end()
    const area = document.createElement("textarea")
    Object.assign(area, {className: "writing", value: layer.words.text, spellcheck: false})
    area.setAttribute("aria-label", tr`Words of ${layer.name}`)
    area.addEventListener("input", () => this.#typed())
    area.addEventListener("blur", () => void this.end())
    area.addEventListener("keydown", event => {
      event.stopPropagation()
      if (event.key === "Escape" || (event.key === "Enter" && (event.ctrlKey || event.metaKey))) area.blur()
    })
    this.#area = area
    this.#layer = id
    this.#refused = ""
    this.stage.append(area)
    this.#dress(layer.words)
    this.redraw()
    area.focus()
    area.select()
  }

  /** Keep what was typed; what is refused stays to be mended. */
  async end() {
    const area = this.#area, before = layerOf(this.store.state.scene, this.#layer)?.words?.text
    if (!area) return
    if (before !== undefined && area.value !== before) {
      const refusal = await this.edits.attempt(this.#edit())
      if (refusal) {
        this.say(refusal, true)
        // Left blank it is what it was; all else is the person's to mend, or to leave again.
        const mends = area.value.trim() && area.value !== this.#refused && this.#area === area
        if (mends) {
          this.#refused = area.value
          return area.focus()
        }
        this.edits.lookAway()
      }
    } else this.edits.lookAway()
    if (this.#area === area) this.#area = null
    if (!this.#area) this.#layer = ""
    area.remove()
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (!this.#area) return
    if (state.playing || !layerOf(shown(state), this.#layer)) return this.#area.blur()
    if (shown(state) !== shown(previous) || state.frame !== previous.frame) this.redraw()
  }

  /** Lay the words where they are seen. */
  redraw() {
    const area = this.#area, layer = layerOf(shown(this.store.state), this.#layer)
    if (!area || !layer?.words) return
    const {view} = this, {frame} = this.store.state, [, , width, height] = boxOf(layer, frame)
    // What is wrapped is as wide as it says; else there is room for the caret, on the side it comes out on.
    const {wrap, size, align} = layer.words, more = wrap ? 0 : size * CARET, left = {left: 0, centre: more / 2, right: more}[align]
    const seen = composed(onCanvas(matrixOf(layer, frame), [view.scale, view.left, view.top]), [1, 0, 0, 1, -left, 0])
    const [a, b, c, d, e, f, g = 0, h = 0, w = 1] = Array.from(seen)
    Object.assign(area.style, {
      width: `${width + more}px`, height: `${height}px`, transform: `matrix3d(${[a, b, 0, g, c, d, 0, h, 0, 0, 1, 0, e, f, 0, w].join()})`,
    })
  }

  #edit() {
    return {form: "text", fields: {layer: this.#layer, frame: String(this.store.state.frame), text: this.#area?.value ?? ""}}
  }

  #typed() {
    if (this.#area?.value.trim()) this.edits.look(this.#edit())
  }

  /** @param {Words} words */
  #dress(words) {
    const area = this.#area
    if (!area) return
    const families = [...words.files, ...this.fallbacks].map(file => this.#family(file))
    Object.assign(area.style, {
      fontFamily: families.join(", "), fontSize: `${words.size}px`, fontWeight: String(words.weight), lineHeight: String(words.leading),
      letterSpacing: `${words.tracking}em`, textAlign: words.align === "centre" ? "center" : words.align, whiteSpace: words.wrap ? "pre-wrap" : "pre",
      fontVariantLigatures: words.tracking ? "no-common-ligatures" : "normal",
    })
  }

  /** A font's family in the page, which it is fetched into when a letter is first taken from it. @param {string} file */
  #family(file) {
    const family = `stage ${file}`
    if (!asked.has(file)) {
      asked.add(file)
      // What was brought in is named by its content.
      const source = /^[0-9a-f]{40}\./.test(file) ? this.assets : this.letters
      document.fonts.add(new FontFace(family, `url("${source}${file}")`, {weight: "1 1000"}))
    }
    return `"${family}"`
  }
}
