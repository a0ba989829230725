/** How a person likes to work, kept in this browser: rails, snapping, handles, the size of nodes, how wide lines are. */

/** @import {Prefs, View} from "./types.js" */

const KEPT_AS = "coaster-prefs"

/**
 * @param {HTMLElement} menu
 * @param {import("./store.js").Store} store
 * @returns {View & {set: (change: Partial<Prefs>) => void}}
 */
export function createPrefs(menu, store) {
  /** @param {Partial<Prefs>} change */
  function set(change) {
    const prefs = {...store.state.prefs, ...change}
    store.set({prefs})
    localStorage.setItem(KEPT_AS, JSON.stringify(prefs))
  }
  try {
    store.set({prefs: {...store.state.prefs, ...JSON.parse(localStorage.getItem(KEPT_AS) ?? "{}")}})
  } catch {
    localStorage.removeItem(KEPT_AS) // not ours, or of another version
  }

  menu.addEventListener("input", event => {
    const input = /** @type {HTMLInputElement} */ (event.target)
    if (input.name === "nodeSize" || input.name === "railWidth") set({[input.name]: Number(input.value)})
    else if (input.type === "radio") set({[input.name]: input.value})
    else if (["snap", "rails", "ghosts", "compare", "unturned"].includes(input.name)) set({[input.name]: input.checked})
  })

  return {
    set,
    update({state, previous}) {
      if (state.prefs === previous.prefs) return
      for (const found of menu.querySelectorAll("input")) {
        const {name, type, value} = found
        const now = state.prefs[/** @type {keyof Prefs} */ (name)]
        if (type === "checkbox") found.checked = Boolean(now)
        else if (type === "radio") found.checked = value === now
        else found.value = String(now)
      }
    },
  }
}
