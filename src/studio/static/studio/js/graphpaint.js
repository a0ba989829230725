/** Draws the graph: its rules, lines, the pegs and keys on it, and what is drawn by hand. */

import {spanOf} from "./axis.js"
import {rampColour} from "./ramp.js"
import {element, put} from "./svg.js"
import {tr} from "./words.js"

/** @import {Point, State} from "./types.js" */
/** @import {Line, Mark, Scale} from "./plots.js" */

/** Room above the values and below them, px. */
export const TOP = 12, BOTTOM = 5
/** A line is drawn through so many frames at most, however long the scene. */
export const MOST_POINTS = 3000
/** More marks than these are drawn as one figure, without their knobs. */
const MANY = 60
/** Px at the right that the last pill may lie over. */
const PILL_ROOM = 14
/** Px that the words of a limit take beside its line. */
const LIMIT_ROOM = 84

/** One picture of the graph, as its scale and what is picked have it. */
export class GraphPaint {
  /** @param {SVGSVGElement} root @param {Scale} on @param {State} state */
  constructor(root, on, state) {
    this.root = root
    this.on = on
    this.state = state
    this.picked = new Set(state.picked)
    /** @type {Element[]} */
    this.made = []
  }

  /** @param {Point[]} stroke what is drawn by hand, while it is */
  draw(stroke) {
    const {plot, width, height} = this.on
    if (plot.lines.length && width) this.#plot(stroke)
    else this.made.push(text({x: width / 2, y: height / 2, "text-anchor": "middle"}, plot.empty))
    put(this.root, this.made)
  }

  /** @param {Point[]} stroke */
  #plot(stroke) {
    const {plot} = this.on
    this.#rules()
    for (const line of plot.lines) {
      if (line.kind === "speed") this.#speed(line)
      else this.made.push(element("path", {d: this.#curve(line), class: `graph-line ${line.kind}`}))
      if (plot.lines.length > 1) this.made.push(this.#name(line))
    }
    if (plot.marks.length > MANY) this.#many()
    else for (const mark of plot.marks) this.#mark(mark)
    if (stroke.length > 1) this.made.push(element("path", {class: "graph-stroke", d: pathThrough(stroke)}))
  }

  #rules() {
    const {plot, y, value, width, height} = this.on
    for (const at of rounds(value(height - BOTTOM), value(TOP))) {
      this.made.push(element("path", {d: `M0 ${y(at)}H${width}`, stroke: "#e6e1d6", "stroke-dasharray": "2 5"}))
      this.made.push(text({x: width - PILL_ROOM, y: y(at) - 3, "text-anchor": "end"}, `${+at.toFixed(3)} ${plot.unit}`))
    }
  }

  /** @param {Line} line */
  #curve(line) {
    const {x, y} = this.on, [from, to] = spanOf(this.state)
    const frames = line.rows.frames(Math.floor(from) - 1, Math.ceil(to) + 1, MOST_POINTS)
    return pathThrough(frames.map(frame => [x(frame), y(line.at(frame))]))
  }

  /** @param {Line} line */
  #name(line) {
    const {x, y, height} = this.on, [from, to] = spanOf(this.state)
    const frame = Math.max(Math.round(from + (to - from) * 0.02), 0)
    const above = Math.min(Math.max(y(line.at(frame)) - 4, 9), height - 8)
    return text({x: x(frame) + 4, y: above, class: `graph-name ${line.kind}`}, line.name)
  }

  /** Filled and stroked in the colours of speed. @param {Line} line */
  #speed(line) {
    const d = this.#curve(line), foot = this.on.y(0).toFixed(1)
    const first = /M(\S+)/.exec(d)?.[1] ?? "0", last = /.*L(\S+) /.exec(d)?.[1] ?? first
    const under = `${d}L${last} ${foot}L${first} ${foot}Z`
    this.made.push(this.#shade(line))
    this.made.push(element("path", {d: under, fill: "url(#pace-shade)", "fill-opacity": 0.22}))
    this.made.push(element("path", {d, fill: "none", stroke: "url(#pace-shade)", "stroke-width": 3, "stroke-linejoin": "round"}))
  }

  /** @param {Line} line */
  #shade(line) {
    // A straight line has no height for a gradient to be measured on: hence userSpaceOnUse.
    const shade = element("linearGradient", {id: "pace-shade", gradientUnits: "userSpaceOnUse", x1: 0, x2: this.on.width})
    const peak = Math.max(...line.rows.frames(0, Infinity, MOST_POINTS).map(line.at))
    const [from, to] = spanOf(this.state), step = Math.max((to - from) / 80, 0.25)
    for (let frame = from; frame <= to; frame += step) {
      const speed = line.at(Math.round(frame))
      shade.append(element("stop", {offset: (frame - from) / (to - from), "stop-color": rampColour(peak ? speed / peak : 0)}))
    }
    return shade
  }

  /** @param {Mark} mark */
  #mark(mark) {
    const {x, y, plot, width, height} = this.on, at = x(mark.time)
    if (at < -20 || at > width + 20) return
    const [before, after] = mark.values.map(y)
    if (mark.property === "peg") {
      const low = plot.unit === "px/s" ? height - BOTTOM : Math.max(before, after)
      this.made.push(element("path", {d: `M${at} ${Math.min(before, after)}V${low}`, class: "graph-stem"}))
    }
    if (this.picked.has(mark.item)) {
      if (Number.isFinite(mark.most)) this.#limit(mark, at)
      this.#knobs(mark, at, before, after)
    }
    const picked = this.picked.has(mark.item) ? " picked" : ""
    if (mark.property === "peg") this.#pill(Math.min(Math.max(at, 4), width - 4), before, after, picked)
    else this.made.push(element("circle", {cx: at, cy: before, r: 4.2, class: `graph-key${picked}`}))
  }

  /**
   * The most a peg's speed may be; where that lies above what is shown, its words stand at the top.
   * @param {Mark} mark @param {number} at
   */
  #limit(mark, at) {
    const {x, y, width} = this.on, top = Math.max(y(mark.most), 6)
    const reach = Math.max(...mark.knobs.map(knob => Math.abs(x(knob.time) - at)), 16)
    if (y(mark.most) > 0) this.made.push(element("path", {d: `M${at - reach} ${top}H${at + reach}`, class: "graph-limit"}))
    const before = at + reach + LIMIT_ROOM > width, side = before ? -1 : 1
    const place = {x: at + side * (reach + 3), y: top + 3, "text-anchor": before ? "end" : "start"}
    this.made.push(text({...place, class: "graph-limit-words"}, tr`at most ${Math.round(mark.most)}`))
  }

  /** @param {Mark} mark @param {number} at @param {number} before @param {number} after */
  #knobs(mark, at, before, after) {
    const {x, y} = this.on
    for (const knob of mark.knobs) {
      const from = knob.side === "in" ? before : after
      this.made.push(element("path", {d: `M${at} ${from}L${x(knob.time)} ${y(knob.value)}`, class: "graph-arm"}))
      this.made.push(element("circle", {cx: x(knob.time), cy: y(knob.value), r: 4, class: "graph-knob"}))
    }
  }

  /**
   * A peg with two speeds is two half pills.
   * @param {number} at @param {number} before @param {number} after @param {string} picked
   */
  #pill(at, before, after, picked) {
    const pill = (/** @type {number} */ x, /** @type {number} */ y, /** @type {number} */ width, /** @type {number} */ rx) =>
      this.made.push(element("rect", {x, y: y - 8, width, height: 16, rx, class: `graph-pill${picked}`}))
    if (Math.abs(before - after) < 1) return pill(at - 3.5, before, 7, 3.5)
    pill(at - 4, before, 4, 2)
    pill(at, after, 4, 2)
  }

  /** Very many keys as one figure; one that is picked alone has its knobs. */
  #many() {
    const {plot, x, y, width} = this.on
    const dots = ["", ""]
    for (const mark of plot.marks) {
      const at = x(mark.time)
      if (at < -4 || at > width + 4) continue
      const dot = `M${(at - 2.5).toFixed(1)} ${y(mark.values[0]).toFixed(1)}a2.5 2.5 0 1 1 5 0a2.5 2.5 0 1 1 -5 0Z`
      dots[this.picked.has(mark.item) ? 1 : 0] += dot
    }
    this.made.push(element("path", {d: dots[0], class: "graph-key"}), element("path", {d: dots[1], class: "graph-key picked"}))
    const one = this.picked.size === 1 && plot.marks.find(mark => this.picked.has(mark.item))
    if (one) this.#mark(one)
  }
}

/** @param {Record<string, string|number>} attributes @param {string} words */
function text(attributes, words) {
  const made = element("text", attributes)
  made.textContent = words
  return made
}

/** @param {Point[]} points */
const pathThrough = points => points.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("")

/** Some round values between two. @param {number} low @param {number} high */
export function rounds(low, high) {
  const rough = (high - low) / 4
  if (!(rough > 0)) return []
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 2.5, 5, 10].map(m => m * power).find(s => s >= rough * 0.99) ?? power
  const found = []
  for (let value = Math.ceil(low / step - 1e-9) * step; value <= high + step * 1e-6; value += step)
    found.push(Math.abs(value) < step * 1e-9 ? 0 : value)
  return found
}
