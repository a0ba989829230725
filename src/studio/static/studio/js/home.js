/** The page of projects: thumbnails that move under the pointer, menus and dialogs. */

import {wireDialogs} from "./dialogs.js"
import {wireMenus} from "./menus.js"
import {wireToasts} from "./toast.js"

const calm = matchMedia("(prefers-reduced-motion: reduce)")

/** @param {HTMLElement} link a scene's card; `data-moves` is the address of its moving picture */
function movesOnHover(link) {
  const image = /** @type {HTMLImageElement} */ (link.querySelector("img"))
  const still = image.src
  const moving = new Image()
  const start = () => {
    if (calm.matches) return
    moving.onload = () => { if (link.matches(":hover, :focus")) image.src = moving.src }
    moving.src = link.dataset.moves ?? ""
    if (moving.complete) image.src = moving.src
  }
  const stop = () => { image.src = still }
  link.addEventListener("pointerenter", start)
  link.addEventListener("focus", start)
  link.addEventListener("pointerleave", stop)
  link.addEventListener("blur", stop)
}

/** A button that asks something first: `data-ask` names the dialog, `data-url` is where its form goes. */
function wireAsking() {
  document.addEventListener("click", event => {
    const button = /** @type {Element} */ (event.target).closest("[data-ask]")
    if (!(button instanceof HTMLElement)) return
    const dialog = /** @type {HTMLDialogElement} */ (document.getElementById(button.dataset.ask ?? ""))
    const form = /** @type {HTMLFormElement} */ (dialog.querySelector("form"))
    form.action = button.dataset.url ?? ""
    const words = form.querySelector("[data-words-here]"), name = form.elements.namedItem("name")
    if (words) words.textContent = button.dataset.words ?? ""
    dialog.showModal()
    if (!(name instanceof HTMLInputElement)) return
    name.value = button.dataset.name ?? ""
    name.select()
  })
}

document.querySelectorAll("[data-moves]").forEach(link => movesOnHover(/** @type {HTMLElement} */ (link)))
document.addEventListener("change", event => {
  const input = /** @type {HTMLInputElement} */ (event.target)
  if (input.matches("[data-submits]") && input.files?.length) input.form?.submit()
})
// A scene file that is dropped on a project is opened in it.
for (const section of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-takes-files]"))) {
  section.addEventListener("dragover", event => { if (event.dataTransfer?.types.includes("Files")) event.preventDefault() })
  section.addEventListener("drop", event => {
    const input = /** @type {HTMLInputElement|null} */ (section.querySelector("input[data-submits]"))
    if (!input || !event.dataTransfer?.files.length) return
    event.preventDefault()
    input.files = event.dataTransfer.files
    input.form?.submit()
  })
}
wireMenus()
wireDialogs()
wireAsking()
wireToasts(/** @type {HTMLElement} */ (document.getElementById("toasts")))
