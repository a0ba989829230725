/** Pegs and keys together: named layer/property/id, with their times; which are chosen and how far they may move. */

/** @import {Layer, State} from "./types.js" */

/** @typedef {{item: string, layer: string, property: string, id: string, time: number, value: number}} Stop */

/** @param {string} layer @param {string} property @param {string} id */
export const itemOf = (layer, property, id) => `${layer}/${property}/${id}`

/** All stops of a layer: of its ride, and of each property that has keys. @param {Layer} layer @returns {Stop[]} */
export function stopsOf(layer) {
  const pegs = (layer.ride?.pegs ?? []).map(peg => stop(layer.id, "peg", peg.id, peg.time, peg.distance))
  return [...pegs, ...layer.keys.flatMap(track => track.keys.map(([id, time, value]) => stop(layer.id, track.property, id, time, value)))]
}

/**
 * @param {string} layer @param {string} property @param {string} id @param {number} time @param {number} value
 * @returns {Stop}
 */
const stop = (layer, property, id, time, value) => ({item: itemOf(layer, property, id), layer, property, id, time, value})

/** The stops that are chosen, in the order of time. @param {State} state @returns {Stop[]} */
export function pickedStops(state) {
  if (!state.picked.length) return []
  const wanted = new Set(state.picked), layers = new Set(state.picked.map(item => item.split("/", 1)[0]))
  const found = (state.scene?.layers ?? []).filter(layer => layers.has(layer.id)).flatMap(stopsOf)
  return found.filter(one => wanted.has(one.item)).sort((a, b) => a.time - b.time)
}

/**
 * By how many frames the chosen stops may move, back and on, before one would pass another.
 * @param {State} state @returns {[number, number]}
 */
export function room(state) {
  const wanted = new Set(state.picked)
  let back = -Infinity, on = Infinity
  for (const layer of state.scene?.layers ?? []) {
    /** @type {Map<string, Stop[]>} */
    const rows = new Map()
    for (const one of stopsOf(layer)) rows.set(one.property, [...(rows.get(one.property) ?? []), one])
    for (const row of rows.values()) {
      row.forEach((one, i) => {
        if (!wanted.has(one.item)) return
        if (i && !wanted.has(row[i - 1].item)) back = Math.max(back, Math.floor(row[i - 1].time) + 1 - one.time)
        if (i + 1 < row.length && !wanted.has(row[i + 1].item)) on = Math.min(on, Math.ceil(row[i + 1].time) - 1 - one.time)
      })
    }
  }
  return [Math.min(back, 0), Math.max(on, 0)]
}

/**
 * The time of a layer's next stop, or the one before; NaN if there is none.
 * @param {State} state @param {1|-1} way @param {Layer|undefined} layer
 */
export function nextTime(state, way, layer) {
  const last = (state.scene?.settings.length ?? 1) - 1
  const times = (layer ? stopsOf(layer) : []).map(one => Math.min(Math.round(one.time), last)).filter(time => time >= 0)
  const beyond = times.filter(time => (time - state.frame) * way > 0)
  return beyond.length ? (way > 0 ? Math.min(...beyond) : Math.max(...beyond)) : NaN
}
