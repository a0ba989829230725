/**
 * Fetches the frames of a long scene that are still to come: those round the playhead first, then the strip's window,
 * then the rest. It waits while something is looked ahead to, and keeps no more than there is room for.
 */

import {spanOf} from "./axis.js"
import {rowsOf} from "./layers.js"
import {putBlocks} from "./protocol.js"
import {Away, Refused} from "./server.js"

/** @import {Layer, State, View} from "./types.js" */
/** @import {Rows} from "./rows.js" */

const AT_ONCE = 10
const ROOM = 128 * 2 ** 20

/**
 * Layers that change, each with numbers that tell which of its blocks are here.
 * @param {readonly Layer[]} layers @returns {[Layer, Rows][]}
 */
const changing = layers => layers.flatMap(layer => {
  const rows = rowsOf(layer).find(each => !each.single)
  return rows ? [/** @type {[Layer, Rows]} */ ([layer, rows])] : []
})

/**
 * Blocks in the order in which they are wanted.
 * @param {State} state @param {number} block frames in one @returns {number[]}
 */
export function inOrder(state, block) {
  const last = Math.floor((state.scene?.settings.length ?? 0) / block)
  const here = Math.floor(state.frame / block)
  const [from, to] = spanOf(state).map(frame => Math.min(Math.max(Math.floor(frame / block), 0), last))
  /** @param {number} first @param {number} final */
  const run = (first, final) => Array.from({length: Math.max(final - first + 1, 0)}, (_, i) => first + i)
  const onward = run(here, last), back = run(0, here - 1).reverse()
  const shown = (/** @type {number} */ each) => each >= from && each <= to
  return [...new Set([here, ...onward.filter(shown), ...back.filter(shown), ...onward, ...back])]
}

/**
 * The blocks there is room for, the most wanted first; others are let go.
 * @param {State} state @param {[Layer, Rows][]} layers @param {number} [room] bytes
 */
export function wantedBlocks(state, layers, room = ROOM) {
  const {block} = layers[0][1].told
  const every = layers.flatMap(([layer]) => rowsOf(layer))
  const width = every.reduce((sum, rows) => sum + (rows.single ? 0 : rows.width), 0)
  const order = inOrder(state, block), kept = order.slice(0, Math.max(Math.floor(room / (width * block * 4)), 1))
  for (const gone of order.slice(kept.length)) for (const rows of every) delete rows.blocks[gone]
  return kept
}

/** What to ask for next: a run of blocks, and the layers that lack the first of them. @param {State} state */
function next(state) {
  const layers = changing(state.scene?.layers ?? [])
  if (!layers.length) return null
  const wanted = wantedBlocks(state, layers)
  const lacking = (/** @type {number} */ block) => layers.filter(([, rows]) => !rows.has(block)).map(([layer]) => layer)
  const first = wanted.find(block => lacking(block).length)
  if (first === undefined) return null
  let count = 1
  while (count < AT_ONCE && wanted.includes(first + count) && lacking(first + count).length) count++
  return {first, count, layers: lacking(first)}
}

/**
 * @param {HTMLElement} root the editor, which says while frames are still to come
 * @param {{store: import("./store.js").Store, server: import("./server.js").Server}} tools
 * @returns {View}
 */
export function createBehind(root, {store, server}) {
  let running = false

  async function run() {
    if (running) return
    running = true
    root.toggleAttribute("data-coming", Boolean(next(store.state)))
    for (let wanted = next(store.state); wanted && !store.state.look; wanted = next(store.state)) {
      const {revision} = store.state
      const {first, count, layers} = wanted
      const fields = {base: String(revision), first: String(first), count: String(count), layers: layers.map(layer => layer.id).join(" ")}
      try {
        const buffer = await (await server.post("blocks", fields)).arrayBuffer()
        putBlocks(buffer, new Map(layers.map(layer => [layer.id, layer])))
      } catch (error) {
        if (!(error instanceof Refused || error instanceof Away)) throw error
        if (error instanceof Away || store.state.revision === revision) break // it is asked for again when something changes
        continue
      }
      store.set({arrived: store.state.arrived + 1})
      if (changing(layers).some(([, rows]) => !rows.has(first))) break // it was not told: to ask again would not help
    }
    running = false
    root.toggleAttribute("data-coming", Boolean(store.state.look))
  }

  return {
    update({state, previous}) {
      /** @param {State} of */
      const block = ({scene, frame}) => Math.floor(frame / (scene?.layers.find(layer => layer.maps)?.maps.told.block ?? 1))
      if (state.scene !== previous.scene || (previous.look && !state.look) || block(state) !== block(previous)) void run()
    },
  }
}
