/** What the pill of the seam opens: who does not meet its start again, how that looks, and what would mend it. */

import {Away, Refused} from "./server.js"
import {shown} from "./store.js"
import {tr} from "./words.js"

/** @import {Edit} from "./types.js" */

/** How long each of the two frames is seen. */
const FLICK_MS = 400

/**
 * @param {{button: HTMLElement, menu: HTMLElement, store: import("./store.js").Store, edits: import("./edits.js").Edits,
 *   server: import("./server.js").Server, compare: import("./compare.js").Compare, put: (place: HTMLElement, html: string) => void}} parts
 */
export function wireSeam({button, menu, store, edits, server, compare, put}) {
  let flicking = 0
  const stop = () => {
    clearInterval(flicking)
    flicking = 0
  }

  async function fill() {
    try {
      put(menu, await (await server.get("seam")).text())
    } catch (error) {
      if (!(error instanceof Refused || error instanceof Away)) throw error
      menu.textContent = error.message
    }
  }

  /** The last frame and the first by turns, on the stage. */
  function flick() {
    if (flicking) return stop()
    const last = (shown(store.state)?.settings.length ?? 1) - 1
    store.set({playing: false, frame: last})
    flicking = setInterval(() => {
      if (menu.hidden) return stop()
      store.set({frame: store.state.frame ? 0 : last})
    }, FLICK_MS)
  }

  /** The last frame beside the first, with a line between them. */
  function wipe() {
    const scene = shown(store.state)
    if (!scene) return
    stop()
    store.set({playing: false, frame: scene.settings.length - 1})
    compare.begin(scene, tr`frame 0, the first; right of it the last`, 0)
  }

  /** @param {Event} event */
  const editAt = event => editOf(/** @type {Element} */ (event.target).closest("[data-form]"))

  button.addEventListener("click", () => {
    // It is about to close, and what was looked at from it with it.
    if (!menu.hidden) return edits.lookAway()
    put(menu, "<p class='p-3.5 text-soft'>Looking…</p>")
    void fill()
  }, true)
  menu.addEventListener("click", async event => {
    const item = /** @type {HTMLElement} */ (event.target).closest("button"), edit = editOf(item)
    if (!item) return
    if (item.dataset.layer) store.set({chosen: {kind: "layer", id: item.dataset.layer}, nodes: [], frame: 0})
    // The panel stays: what is left to be mended is seen in it.
    if (edit || "flick" in item.dataset) event.stopPropagation()
    if ("flick" in item.dataset) flick()
    // On the stage, so the panel gives way.
    if ("wipeTwo" in item.dataset) wipe()
    if (!edit) return
    await edits.commit(edit)
    await fill()
  })
  for (const [comes, goes] of [["pointerover", "pointerout"], ["focusin", "focusout"]]) {
    menu.addEventListener(comes, event => {
      const edit = editAt(event)
      if (edit) edits.look(edit)
    })
    menu.addEventListener(goes, event => { if (editAt(event)) edits.lookAway() })
  }
}

/** @param {Element|null} item @returns {Edit|null} */
function editOf(item) {
  if (!(item instanceof HTMLElement) || !item.dataset.form) return null
  return {form: item.dataset.form, fields: Object.fromEntries(new URLSearchParams(item.dataset.fields))}
}
