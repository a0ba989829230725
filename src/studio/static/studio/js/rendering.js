/** How far renders are, on the button that opens their list; one that ends while the list is closed says so. */

import {notice} from "./notice.js"
import {Away, Refused} from "./server.js"
import {tr} from "./words.js"

/**
 * @param {{button: HTMLElement, sheet: HTMLDialogElement, say: (words: string, bad?: boolean) => void,
 *   server: import("./server.js").Server, put: (place: HTMLElement, html: string) => void}} parts
 */
export function wireRendering({button, sheet, say, server, put}) {
  void lookOnce(sheet, server, put)
  const words = button.textContent ?? ""
  /** How each render stood when it was looked at last. @type {Map<string, string>} */
  let known = new Map()
  new MutationObserver(() => {
    const rows = /** @type {HTMLElement[]} */ ([...sheet.querySelectorAll("[data-state]")])
    const now = new Map(rows.map(row => [row.id, row.dataset.state ?? ""]))
    for (const row of rows) {
      const before = known.get(row.id), state = now.get(row.id) ?? ""
      if (!before || before === state) continue
      const name = row.querySelector("b")?.textContent?.replace(/\s+/g, " ").trim() ?? tr`The render`
      if (state === "done") notice(tr`${name} is ready.`)
      if (sheet.open) continue
      if (state === "done") say(tr`${name} is ready: press Render to have it.`)
      else if (["failed", "interrupted"].includes(state)) say(tr`${name} did not come to its end: press Render to see why.`, true)
    }
    known = now
    const meter = sheet.querySelector("progress"), waits = [...now.values()].some(state => state === "waiting")
    const share = meter && meter.max ? Math.floor((100 * meter.value) / meter.max) : null
    button.textContent = share !== null ? `${words} · ${share} %` : waits ? `${words} · waits` : words
  }).observe(sheet, {childList: true, subtree: true, attributes: true, attributeFilter: ["value", "data-state"]})
}

/**
 * What was under way when the page was left is seen again. A list that a person has opened meanwhile stays as it is.
 * @param {HTMLDialogElement} sheet @param {import("./server.js").Server} server @param {(place: HTMLElement, html: string) => void} put
 */
async function lookOnce(sheet, server, put) {
  try {
    const html = await (await server.get("renders?list")).text()
    if (!sheet.open) put(sheet, html)
  } catch (error) {
    if (!(error instanceof Refused || error instanceof Away)) throw error // it is asked for when the list is opened
  }
}
