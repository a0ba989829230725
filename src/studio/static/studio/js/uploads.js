/** Files into the scene: by the button, or dropped anywhere on the editor. */

import {show} from "./dialogs.js"
import {tr} from "./words.js"

/** @import {Point} from "./types.js" */

/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string, bad?: boolean) => void,
 *   put: (place: HTMLElement, html: string) => void, placeOf: (event: MouseEvent) => Point|null}} Tools
 */

/** @typedef {{file: File, others: File[], place: Point|null}} Waiting a file, or the first of numbered pictures with the others */

const NUMBERED = /^(.*?)(\d+)(\D*\.(?:png|jpe?g|webp))$/i
/** So many numbered pictures may be meant as one moving one. */
const FEWEST_STILLS = 3
/** A file that is larger takes a while to send, which is said. */
const TAKES_A_WHILE = 8e6
const MB = 1e6

/**
 * Files by themselves, and numbered pictures of one name together, in the order of their numbers.
 * @template {{name: string}} T @param {T[]} files @returns {T[][]}
 */
export function inSeries(files) {
  /** @type {Map<string, T[]>} */
  const series = new Map()
  for (const file of files) {
    const parts = NUMBERED.exec(file.name), name = parts ? `${parts[1]}#${parts[3].toLowerCase()}` : file.name
    series.set(name, [...(series.get(name) ?? []), file])
  }
  const number = (/** @type {T} */ {name}) => Number(NUMBERED.exec(name)?.[2])
  return [...series.values()].flatMap(some => some.length < FEWEST_STILLS ? some.map(file => [file]) : [some.sort((a, b) => number(a) - number(b))])
}

export class Uploads {
  /** Files that wait for their turn. @type {Waiting[]} */
  #line = []
  /** What the open question is about. @type {Waiting|null} */
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
    const most = Number(this.input.dataset.most), wanted = [...files]
    for (const {name, size} of wanted.filter(file => file.size > most))
      this.say(tr`${name} is ${Math.round(size / MB)} MB; up to ${Math.round(most / MB)} MB can be brought in. It was not sent.`, true)
    const series = inSeries(wanted.filter(file => file.size <= most))
    this.#line.push(...series.map(([file, ...others]) => ({file, others, place})))
    void this.#next()
  }

  async #next() {
    if (this.#busy || this.#asked) return
    const next = this.#line.shift()
    if (!next) return
    if (next.others.length) return this.#ask(next)
    const {file, place} = next
    this.#busy = true
    if (file.size > TAKES_A_WHILE) this.say(tr`Sending ${file.name}, ${Math.round(file.size / MB)} MB…`)
    const form = new FormData()
    form.set("file", file)
    if (this.store.state.chosen?.kind === "layer") form.set("layer", this.store.state.chosen.id)
    if (place) ["x", "y"].forEach((name, axis) => form.set(name, place[axis].toFixed(1)))
    this.#settle(next, await this.edits.send(form))
    this.#busy = false
    void this.#next()
  }

  /** Whether numbered pictures are one that moves, or many. @param {Waiting} waiting */
  #ask(waiting) {
    this.#asked = waiting
    const {file, others} = waiting, count = others.length + 1
    this.put(this.dialog, /** @type {HTMLTemplateElement} */ (document.getElementById("stills")).innerHTML)
    const words = /** @type {HTMLElement} */ (this.dialog.querySelector("[data-stills]"))
    words.textContent = tr`${count} numbered pictures, ${file.name} to ${others[others.length - 1].name}. What should they become?`
    show("drawing")
  }

  /** @param {Waiting} waiting @param {any} head what the studio made of it, or a question; nothing where it was refused */
  #settle(waiting, head) {
    if (!head) return
    if (head.question) {
      this.#asked = waiting
      this.put(this.dialog, head.question)
      show("drawing")
      return
    }
    this.edits.select(head.select)
    this.say(head.notes?.length ? head.notes.join(" ") : tr`${waiting.file.name} was added.`)
  }

  /** @param {FormData} form the answer to the question about a file */
  async #answered(form) {
    if (form.get("use") === "path" && !form.has("pick")) {
      const words = /** @type {HTMLElement} */ (this.dialog.querySelector(".words"))
      words.hidden = false
      words.textContent = tr`Choose at least one shape, or leave the drawing.`
      return
    }
    const waiting = this.#asked, {state} = this.store
    if (!waiting) return
    const {file, others, place} = waiting
    if (form.get("use") === "layers") {
      this.#line.unshift(...[file, ...others].map(each => ({file: each, others: [], place})))
      this.#asked = null
      this.dialog.close()
      return
    }
    for (const each of [file, ...others]) form.append("file", each)
    if (place) ["x", "y"].forEach((name, axis) => form.set(name, place[axis].toFixed(1)))
    form.set("frame", String(state.frame))
    if (state.chosen?.kind === "layer") form.set("layer", state.chosen.id)
    this.#asked = null
    this.dialog.close()
    this.#settle(waiting, await this.edits.send(form))
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
