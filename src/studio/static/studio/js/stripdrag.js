/** Drags in the strip: they look ahead at an edit, say what it comes to beside the pointer, and commit it when let go. */

import {Hold} from "./hold.js"

/** @import {Edit} from "./types.js" */

const FAR_ENOUGH = 3

/** @typedef {{edit: Edit|null, words: string}} Asked what a drag asks for as it stands, and what there is to say of it */
/** @type {Asked} */
export const nothing = {edit: null, words: ""}

/** @param {string} words @param {string} form @param {Record<string, string>} fields @returns {Asked} */
export const asks = (words, form, fields) => ({edit: {form, fields}, words})

/**
 * @param {HTMLElement|SVGSVGElement} root where drags begin
 * @param {import("./edits.js").Edits} edits
 */
export function createDrags(root, edits) {
  const hold = new Hold(root)
  const strip = /** @type {HTMLElement} */ (root.parentElement)
  /** Where the strip and the root are, measured when a drag begins: asking again would hold up every movement. */
  let box = strip.getBoundingClientRect(), own = root.getBoundingClientRect()
  const words = /** @type {HTMLElement} */ (strip.querySelector("[data-drag-words]"))

  /** @param {PointerEvent} event @param {string} text */
  function tell(event, text) {
    words.hidden = !text
    words.textContent = text
    words.style.left = `${Math.min(Math.max(event.clientX - box.left, 70), box.width - 70)}px`
    words.style.top = `${event.clientY - box.top - 32}px`
  }

  /** @param {PointerEvent} pressed @param {import("./hold.js").How} how @param {(event: PointerEvent) => void} [click] where it was no drag */
  function begin(pressed, how, click) {
    box = strip.getBoundingClientRect()
    own = root.getBoundingClientRect()
    hold.begin(pressed, {...how, click, slack: FAR_ENOUGH, eager: true, cancel() {
      words.hidden = true
      how.cancel()
    }})
  }

  return {
    begin,
    cancel: () => hold.cancel(),
    get busy() { return hold.busy },
    /** The place of an event in the root, px. @param {MouseEvent} event @returns {[number, number]} */
    place(event) {
      if (!hold.busy) own = root.getBoundingClientRect()
      return [event.clientX - own.left, event.clientY - own.top]
    },
    /** @param {PointerEvent} pressed @param {(event: PointerEvent) => Asked} make @param {(event: PointerEvent) => void} [click] */
    editing(pressed, make, click) {
      begin(pressed, {
        move(event) {
          const {edit, words: text} = make(event)
          tell(event, text)
          if (edit) edits.look(edit)
        },
        drop(event) {
          tell(event, "")
          const {edit} = make(event)
          if (edit) void edits.commit(edit)
          else edits.lookAway()
        },
        cancel: () => edits.lookAway(),
      }, click)
    },
  }
}
