/** Files into the scene: by the button, or dropped anywhere on the editor. */

import {show} from "./dialogs.js"

/** @import {Point} from "./types.js" */

/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string, bad?: boolean) => void,
 *   put: (place: HTMLElement, html: string) => void, placeOf: (event: MouseEvent) => Point|null}} Tools
 */

export class Uploads {
  /** Files that wait for their turn. @type {{file: File, place: Point|null}[]} */
  #line = []
  /** The file that the open question is about. @type {File|null} */
  #asked = null
  #busy = false

  /** @param {HTMLElement} editor @param {Tools} tools */
  constructor(editor, {store, edits, say, put, placeOf}) {
    this.store = store
    this.edits = edits
    this.say = say
    this.put = put
    this.input = /** @type {HTMLInputElement} */ (document.getElementById("upload"))
    this.dialog = /** @type {HTMLDialogElement} */ (document.getElementById("drawing"))
    this.dialog.addEventListener("submit", event => {
      event.preventDefault()
      void this.#answered(new FormData(/** @type {HTMLFormElement} */ (event.target)))
    })
    this.dialog.addEventListener("close", () => {
      this.#asked = null
      void this.#next()
    })
    document.addEventListener("click", event => {
      if (/** @type {Element} */ (event.target).closest("[data-upload]")) this.choose()
    })
    this.input.addEventListener("change", () => {
      if (this.input.files) this.take([...this.input.files])
      this.input.value = ""
    })
    wireDrops(editor, (files, event) => this.take(files, placeOf(event)))
  }

  choose() { this.input.click() }

  /** @param {Iterable<File>} files @param {Point|null} [place] where they were dropped, in scene px */
  take(files, place = null) {
    this.#line.push(...[...files].map(file => ({file, place})))
    void this.#next()
  }

  async #next() {
    if (this.#busy || this.#asked) return
    const next = this.#line.shift()
    if (!next) return
    const {file, place} = next
    this.#busy = true
    const form = new FormData()
    form.set("file", file)
    if (this.store.state.chosen?.kind === "layer") form.set("layer", this.store.state.chosen.id)
    if (place) ["x", "y"].forEach((name, axis) => form.set(name, place[axis].toFixed(1)))
    this.#settle(file, await this.edits.send(form))
    this.#busy = false
    void this.#next()
  }

  /** @param {File} file @param {any} head what the studio made of it, or a question; nothing where it was refused */
  #settle(file, head) {
    if (!head) return
    if (head.question) {
      this.#asked = file
      this.put(this.dialog, head.question)
      show("drawing")
      return
    }
    this.edits.select(head.select)
    this.say(head.notes?.length ? head.notes.join(" ") : `${file.name} was added.`)
  }

  /** @param {FormData} form the answer to the question about a file */
  async #answered(form) {
    if (form.get("use") === "path" && !form.has("pick")) {
      const words = /** @type {HTMLElement} */ (this.dialog.querySelector(".words"))
      words.hidden = false
      words.textContent = "Choose at least one shape, or leave the drawing."
      return
    }
    const file = this.#asked, {state} = this.store
    if (!file) return
    form.set("file", file)
    form.set("frame", String(state.frame))
    if (state.chosen?.kind === "layer") form.set("layer", state.chosen.id)
    this.#asked = null
    this.dialog.close()
    this.#settle(file, await this.edits.send(form))
    void this.#next()
  }
}

/** @param {HTMLElement} editor @param {(files: Iterable<File>, event: DragEvent) => void} take */
function wireDrops(editor, take) {
  // Each part of the page that is come to is entered, and the one before it left after that.
  let depth = 0
  const holdsFiles = (/** @type {DragEvent} */ event) => event.dataTransfer?.types.includes("Files")
  editor.addEventListener("dragenter", event => {
    if (holdsFiles(event) && ++depth === 1) editor.classList.add("dropping")
  })
  editor.addEventListener("dragleave", event => {
    if (holdsFiles(event) && --depth === 0) editor.classList.remove("dropping")
  })
  editor.addEventListener("dragover", event => {
    if (holdsFiles(event)) event.preventDefault()
  })
  editor.addEventListener("drop", event => {
    event.preventDefault()
    depth = 0
    editor.classList.remove("dropping")
    if (event.dataTransfer?.files.length) take(event.dataTransfer.files, event)
  })
}
