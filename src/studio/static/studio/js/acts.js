/** What commands do: by a key, a menu, or a button of the card (`data-do`). Each part knows its own commands. */

import {chosenActs, layerActs} from "./actslayers.js"
import {nodeActs, pathActs} from "./actspaths.js"
import {timeActs} from "./actstime.js"
import {viewActs} from "./actsview.js"
import {fits} from "./commands.js"

/** @import {ActList, Tools} from "./acttools.js" */
/** @import {Point} from "./types.js" */

/** @param {Tools} tools @param {ActList} others what the page alone can do */
export function createActs(tools, others = {}) {
  /** @type {ActList} */
  const acts = Object.assign({}, ...[timeActs, viewActs, pathActs, nodeActs, layerActs, chosenActs].map(actsOf => actsOf(tools)), others)
  return {
    names: Object.keys(acts),
    /** @param {string} name @param {Point} [where] in scene px */
    run: (name, where) => acts[name]?.(where),
    /** Whether a name makes sense for what is chosen, and where. @param {string} name @param {Point} [where] */
    fits: (name, where) => fits(name, tools.store.state, where),
  }
}

/** @typedef {ReturnType<typeof createActs>} Acts */
