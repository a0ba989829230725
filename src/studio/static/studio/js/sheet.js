/** The sheet of all keys, and the titles of buttons: made from the list of commands. */

import {AREAS, COMMANDS, GESTURES, commandOf, shownKey} from "./commands.js"

/** @import {Area} from "./commands.js" */

/** @param {string} tag @param {string} [name] @param {(Node|string)[]} parts */
function made(tag, name = "", ...parts) {
  const element = document.createElement(tag)
  element.className = name
  element.append(...parts)
  return element
}

/** @param {{keys?: string[], words: string}} row */
function rowOf({keys = [], words}) {
  const signs = keys.flatMap((key, i) => [...(i ? [" or "] : []), made("span", "kbd", shownKey(key))])
  return [made("dt", "", ...signs), made("dd", "", words)]
}

/** @param {HTMLElement} place */
export function fillSheet(place) {
  for (const [area, words] of /** @type {[Area, string][]} */ (Object.entries(AREAS))) {
    const rows = [...COMMANDS.filter(command => command.keys), ...GESTURES].filter(row => row.area === area)
    if (!rows.length) continue
    place.append(made("section", "sheet-area", made("h3", "heading", words), made("dl", "sheet-keys", ...rows.flatMap(rowOf))))
  }
}

/** Buttons that do a command say its words and its key; menus show the key. @param {ParentNode} root */
export function nameButtons(root) {
  for (const place of /** @type {NodeListOf<HTMLElement>} */ (root.querySelectorAll("[data-key-for]"))) {
    place.textContent = shownKey(commandOf(place.dataset.keyFor ?? "")?.keys?.[0] ?? "")
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
