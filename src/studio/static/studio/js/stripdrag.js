/** Drags in the strip: they look ahead at an edit, say what it comes to beside the pointer, and commit it when let go. */

/** @import {Edit} from "./types.js" */

const FAR_ENOUGH = 3

/** @typedef {{edit: Edit|null, words: string}} Asked what a drag asks for as it stands, and what there is to say of it */
/** @typedef {{move: (event: PointerEvent) => void, drop: (event: PointerEvent) => void, cancel: () => void}} How */

/** @type {Asked} */
export const nothing = {edit: null, words: ""}

/** @param {string} words @param {string} form @param {Record<string, string>} fields @returns {Asked} */
export const asks = (words, form, fields) => ({edit: {form, fields}, words})

/**
 * @param {HTMLElement|SVGSVGElement} root where drags begin
 * @param {import("./edits.js").Edits} edits
 */
export function createDrags(root, edits) {
  /** @type {How & {x: number, y: number, pointer: number, moved: boolean, click: (event: PointerEvent) => void}|null} */
  let drag = null
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

  /** @param {PointerEvent} pressed @param {How} how @param {(event: PointerEvent) => void} [click] where it was no drag */
  function begin(pressed, how, click = () => undefined) {
    box = strip.getBoundingClientRect()
    own = root.getBoundingClientRect()
    drag = {...how, x: pressed.clientX, y: pressed.clientY, pointer: pressed.pointerId, moved: false, click}
    root.setPointerCapture(pressed.pointerId)
  }

  function cancel() {
    if (!drag) return false
    const done = drag
    drag = null
    words.hidden = true
    done.cancel()
    return true
  }

  // Which of both kinds of elements it is makes no difference here.
  const place = /** @type {HTMLElement} */ (root)
  // Movements are taken as they come in, where the browser tells, not only once a picture.
  place.addEventListener(/** @type {"pointermove"} */ ("onpointerrawupdate" in window ? "pointerrawupdate" : "pointermove"), event => {
    if (!drag || event.pointerId !== drag.pointer) return
    if (event.pointerType !== "touch" && event.buttons === 0) return void cancel() // let go where no one saw it
    drag.moved ||= Math.hypot(event.clientX - drag.x, event.clientY - drag.y) >= FAR_ENOUGH
    if (drag.moved) drag.move(event)
  })
  place.addEventListener("pointerup", event => {
    if (!drag || event.pointerId !== drag.pointer) return
    const done = drag
    drag = null
    if (done.moved) done.drop(event)
    else done.click(event)
  })
  place.addEventListener("pointercancel", () => cancel())

  return {
    begin, cancel,
    get busy() { return drag !== null },
    /** The place of an event in the root, px. @param {MouseEvent} event @returns {[number, number]} */
    place(event) {
      if (!drag) own = root.getBoundingClientRect()
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
