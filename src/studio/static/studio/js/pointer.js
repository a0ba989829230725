/** The pointer on the stage, and the tool that is up: its hint, its button, its cursor, its keys. */

import {Hand} from "./hand.js"
import {StageCursor} from "./stagecursor.js"

/** @import {Tool} from "./types.js" */

/**
 * @typedef {{store: import("./store.js").Store, view: import("./view.js").StageView, tools: Record<string, Tool>}} Parts
 */

export class Pointer {
  /** The hand, while its key is held. */
  #hand = false

  /** @param {HTMLElement} bench @param {Parts} parts */
  constructor(bench, {store, view, tools}) {
    this.bench = bench
    this.store = store
    this.view = view
    this.tools = tools
    this.hold = new Hand(bench, {view, tool: () => this.#tool(), pans: () => this.#pans(), tell: () => this.tell()}).hold
    this.cursor = new StageCursor(bench, {store, view, tool: () => this.#tool()})
    const [hint, words, done] = ["hint", "hint-words", "done"].map(name => /** @type {HTMLElement} */ (bench.querySelector(`[data-${name}]`)))
    this.said = {hint, words, done}
    this.#wireToolbox()
    this.tell()
  }

  #wireToolbox() {
    const {store} = this
    this.bench.addEventListener("change", event => {
      const {name, value, dataset} = /** @type {HTMLInputElement} */ (event.target)
      if ("figureOption" in dataset) store.set({options: {...store.state.options, [name]: value}})
    })
    document.addEventListener("click", event => {
      const target = /** @type {Element} */ (event.target)
      const button = target.closest("[data-tool]")
      if (button instanceof HTMLElement) {
        const {figure, shape, tool = "pick"} = button.dataset
        store.set({...(figure ? {figure} : {}), ...(shape ? {shape} : {})})
        this.pickTool(tool)
      }
      if (target.closest("[data-done]")) this.pickTool("pick")
    })
  }

  /** Say what the tool that is up does, and show which one it is. */
  tell() {
    const {bench, store} = this, {hint, words, done} = this.said, tool = this.#tool()
    words.textContent = tool.hint()
    hint.hidden = !words.textContent
    done.hidden = store.state.tool !== "pen"
    bench.style.cursor = this.#pans() ? "grab" : tool.cursor
    for (const button of bench.querySelectorAll("[data-tool]"))
      button.setAttribute("aria-pressed", String(/** @type {HTMLElement} */ (button).dataset.tool === store.state.tool))
  }

  /** @param {string} name */
  pickTool(name) {
    if (!(name in this.tools)) return
    this.cancel()
    if (name !== this.store.state.tool) this.#tool().leave?.()
    this.cursor.hide()
    this.store.set({tool: name, draft: null, guides: []})
    this.tell()
  }

  /** Breaks off a drag. */
  cancel() { return this.hold.cancel() || this.cursor.cancel() }

  /** @param {boolean} on */
  handHeld(on) {
    if (this.#hand === on) return
    this.#hand = on
    this.tell()
  }

  /** Keys go to the tool first. @param {KeyboardEvent} event */
  key(event) { return this.cursor.key(event) || (this.#tool().key?.(event) ?? false) }

  #tool() { return this.tools[this.store.state.tool] ?? this.tools.pick }

  /** Whether the main button moves the view. */
  #pans() { return this.#hand || this.store.state.tool === "hand" }
}
