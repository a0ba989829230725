/** Small scenes for the tests: only what a test says differs from a still layer in a scene of 100 frames. */

import {Rows} from "../../src/studio/static/studio/js/rows.js"
import {initialState} from "../../src/studio/static/studio/js/store.js"

const CAN = {stand: true, fill: false, stroke: false, trace: false, hold: false, last: false, show: false, view: false, light: false}

/** Numbers a frame of a scene of 100 frames, all of them told. */
export const rows = (numbers, width, told = {}) => new Rows(Float32Array.from(numbers), width, {length: 100, block: 120, list: null, ...told})

export const layer = (id, more = {}) => ({
  id, name: id, parent: null, visible: true, seen: true, locked: false, pickedBy: "box", inParts: false, still: true, ground: false, placed: true,
  faces: {list: [{box: [0, 0, 10, 10], picture: null, outlines: []}], which: null}, paints: null,
  maps: rows([1, 0, 0, 1, 0, 0], 6), opacities: rows([1], 1), spots: null, ride: null, keys: [], seam: null, carrier: null, radius: null, words: null, kind: "shape", shown: null, shows: null, maskedBy: [], inside: null, copies: [], crowd: null, tint: null, away: null, lift: null, space: null, mirror: [], accents: [], follows: [],
  ...more, can: {...CAN, ...more.can},
})

export const group = (id, more = {}) => layer(id, {...more, can: {hold: true}})

export const ride = (path, pegs, more = {}) => ({
  path, start: 0, end: 100, pegs, rows: rows(new Float32Array(606), 6), ...more,
})

export const peg = (id, time, node = null) => ({id, time, node, distance: time, at: [0, 0], reaches: [0.3, 0.3], speeds: [1, 1, null, null]})

export const track = (property, keys, more = {}) => ({
  property, keys, values: rows(Array.from({length: 101}, (_, i) => i), 1), reaches: new Float32Array(4 * keys.length), steps: [], colours: null, ...more,
})

export const path = (id, more = {}) => ({
  id, name: id, parent: null, visible: true, locked: false, parts: [], ids: ["a", "b"], marks: ["a", "c"], runs: [[2, false]],
  nodes: Float32Array.of(0, 0, 0, 0, 5, 0, 10, 20, -5, 0, 0, 0), start: [0, 0, 0], box: [0, 0, 10, 20], ...more,
})

export function state(layers, more = {}) {
  const scene = {settings: {width: 100, height: 100, fps: 25, rate: "25", length: 100, background: null}, layers, paths: more.paths ?? [], program: [], lift: []}
  return {...initialState(), scene, ...more}
}

/** An answer as the core packs it. */
export function packed(head, numbers) {
  const text = new TextEncoder().encode(JSON.stringify(head))
  const padded = new Uint8Array(Math.ceil(text.length / 4) * 4).fill(32)
  padded.set(text)
  const buffer = new ArrayBuffer(12 + padded.length + numbers.length * 4), view = new DataView(buffer)
  new Uint8Array(buffer).set(new TextEncoder().encode("CSTR"))
  view.setUint32(4, 18, true)
  view.setUint32(8, padded.length, true)
  new Uint8Array(buffer).set(padded, 12)
  new Float32Array(buffer, 12 + padded.length).set(numbers)
  return buffer
}
