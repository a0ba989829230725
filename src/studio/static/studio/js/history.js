/** The panel of a scene's history: what is pointed at is shown on the stage, and any of it can be gone back to. */

import {show as showDialog} from "./dialogs.js"
import {tr} from "./words.js"

/** @import {State} from "./types.js" */

/** The pointer rests so long on an edit before it is shown: in passing, nothing is asked for. */
const RESTS_MS = 90

/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, server: import("./server.js").Server, compare: import("./compare.js").Compare,
 *   say: (words: string, bad?: boolean) => void, put: (place: HTMLElement, html: string) => void}} Tools
 */

export class History {
  #wait = 0
  /** The revision that is shown on the stage, if one is. @type {number|null} */
  #looks = null
  /** Where the playhead was before a shorter scene was looked at. */
  #frame = 0
  /** Which revision the sheet of names is about. */
  #naming = 0

  /** @param {HTMLElement} panel @param {Tools} tools */
  constructor(panel, {store, edits, server, compare, say, put}) {
    this.compare = compare
    this.panel = panel
    this.store = store
    this.edits = edits
    this.server = server
    this.say = say
    this.put = put
    this.list = /** @type {HTMLElement} */ (panel.querySelector("[data-past]"))
    this.named = /** @type {HTMLInputElement} */ (panel.querySelector("[data-named]"))
    this.sheet = /** @type {HTMLDialogElement} */ (document.getElementById("version"))
    this.named.addEventListener("change", () => void this.#load())
    for (const kind of ["pointerover", "focusin"]) this.list.addEventListener(kind, event => this.#over(event))
    this.panel.addEventListener("pointerleave", () => this.#lookAway())
    this.panel.addEventListener("focusout", event => { if (!this.panel.contains(/** @type {Node|null} */ (event.relatedTarget))) this.#lookAway() })
    this.panel.addEventListener("keydown", event => this.#key(event))
    this.panel.addEventListener("click", event => this.#click(event))
    this.sheet.addEventListener("submit", event => {
      event.preventDefault()
      void this.#name(String(new FormData(/** @type {HTMLFormElement} */ (event.target)).get("title") ?? ""))
    })
  }

  toggle() {
    if (!this.panel.hidden) return this.close()
    this.panel.hidden = false
    this.#tell()
    this.panel.focus()
    void this.#load()
  }

  close() {
    this.#lookAway()
    this.compare.end()
    this.panel.hidden = true
    this.#tell()
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    if (event.key !== "Escape") return
    event.stopPropagation()
    this.close()
  }

  #tell() {
    for (const button of document.querySelectorAll("[aria-controls=history]")) button.setAttribute("aria-expanded", String(!this.panel.hidden))
  }

  /** After each edit the list is as it is then. @param {{state: State, previous: State}} change */
  update({state, previous}) {
    if (state.revision !== previous.revision && previous.revision >= 0 && !this.panel.hidden) void this.#load()
  }

  async #load() {
    const answer = await this.server.get(`history?named=${this.named.checked ? "on" : ""}`).catch(error => this.say(error.message, true))
    if (!answer) return
    const inside = this.list.contains(document.activeElement)
    this.put(this.list, await answer.text())
    // What had the focus is gone: the keyboard stays in the panel.
    if (inside) this.panel.focus()
  }

  /** @param {HTMLElement} button */
  async #earlier(button) {
    const {earlier} = button.dataset, row = button.closest("li")
    const answer = await this.server.get(`history?before=${earlier}&named=${this.named.checked ? "on" : ""}`)
    row?.insertAdjacentHTML("beforebegin", await answer.text())
    row?.remove()
  }

  /** @param {Event} event */
  #over(event) {
    const row = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("[data-number]"))
    const number = row ? Number(row.dataset.number) : null
    clearTimeout(this.#wait)
    if (number === this.#looks) return
    if (number === null || number === this.store.state.revision) return this.#lookAway()
    this.#wait = setTimeout(() => void this.#lookAt(number), RESTS_MS)
  }

  /** @param {number} number */
  async #lookAt(number) {
    if (this.#looks === null) this.#frame = this.store.state.frame
    this.#looks = number
    for (const row of this.list.children) row.classList.toggle("seen", row.getAttribute("data-number") === String(number))
    await this.edits.lookAt(number).catch(error => this.say(error.message, true))
    // Looked away meanwhile: what came is of no use any more.
    if (this.#looks === null) this.edits.lookAway()
  }

  #lookAway() {
    clearTimeout(this.#wait)
    if (this.#looks === null) return
    this.#looks = null
    for (const row of this.list.children) row.classList.remove("seen")
    this.edits.lookAway()
    this.store.set({frame: this.#frame})
  }

  /** @param {Event} event */
  #click(event) {
    const button = /** @type {HTMLElement|null} */ (/** @type {Element} */ (event.target).closest("button"))
    const {back, nameVersion, newScene, earlier, compare} = button?.dataset ?? {}
    if (button?.matches("[data-close-history]")) this.close()
    else if (button?.dataset.look) this.#open(button)
    else if (earlier && button) void this.#earlier(button)
    else if (back) void this.#back(Number(back))
    else if (compare && button) void this.#compare(Number(compare), button.dataset.name ?? "")
    else if (newScene) void this.#asNew(newScene)
    else if (nameVersion && button) this.#ask(Number(nameVersion), button.dataset.name ?? "")
  }

  /** What can be done with one edit is shown below it, of one at a time. @param {HTMLElement} button */
  #open(button) {
    const row = button.closest("li"), was = row?.classList.contains("open")
    for (const each of this.list.children) {
      each.classList.toggle("open", each === row && !was)
      each.querySelector("[data-look]")?.setAttribute("aria-expanded", String(each === row && !was))
    }
  }

  /** @param {number} number */
  async #back(number) {
    this.#lookAway()
    if (await this.edits.goBack(number)) this.say(tr`The scene is as it was then; Undo takes that back.`)
  }

  /** @param {number} number @param {string} name */
  async #compare(number, name) {
    this.#lookAway()
    const scene = await this.edits.sceneAt(number).catch(error => this.say(error.message, true))
    if (scene) this.compare.begin(scene, name)
  }

  /** @param {string} number */
  async #asNew(number) {
    const answer = await this.server.post(`history/${number}/new`, {}).catch(error => this.say(error.message, true))
    if (!answer) return
    const {address, name} = await answer.json()
    this.say(tr`${name} was made.`)
    location.assign(address)
  }

  /** @param {number} number @param {string} name */
  #ask(number, name) {
    this.#naming = number
    showDialog(this.sheet.id)
    const field = /** @type {HTMLInputElement} */ (this.sheet.querySelector("[name=title]"))
    field.value = name
    field.select()
  }

  /** @param {string} title */
  async #name(title) {
    const answer = await this.server.post(`history/${this.#naming}/name`, {title}).catch(error => this.say(error.message, true))
    if (!answer) return
    this.sheet.close()
    await this.#load()
  }
}
