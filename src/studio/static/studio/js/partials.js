/** The one module that knows htmx: fetches the server-rendered parts and puts them in place. */

/** @import {View} from "./types.js" */

/** @type {any} */
const {htmx, Idiomorph} = /** @type {any} */ (window)

/**
 * @param {{store: import("./store.js").Store, base: string, shelf: HTMLElement, card: HTMLElement}} places
 * @param {(part: "shelf"|"card") => void} swapped
 * @returns {View & {refresh: () => void, put: (place: HTMLElement, html: string) => void}}
 */
export function createPartials({store, base, shelf, card}, swapped) {
  let shelfDue = false, cardDue = false

  /** @param {string} address @param {HTMLElement} target */
  async function load(address, target) {
    const active = document.activeElement
    // What is being typed stays; what was only clicked shows the kept value again.
    Idiomorph.defaults.ignoreActiveValue = active instanceof HTMLElement && "dirty" in active.dataset
    const same = address === target.dataset.address
    target.dataset.address = address
    const inside = target.contains(active)
    await htmx.ajax("GET", address, {target, swap: same ? "morph:innerHTML" : "innerHTML"})
    // If what had the focus is gone, Tab goes on from where it was.
    if (inside && !target.contains(document.activeElement)) target.focus({preventScroll: true})
  }

  async function flush() {
    const both = [shelfDue, cardDue]
    shelfDue = cardDue = false
    if (both[0]) await load(`${base}shelf`, shelf).then(() => swapped("shelf"))
    if (both[1]) {
      const {chosen} = store.state
      await load(`${base}card${chosen ? `?${chosen.kind}=${encodeURIComponent(chosen.id)}` : ""}`, card).then(() => swapped("card"))
    }
  }

  let running = Promise.resolve()
  const ask = (/** @type {boolean} */ withShelf) => {
    const idle = !shelfDue && !cardDue
    shelfDue ||= withShelf
    cardDue = true
    if (idle) running = running.then(flush).catch(() => undefined)
  }

  return {
    refresh: () => ask(true),
    put(place, html) {
      place.innerHTML = html
      htmx.process(place)
    },
    update({state, previous}) {
      if (state.scene && (!previous.scene || state.chosen !== previous.chosen)) ask(false)
    },
  }
}
