/** Files into the scene: by the button, or dropped anywhere on the editor. */

import {show} from "./dialogs.js"

/**
 * @param {HTMLElement} editor
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string, bad?: boolean) => void,
 *   put: (place: HTMLElement, html: string) => void}} tools
 */
export function wireUploads(editor, {store, edits, say, put}) {
  const input = /** @type {HTMLInputElement} */ (document.getElementById("upload"))
  const dialog = /** @type {HTMLDialogElement} */ (document.getElementById("drawing"))
  /** @type {File[]} */
  const line = []
  /** @type {File|null} */
  let asked = null
  let busy = false

  /** @param {FileList|File[]} files */
  function take(files) {
    line.push(...files)
    void next()
  }

  async function next() {
    if (busy || asked) return
    const file = line.shift()
    if (!file) return
    busy = true
    const form = new FormData()
    form.set("file", file)
    await settle(file, await edits.send(form))
    busy = false
    void next()
  }

  /** @param {File} file @param {any} head */
  async function settle(file, head) {
    if (!head) return
    if (head.question) {
      asked = file
      put(dialog, head.question)
      show("drawing")
      return
    }
    edits.select(head.select)
    say(head.notes?.length ? head.notes.join(" ") : `${file.name} was added.`)
  }

  dialog.addEventListener("submit", async event => {
    event.preventDefault()
    const form = new FormData(/** @type {HTMLFormElement} */ (event.target))
    const words = /** @type {HTMLElement} */ (dialog.querySelector(".words"))
    if (form.get("use") === "path" && !form.has("pick")) {
      words.hidden = false
      words.textContent = "Choose at least one shape, or leave the drawing."
      return
    }
    const file = asked
    if (!file) return
    form.set("file", file)
    form.set("frame", String(store.state.frame))
    if (store.state.chosen?.kind === "layer") form.set("layer", store.state.chosen.id)
    asked = null
    dialog.close()
    await settle(file, await edits.send(form))
    void next()
  })
  dialog.addEventListener("close", () => {
    asked = null
    void next()
  })

  document.addEventListener("click", event => {
    if (/** @type {Element} */ (event.target).closest("[data-upload]")) input.click()
  })
  input.addEventListener("change", () => {
    if (input.files) take([...input.files])
    input.value = ""
  })

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
    if (event.dataTransfer?.files.length) take(event.dataTransfer.files)
  })

  return {choose: () => input.click()}
}
