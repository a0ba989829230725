/**
 * What the commands have to work with. Nothing runs here: were it in acts.js, the parts and the whole would import
 * each other.
 */

/** @import {Point} from "./types.js" */

/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, view: import("./view.js").StageView,
 *   player: import("./player.js").Player, say: (words: string) => void, setPrefs: (change: object) => void,
 *   asking: import("./asking.js").Asking}} Tools
 * @typedef {Record<string, (where?: Point) => void>} ActList
 */
export {}
