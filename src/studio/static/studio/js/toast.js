/** Short words at the foot of the window, beside the stage: a few at a time, which leave by themselves or by Esc. */

import {tr} from "./words.js"

const MOST = 3, WITH_THE_PAGE_MS = 20_000

/** @param {HTMLElement} root */
export function createToasts(root) {
  wireToasts(root)
  /** @param {string} words @param {boolean} [bad] */
  return function say(words, bad = false) {
    const toast = Object.assign(document.createElement("div"), {className: `toast${bad ? " bad" : ""}`})
    toast.append(Object.assign(document.createElement("span"), {textContent: words}))
    if (bad) {
      const close = Object.assign(document.createElement("button"), {textContent: tr`Close`})
      close.addEventListener("click", () => toast.remove())
      toast.append(close)
    }
    leaveAfter(toast, (bad ? 8000 : 3000) + 60 * words.length)
    for (const old of root.querySelectorAll(".toast:not(.bad)")) old.remove()
    root.append(toast)
    while (root.childElementCount > MOST) root.firstElementChild?.remove()
  }
}

/** Those that came with the page leave as well, later: they may have a way back in them. @param {HTMLElement} root */
export function wireToasts(root) {
  document.addEventListener("keydown", event => {
    if (event.key === "Escape") root.querySelector(".toast:last-child")?.remove()
  })
  for (const toast of root.children) leaveAfter(/** @type {HTMLElement} */ (toast), WITH_THE_PAGE_MS)
}

/** Not while its button is in use. @param {HTMLElement} toast @param {number} ms */
function leaveAfter(toast, ms) {
  const leave = () => {
    if (toast.matches(":hover, :focus-within")) setTimeout(leave, 1000)
    else toast.remove()
  }
  setTimeout(leave, ms)
}
