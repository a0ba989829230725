/** What the graph shows: lines over time and the stops on them, in the units a person reads. */

import {SPEED} from "./layers.js"
import {itemOf} from "./stops.js"
import {chosenLayer, shown, tellingRider} from "./store.js"
import {propertyOf, wordsOf} from "./tables.js"
import {tr} from "./words.js"

/** @import {Layer, Peg, State, Track} from "./types.js" */

/**
 * @typedef {{name: string, rows: import("./rows.js").Rows, at: (frame: number) => number, kind: "speed"|"plain"|"second"|"faint"}} Line
 * @typedef {{item: string, layer: string, id: string, property: string, time: number, values: [number, number], most: number,
 *   knobs: {side: "in"|"out", time: number, value: number, section: number, gain: number}[]}} Mark values before and after it, the most
 *   they may be, and the ends of its reaches: where, and how long and how high its section is
 * @typedef {{x: (frame: number) => number, y: (value: number) => number, frame: (x: number) => number, value: (y: number) => number,
 *   plot: Plot, width: number, height: number}} Scale from frames and values to px of the graph, and back
 * @typedef {{unit: string, digits: number, floor: number|null, lines: Line[], marks: Mark[], layer: string, empty: string}} Plot
 */


/** A graph that shows nothing yet. @type {Plot} */
const NOTHING = {unit: "", digits: 0, floor: null, lines: [], marks: [], layer: "", empty: ""}

/** @param {State} state @returns {Plot} */
export function plotOf(state) {
  const rider = tellingRider(state), layer = chosenLayer(state) ?? rider
  // A layer that keys move and no ride has no speed along a path: its keys are shown.
  const onlyKeys = layer && !layer.ride && layer.keys.length > 0
  if (state.graph === "keys" || (state.graph !== "place" && onlyKeys)) return ofKeys(state, layer)
  if (state.graph === "place") return ofPlace(layer)
  if (!rider?.ride) return {...NOTHING, floor: 0, empty: tr`The speed of a chosen rider shows here.`}
  const {ride} = rider, speed = state.graph === "speed"
  const column = speed ? SPEED : SPEED + 1
  /** @param {Layer} of @param {Line["kind"]} kind @returns {Line} */
  const line = (of, kind) => {
    const {rows} = /** @type {import("./types.js").Ride} */ (of.ride)
    return {name: of.name, rows, at: frame => rows.at(frame)[column], kind}
  }
  const others = state.prefs.compare ? (shown(state)?.layers ?? []).filter(other => other.ride && other.id !== rider.id && other.seen) : []
  const marks = ride.pegs.map((peg, i) => pegMark(rider, peg, ride.pegs[i - 1], ride.pegs[i + 1], speed))
  return {
    unit: speed ? "px/s" : "px", digits: 0, floor: speed ? 0 : null, marks, layer: rider.id, empty: "",
    lines: [...others.map(other => line(other, "faint")), line(rider, speed ? "speed" : "plain")],
  }
}

/**
 * @param {Layer} layer @param {Peg} peg @param {Peg|undefined} before @param {Peg|undefined} after
 * @param {boolean} speed @returns {Mark}
 */
function pegMark(layer, peg, before, after, speed) {
  const [arrive, leave, mostCome, mostLeft] = peg.speeds
  /** @type {Mark["knobs"]} */
  const knobs = []
  const {id, time, reaches} = peg
  if (speed && before) {
    const section = time - before.time
    knobs.push({side: "in", time: time - reaches[0] * section, value: arrive, section, gain: 0})
  }
  if (speed && after) {
    const section = after.time - time
    knobs.push({side: "out", time: time + reaches[1] * section, value: leave, section, gain: 0})
  }
  const limits = [before ? mostCome : Infinity, after ? mostLeft : Infinity].map(limit => limit ?? Infinity)
  /** @type {[number, number]} */
  const values = speed ? [before ? arrive : leave, after ? leave : arrive] : [peg.distance, peg.distance]
  const most = speed ? Math.min(...limits) : Infinity
  return {item: itemOf(layer.id, "peg", id), layer: layer.id, id, property: "peg", time, values, most, knobs}
}

/** @param {State} state @param {Layer|undefined} layer @returns {Plot} */
function ofKeys(state, layer) {
  const track = layer?.keys.find(each => each.property === state.property) ?? layer?.keys[0]
  if (!layer || !track) return {...NOTHING, empty: tr`Give a property keys in the card under Look and place; its curve shows here.`}
  return {...NOTHING, unit: propertyOf(track.property).unit, digits: 1, ...trackPlot(layer, track, "plain"), layer: layer.id}
}

/** @param {Layer|undefined} layer @returns {Plot} */
function ofPlace(layer) {
  if (!layer) return {...NOTHING, unit: "px", empty: tr`Where a chosen layer is, across and down, shows here.`}
  const shares = {...NOTHING, unit: "px", layer: layer.id}
  const {ride} = layer
  if (ride) {
    /** @param {number} column @param {string} name @param {Line["kind"]} kind @returns {Line} */
    const line = (column, name, kind) => ({name, rows: ride.rows, at: frame => ride.rows.at(frame)[column], kind})
    return {...shares, lines: [line(0, "X", "plain"), line(1, "Y", "second")], marks: []}
  }
  if (!layer.placed) return {...shares, layer: "", empty: tr`${layer.name} stands still. Put it on a path, or give X and Y keys.`}
  const tracks = layer.keys.filter(track => track.property === "x" || track.property === "y")
    .map(track => trackPlot(layer, track, track.property === "x" ? "plain" : "second"))
  return {...shares, lines: tracks.flatMap(track => track.lines), marks: tracks.flatMap(track => track.marks)}
}

/** @param {Layer} layer @param {Track} track @param {Line["kind"]} kind @returns {{lines: Line[], marks: Mark[]}} */
function trackPlot(layer, {property, values, keys, reaches}, kind) {
  const factor = propertyOf(property).factor
  const marks = keys.map(([id, time, value], i) => {
    const before = keys[i - 1], after = keys[i + 1], [arriveTime, arriveGain, leaveTime, leaveGain] = reaches.subarray(i * 4, i * 4 + 4)
    /** @type {Mark["knobs"]} */
    const knobs = []
    if (before) knobs.push(knob("in", time, value, before[1] - time, before[2] - value, arriveTime, arriveGain, factor))
    if (after) knobs.push(knob("out", time, value, after[1] - time, after[2] - value, leaveTime, leaveGain, factor))
    /** @type {[number, number]} */
    const both = [value * factor, value * factor]
    return {item: itemOf(layer.id, property, id), layer: layer.id, id, property, time, values: both, most: Infinity, knobs}
  })
  return {lines: [{name: wordsOf(property), rows: values, at: frame => values.at(frame)[0] * factor, kind}], marks}
}

/**
 * @param {"in"|"out"} side @param {number} time @param {number} value @param {number} span to the other key
 * @param {number} rise @param {number} reach @param {number} gain @param {number} factor
 */
const knob = (side, time, value, span, rise, reach, gain, factor) =>
  ({side, time: time + span * reach, value: (value + rise * gain) * factor, section: Math.abs(span), gain: rise * factor})
