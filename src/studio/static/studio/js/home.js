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

/** How scenes may be listed: by which of what they tell, and whether the largest comes first. @type {Record<string, [string, boolean]>} */
const ORDERS = {made: ["made", false], edited: ["edited", true], name: ["name", false]}

/** Scenes are found by parts of their names, and listed as wanted; which order that is, is kept. */
function wireFinding() {
  const search = /** @type {HTMLInputElement|null} */ (document.querySelector("[data-search]"))
  const sort = /** @type {HTMLSelectElement|null} */ (document.querySelector("[data-sort]"))
  const nothing = /** @type {HTMLElement|null} */ (document.querySelector("[data-nothing]"))
  if (!search || !sort || !nothing) return
  const lists = /** @type {HTMLElement[]} */ ([...document.querySelectorAll("[data-scenes]")])
  const cards = (/** @type {HTMLElement} */ list) => /** @type {HTMLElement[]} */ ([...list.children])
  function find() {
    const wanted = search?.value.toLowerCase().split(/\s+/) ?? []
    for (const list of lists) {
      for (const card of cards(list)) card.hidden = !wanted.every(word => card.dataset.name?.includes(word))
      list.closest("section")?.toggleAttribute("hidden", cards(list).every(card => card.hidden))
    }
    if (nothing) nothing.hidden = lists.some(list => cards(list).some(card => !card.hidden)) || !search?.value
  }
  function order() {
    const [by, down] = ORDERS[sort?.value ?? ""] ?? ORDERS.made
    for (const list of lists) {
      const compared = (/** @type {HTMLElement} */ a, /** @type {HTMLElement} */ b) => (a.dataset[by] ?? "").localeCompare(b.dataset[by] ?? "", undefined, {numeric: true})
      list.append(...cards(list).sort((a, b) => down ? compared(b, a) : compared(a, b)))
    }
  }
  sort.value = localStorage.getItem("order-of-scenes") ?? "made"
  if (sort.selectedIndex < 0) sort.value = "made"
  order()
  search.addEventListener("input", find)
  search.addEventListener("keydown", event => {
    const first = lists.flatMap(cards).find(card => !card.hidden)
    if (event.key === "Enter" && search.value) first?.querySelector("a")?.click()
  })
  sort.addEventListener("change", () => {
    localStorage.setItem("order-of-scenes", sort.value)
    order()
  })
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
  // A colour that is picked is meant to be seen.
  const clear = input.name === "background" && input.form?.elements.namedItem("transparent")
  if (clear instanceof HTMLInputElement) clear.checked = false
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
wireFinding()
wireToasts(/** @type {HTMLElement} */ (document.getElementById("toasts")))
