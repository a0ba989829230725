/** The one module that knows htmx: fetches the server-rendered parts and puts them in place. */

/** @import {State, View} from "./types.js" */

const MOST_NAMED = 100

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
    const same = address.split("&")[0] === target.dataset.address?.split("&")[0]
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
      await load(`${base}card${query(store.state)}`, card).then(() => swapped("card"))
    }
  }

  /**
   * What the card is to be about: only as many nodes are named as it takes to say what they have in common.
   * @param {State} state
   */
  function query({chosen, nodes, picked}) {
    if (!chosen) return ""
    /** @type {Record<string, string>} */
    const asked = {[chosen.kind]: chosen.id}
    if (chosen.ids && chosen.ids.length > 1) asked.layers = chosen.ids.join(" ")
    if (nodes.length) asked.nodes = nodes.slice(0, MOST_NAMED).join(" ")
    if (picked.length) Object.assign(asked, {picked: picked.slice(0, MOST_NAMED).join(" "), count: String(picked.length)})
    return "?" + new URLSearchParams(asked)
  }

  let running = Promise.resolve(), rounds = 0
  /** Until the parts say what holds, readers of the page are told that they do not yet. @param {number} by */
  const busy = by => {
    rounds += by
    for (const part of [shelf, card]) part.ariaBusy = String(rounds > 0)
  }
  const ask = (/** @type {boolean} */ withShelf) => {
    const idle = !shelfDue && !cardDue
    shelfDue ||= withShelf
    cardDue = true
    if (!idle) return
    busy(1)
    running = running.then(flush).catch(() => undefined).then(() => busy(-1))
  }

  return {
    refresh: () => ask(true),
    put(place, html) {
      place.innerHTML = html
      htmx.process(place)
    },
    update({state, previous}) {
      const other = /** @type {const} */ (["chosen", "nodes", "picked"]).some(part => state[part] !== previous[part])
      if (state.scene && (!previous.scene || other)) ask(false)
    },
  }
}
