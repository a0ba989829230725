/**
 * Drags in the strip: they look ahead at an edit, say what it comes to beside the pointer, and commit it when let
 * go.
 */

import {Hold} from "./hold.js"

/** @import {Edit} from "./types.js" */

const FAR_ENOUGH = 3

/**
 * @typedef {{edit: Edit|null, words: string}} Asked what a drag asks for as it stands, and what there is to say of it
 */
/** @type {Asked} */
export const nothing = {edit: null, words: ""}

/** @param {string} words @param {string} form @param {Record<string, string>} fields @returns {Asked} */
export const asks = (words, form, fields) => ({edit: {form, fields}, words})

export class StripDrags {
  /**
   * @param {HTMLElement|SVGSVGElement} root where drags begin
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
   */
  constructor(root, {store, edits}) {
    this.root = root
    this.store = store
    this.edits = edits
    this.hold = new Hold(root)
    this.strip = /** @type {HTMLElement} */ (root.parentElement)
    this.said = /** @type {HTMLElement} */ (this.strip.querySelector("[data-drag-words]"))
    this.box = this.strip.getBoundingClientRect()
    this.own = root.getBoundingClientRect()
  }

  get busy() { return this.hold.busy }

  cancel() { return this.hold.cancel() }

  /** Where the strip and the root are, measured when a drag begins: asking again would hold up every movement. */
  #measure() {
    this.box = this.strip.getBoundingClientRect()
    this.own = this.root.getBoundingClientRect()
  }

  /** The place of an event in the root, px. @param {MouseEvent} event @returns {[number, number]} */
  place(event) {
    if (!this.busy) this.#measure()
    return [event.clientX - this.own.left, event.clientY - this.own.top]
  }

  /** @param {number} frames */
  seconds(frames) { return `${(frames / (this.store.state.scene?.settings.fps ?? 1)).toFixed(2)} s` }

  /** @param {PointerEvent} event @param {string} text */
  #tell(event, text) {
    const {left, top, width} = this.box, {style} = this.said
    this.said.hidden = !text
    this.said.textContent = text
    style.left = `${Math.min(Math.max(event.clientX - left, 70), width - 70)}px`
    style.top = `${event.clientY - top - 32}px`
  }

  /**
   * @param {PointerEvent} pressed @param {import("./hold.js").How} how
   * @param {(event: PointerEvent) => void} [click] where it was no drag
   */
  begin(pressed, how, click) {
    this.#measure()
    const cancel = () => {
      this.said.hidden = true
      how.cancel()
    }
    this.hold.begin(pressed, {...how, cancel, click, slack: FAR_ENOUGH, eager: true})
  }

  /**
   * @param {PointerEvent} pressed @param {(event: PointerEvent) => Asked} make
   * @param {(event: PointerEvent) => void} [click]
   */
  editing(pressed, make, click) {
    const {edits} = this
    this.begin(pressed, {
      move: event => {
        const {edit, words} = make(event)
        this.#tell(event, words)
        if (edit) edits.look(edit)
      },
      drop: event => {
        this.#tell(event, "")
        const {edit} = make(event)
        if (edit) void edits.commit(edit)
        else edits.lookAway()
      },
      cancel: () => edits.lookAway(),
    }, click)
  }
}
