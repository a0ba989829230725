/** A rail on which what is dragged comes to rest for a moment offers a ride: it lights up, and says what a drop there does. */

import {pathsSeen} from "./store.js"

/** @import {At, Edit, Path} from "./types.js" */

/** So long over one rail, as good as still, is meant. */
const DWELL_MS = 600, STILL_PX = 5

export class Offer {
  /** What a drop does, once it is offered. @type {Edit|null} */
  edit = null
  /** Over which rail the pointer is, and where it came to rest. */
  #over = ""
  #rest = {x: 0, y: 0}
  /** @type {number|undefined} */
  #timer
  /** @type {HTMLElement|null} */
  #label = null

  /**
   * @param {(path: Path) => {words: string, edit: Edit}} makes what a drop does
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, view: import("./pane.js").Pane, snap: import("./snap.js").Snap}} hands
   */
  constructor(makes, hands) {
    this.makes = makes
    this.hands = hands
  }

  /** The pointer has moved. @param {At} at */
  over({event}) {
    const {clientX: x, clientY: y} = event, rail = this.hands.view.railAt(x, y)
    this.#label?.style.setProperty("transform", `translate(${x + 12}px, ${y + 10}px)`)
    if (rail === this.#over && (this.edit || Math.hypot(x - this.#rest.x, y - this.#rest.y) < STILL_PX)) return
    this.end()
    this.#over = rail
    this.#rest = {x, y}
    if (rail) this.#timer = setTimeout(() => this.#offer(), DWELL_MS)
  }

  /** Nothing is offered any more. */
  end() {
    clearTimeout(this.#timer)
    if (this.edit) this.#mark(false)
    this.#label?.remove()
    this.#label = null
    this.edit = null
    this.#over = ""
  }

  #offer() {
    const {store, edits, snap} = this.hands, path = pathsSeen(store.state).find(each => each.id === this.#over)
    if (!path) return
    const {words, edit} = this.makes(path)
    this.edit = edit
    edits.look(edit)
    snap.clear()
    this.#mark(true)
    this.#label = document.body.appendChild(Object.assign(document.createElement("div"), {className: "carried", textContent: words}))
    this.#label.style.transform = `translate(${this.#rest.x + 12}px, ${this.#rest.y + 10}px)`
  }

  /** @param {boolean} on */
  #mark(on) {
    this.hands.view.bench.querySelector(`[data-rail="${CSS.escape(this.#over)}"]`)?.classList.toggle("target", on)
  }
}
