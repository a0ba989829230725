/** The sheet of all keys, and the titles of buttons: made from the list of commands. */

import {AREAS, COMMANDS, GESTURES, commandOf, shownKey} from "./commands.js"
import {tr} from "./words.js"

/** @import {Area} from "./commands.js" */

/** @param {string} tag @param {string} [name] @param {(Node|string)[]} parts */
function made(tag, name = "", ...parts) {
  const element = document.createElement(tag)
  element.className = name
  element.append(...parts)
  return element
}

/** @param {{keys?: string[], words: string, also?: string}} row */
function rowOf({keys = [], words, also = ""}) {
  const signs = keys.flatMap((key, i) => [...(i ? [` ${tr`or`} `] : []), made("span", "kbd", shownKey(key))])
  const row = made("div", "contents", made("dt", "", ...signs), made("dd", "", words))
  row.dataset.searchItem = also
  return row
}

/** @param {HTMLElement} place */
export function fillSheet(place) {
  for (const [area, words] of /** @type {[Area, string][]} */ (Object.entries(AREAS))) {
    const rows = [...COMMANDS.filter(command => command.keys), ...GESTURES].filter(row => row.area === area)
    if (!rows.length) continue
    place.append(made("section", "sheet-area", made("h3", "heading", words), made("dl", "sheet-keys", ...rows.map(rowOf))))
  }
}

/** Steps name commands in brackets: their keys are put there, from the one list. @param {ParentNode} place */
export function nameKeys(place) {
  for (const step of place.querySelectorAll(".topic li"))
    step.textContent = (step.textContent ?? "").replace(/\[([a-z-]+)\]/g, (_, name) => shownKey(commandOf(name)?.keys?.[0] ?? ""))
}

/** The manual's page of what is found in all of it. @param {string} cover the address of its first page @param {string} words */
export const searched = (cover, words) => `${new URL("search.html", new URL(cover, location.href))}?q=${encodeURIComponent(words.trim())}`

/** Typing in the sheet's field leaves what has all of the words; heads of what is empty go as well. @param {HTMLElement} sheet */
export function wireSearch(sheet) {
  const field = /** @type {HTMLInputElement} */ (sheet.querySelector("[data-search]"))
  const found = /** @type {HTMLElement} */ (sheet.querySelector("[data-search-found]"))
  const items = /** @type {HTMLElement[]} */ ([...sheet.querySelectorAll("[data-search-item]")])
  const manual = /** @type {HTMLAnchorElement} */ (sheet.querySelector("[data-manual]"))
  const cover = manual.href
  const show = () => {
    const words = field.value.toLowerCase().split(/\s+/).filter(Boolean)
    for (const item of items) {
      const text = `${item.textContent} ${item.dataset.searchItem}`.toLowerCase()
      item.hidden = !words.every(word => text.includes(word))
      if (item instanceof HTMLDetailsElement) item.open = words.length > 0 && !item.hidden
    }
    for (const area of /** @type {NodeListOf<HTMLElement>} */ (sheet.querySelectorAll(".sheet-area")))
      area.hidden = !area.querySelector("[data-search-item]:not([hidden])")
    for (const head of /** @type {NodeListOf<HTMLElement>} */ (sheet.querySelectorAll("[data-search-head]")))
      head.hidden = !head.nextElementSibling?.querySelector("[data-search-item]:not([hidden])")
    const count = items.filter(item => !item.hidden).length
    manual.href = words.length ? searched(cover, field.value) : cover
    manual.lastElementChild?.replaceChildren(words.length ? tr`Look in the manual` : tr`Manual`)
    found.textContent = !words.length ? "" : count ? `${count} found` : tr`Nothing found; try another word.`
  }
  field.addEventListener("input", show)
  sheet.addEventListener("close", () => {
    field.value = ""
    show()
  })
}

/** Buttons that do a command say its words and its key; menus show the key. @param {ParentNode} root */
export function nameButtons(root) {
  for (const place of /** @type {NodeListOf<HTMLElement>} */ (root.querySelectorAll("[data-key-for]"))) {
    const key = shownKey(commandOf(place.dataset.keyFor ?? "")?.keys?.[0] ?? "")
    // The sign in a tool's corner is drawn, not written: it is no part of the tool's name.
    if (place.tagName === "SMALL") place.dataset.key = key
    else place.textContent = key
  }
  for (const found of root.querySelectorAll("[data-do], [data-tool]")) {
    const button = /** @type {HTMLElement} */ (found), {do: act, tool} = button.dataset
    const command = commandOf(act ?? `tool-${tool}`)
    const named = button.textContent?.trim() && !button.querySelector("small")
    if (!command || named || button.title) continue
    const [key] = command.keys ?? []
    button.title = key ? `${command.words} (${shownKey(key)})` : command.words
    if (!button.hasAttribute("aria-label")) button.setAttribute("aria-label", command.words)
  }
}
