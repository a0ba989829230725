/** The page of all renders: tells when one is done, also while another page is looked at. */

import {wireDialogs} from "./dialogs.js"
import {notice} from "./notice.js"
import {createToasts} from "./toast.js"
import {tr} from "./words.js"

const say = createToasts(/** @type {HTMLElement} */ (document.getElementById("toasts")))
const button = /** @type {HTMLButtonElement} */ (document.querySelector("[data-tell-me]"))

/** How each render stood when it was looked at last. @type {Map<string, string>} */
let known = standing()

/** @returns {Map<string, string>} */
function standing() {
  const rows = /** @type {HTMLElement[]} */ ([...document.querySelectorAll("#queue [data-state]")])
  return new Map(rows.map(row => [row.id, row.dataset.state ?? ""]))
}

/** @param {string} words @param {boolean} bad */
function tell(words, bad) {
  say(words, bad)
  notice(words)
}

new MutationObserver(() => {
  const now = standing()
  for (const [id, state] of now) {
    const before = known.get(id), name = document.querySelector(`#${id} a`)?.textContent?.trim()
    if (!before || before === state) continue
    if (state === "done") tell(tr`${name} is rendered.`, false)
    else if (["failed", "interrupted"].includes(state)) tell(tr`${name} did not come to its end.`, true)
  }
  known = now
}).observe(/** @type {HTMLElement} */ (document.querySelector("main")), {childList: true, subtree: true, attributes: true, attributeFilter: ["data-state"]})

button.hidden = !("Notification" in window) || Notification.permission !== "default"
button.addEventListener("click", async () => {
  await Notification.requestPermission()
  button.hidden = true
})
wireDialogs()
