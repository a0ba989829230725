/** A question over the stage about an edit, which shows meanwhile what it would do. */

/** @import {Edit, State} from "./types.js" */

export class Asking {
  /** What is asked about, and what to do then. @type {{edit: Edit, then: () => void}|null} */
  #asked = null
  /** What had the focus before. @type {Element|null} */
  #before = null

  /** @param {HTMLElement} panel @param {import("./edits.js").Edits} edits */
  constructor(panel, edits) {
    this.panel = panel
    this.edits = edits
    this.words = /** @type {HTMLElement} */ (panel.querySelector("[data-ask-words]"))
    this.yes = /** @type {HTMLButtonElement} */ (panel.querySelector("[data-ask=yes]"))
    panel.addEventListener("click", event => {
      const answer = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-ask]"))?.dataset.ask
      if (answer) this.#end(answer === "yes")
    })
    panel.addEventListener("keydown", event => {
      if (event.key !== "Escape") return
      event.stopPropagation()
      this.#end(false)
    })
  }

  /** @param {string} words @param {string} yes what it is called @param {Edit} edit @param {() => void} then */
  ask(words, yes, edit, then) {
    this.#before = document.activeElement
    this.#asked = {edit, then}
    this.words.textContent = words
    this.yes.textContent = yes
    this.panel.hidden = false
    this.edits.look(edit)
    this.yes.focus()
  }

  /** Whether a question was open, which is none any more. */
  cancel() {
    if (!this.#asked) return false
    this.#end(false)
    return true
  }

  /** Where something else is done or chosen meanwhile, nothing is asked any more. @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (this.#asked && (state.revision !== previous.revision || state.chosen !== previous.chosen)) this.#close()
  }

  /** @param {boolean} agreed */
  #end(agreed) {
    const asked = this.#asked
    this.#close()
    this.edits.lookAway()
    if (this.#before instanceof HTMLElement && this.#before.isConnected) this.#before.focus()
    if (agreed) asked?.then()
  }

  #close() {
    this.#asked = null
    this.panel.hidden = true
  }
}
