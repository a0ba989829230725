/** The graph under the lanes, on their time axis: speed, distance, place or a property over time, to be shaped by hand. */

import {frameAtShare, shareOf, spanOf} from "./axis.js"
import {wireGraph} from "./graphdrags.js"
import {plotOf} from "./plots.js"
import {rampColour} from "./ramp.js"
import {shown} from "./store.js"
import {element} from "./svg.js"

/** @import {Point, State, View} from "./types.js" */
/** @import {Line, Mark, Plot, Scale} from "./plots.js" */

const TOP = 12, BOTTOM = 5
/** A line is drawn through so many frames at most, however long the scene. */
const MOST_POINTS = 3000
/** Milliseconds from picture to picture of the graph while something elsewhere is dragged. */
const WHILE_DRAGGED = 150

/** Some round values between two. @param {number} low @param {number} high */
function rounds(low, high) {
  const rough = (high - low) / 4
  if (!(rough > 0)) return []
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 2.5, 5, 10].map(m => m * power).find(s => s >= rough * 0.99) ?? power
  const found = []
  for (let value = Math.ceil(low / step - 1e-9) * step; value <= high + step * 1e-6; value += step) found.push(Math.abs(value) < step * 1e-9 ? 0 : value)
  return found
}

/**
 * @param {SVGSVGElement} root
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, say: (words: string) => void}} tools
 * @returns {View & {cancel: () => boolean}}
 */
export function createGraph(root, {store, edits, say}) {
  let width = root.clientWidth, height = root.clientHeight
  let due = 0
  /** Values at the graph's foot and top, where a person has zoomed. @type {[number, number]|null} */
  let zoom = null
  /** The same while a drag is under way: what is held must not move away under the pointer. @type {[number, number]} */
  let held = [0, 1]
  /** What is drawn by hand, while it is. @type {Point[]} */
  let stroke = []
  /** When it was drawn last, and what is to draw it after a while. */
  let drawn = 0, later = 0

  /** With the next picture on the screen, however often it is asked for until then. */
  function soon() {
    clearTimeout(later)
    later = 0
    cancelAnimationFrame(due)
    due = requestAnimationFrame(redraw)
  }

  /** While something elsewhere is dragged, so many times a second: the stage is what the eye follows. */
  function inAWhile() {
    later ||= window.setTimeout(soon, Math.max(drawn + WHILE_DRAGGED - performance.now(), 0))
  }

  /** @param {Plot} plot @param {State} state @returns {[number, number]} */
  function extent(plot, state) {
    const [from, to] = spanOf(state)
    let low = plot.floor ?? Infinity, high = -Infinity
    const take = (/** @type {number} */ value) => {
      low = Math.min(low, value)
      high = Math.max(high, value)
    }
    for (const {at, rows} of plot.lines) for (const frame of rows.frames(Math.floor(from), Math.ceil(to), MOST_POINTS)) take(at(frame))
    for (const mark of plot.marks) if (mark.time >= from && mark.time <= to) mark.values.forEach(take)
    if (high < low) return [0, 1]
    const room = (high - low) * (plot.floor === null ? 0.12 : 0)
    return high - low < 1e-9 ? [plot.floor ?? low - 1, high + 1] : [low - room, high + room]
  }

  /** @returns {Scale} */
  function scale() {
    const {state} = store, plot = plotOf(state)
    if (!drags.busy) held = zoom ?? extent(plot, state)
    const [low, high] = held
    const tall = Math.max(height - TOP - BOTTOM, 1)
    return {
      plot, width, height,
      x: frame => shareOf(state, frame) * width, frame: x => frameAtShare(state, x / width),
      y: value => height - BOTTOM - ((value - low) / (high - low)) * tall, value: y => low + ((height - BOTTOM - y) / tall) * (high - low),
    }
  }

  /** @param {Line} line @param {Scale} on */
  function curve(line, {x, y}) {
    const [from, to] = spanOf(store.state)
    let d = ""
    for (const frame of line.rows.frames(Math.floor(from) - 1, Math.ceil(to) + 1, MOST_POINTS))
      d += `${d ? "L" : "M"}${x(frame).toFixed(1)} ${y(line.at(frame)).toFixed(1)}`
    return d
  }

  function redraw() {
    drawn = performance.now()
    const on = scale(), {plot, y} = on
    root.replaceChildren()
    if (!plot.lines.length || !width) {
      const words = element("text", {x: width / 2, y: height / 2, "text-anchor": "middle"})
      words.textContent = plot.empty
      root.append(words)
      return
    }
    const [low, high] = [on.value(height - BOTTOM), on.value(TOP)]
    for (const value of rounds(low, high)) {
      root.append(element("path", {d: `M0 ${y(value)}H${width}`, stroke: "#e6e1d6", "stroke-dasharray": "2 5"}))
      const label = element("text", {x: width - 2, y: y(value) - 3, "text-anchor": "end"})
      label.textContent = `${+value.toFixed(3)} ${plot.unit}`
      root.append(label)
    }
    for (const line of plot.lines) {
      if (line.kind === "speed") drawSpeed(line, on)
      else root.append(element("path", {d: curve(line, on), class: `graph-line ${line.kind}`}))
      if (plot.lines.length > 1) root.append(named(line, on))
    }
    if (plot.marks.length > 60) drawMany(on)
    else for (const mark of plot.marks) drawMark(mark, on)
    if (stroke.length > 1) root.append(element("path", {class: "graph-stroke", d: stroke.map(([px, py], i) => `${i ? "L" : "M"}${px.toFixed(1)} ${py.toFixed(1)}`).join("")}))
  }

  /** @param {Line} line @param {Scale} on */
  function named(line, {x, y}) {
    const [from, to] = spanOf(store.state)
    const frame = Math.max(Math.round(from + (to - from) * 0.02), 0)
    const label = element("text", {x: x(frame) + 4, y: Math.min(Math.max(y(line.at(frame)) - 4, 9), height - 8), class: `graph-name ${line.kind}`})
    label.textContent = line.name
    return label
  }

  /** Filled and stroked in the colours of speed. @param {Line} line @param {Scale} on */
  function drawSpeed(line, on) {
    const peak = Math.max(...line.rows.frames(0, Infinity, MOST_POINTS).map(line.at))
    const shade = element("linearGradient", {id: "pace-shade"})
    const [from, to] = spanOf(store.state), step = Math.max((to - from) / 80, 0.25)
    for (let frame = from; frame <= to; frame += step) {
      const speed = line.at(Math.round(frame))
      shade.append(element("stop", {offset: (frame - from) / (to - from), "stop-color": rampColour(peak ? speed / peak : 0)}))
    }
    // A straight line has no height for a gradient to be measured on: hence userSpaceOnUse.
    for (const [key, value] of [["gradientUnits", "userSpaceOnUse"], ["x1", "0"], ["x2", String(width)]]) shade.setAttribute(key, value)
    const d = curve(line, on), foot = on.y(0).toFixed(1)
    const first = /M(\S+)/.exec(d)?.[1] ?? "0", last = /.*L(\S+) /.exec(d)?.[1] ?? first
    root.append(shade)
    root.append(element("path", {d: `${d}L${last} ${foot}L${first} ${foot}Z`, fill: "url(#pace-shade)", "fill-opacity": 0.22}))
    root.append(element("path", {d, fill: "none", stroke: "url(#pace-shade)", "stroke-width": 3, "stroke-linejoin": "round"}))
  }

  /** @param {Mark} mark @param {Scale} on */
  function drawMark(mark, {x, y, plot}) {
    const at = x(mark.time)
    if (at < -20 || at > width + 20) return
    const picked = store.state.picked.includes(mark.item)
    const [before, after] = mark.values.map(y)
    if (mark.property === "peg") {
      const low = plot.unit === "px/s" ? height - BOTTOM : Math.max(before, after)
      root.append(element("path", {d: `M${at} ${Math.min(before, after)}V${low}`, class: "graph-stem"}))
    }
    if (picked) {
      if (Number.isFinite(mark.most)) {
        // Where the limit lies above what is shown, its words stand at the top.
        const top = Math.max(y(mark.most), 6)
        const reach = Math.max(...mark.knobs.map(knob => Math.abs(x(knob.time) - at)), 16)
        if (y(mark.most) > 0) root.append(element("path", {d: `M${at - reach} ${top}H${at + reach}`, class: "graph-limit"}))
        const label = element("text", {x: at + reach + 3, y: top + 3, class: "graph-limit-words"})
        label.textContent = `at most ${Math.round(mark.most)}`
        root.append(label)
      }
      for (const knob of mark.knobs) {
        root.append(element("path", {d: `M${at} ${knob.side === "in" ? before : after}L${x(knob.time)} ${y(knob.value)}`, class: "graph-arm"}))
        root.append(element("circle", {cx: x(knob.time), cy: y(knob.value), r: 4, class: "graph-knob"}))
      }
    }
    if (mark.property !== "peg") {
      root.append(element("circle", {cx: at, cy: before, r: 4.2, class: `graph-key${picked ? " picked" : ""}`}))
      return
    }
    const held = Math.min(Math.max(at, 4), width - 4)
    // A peg with two speeds is two half pills.
    if (Math.abs(before - after) < 1) root.append(element("rect", {x: held - 3.5, y: before - 8, width: 7, height: 16, rx: 3.5, class: `graph-pill${picked ? " picked" : ""}`}))
    else {
      root.append(element("rect", {x: held - 4, y: before - 8, width: 4, height: 16, rx: 2, class: `graph-pill${picked ? " picked" : ""}`}))
      root.append(element("rect", {x: held, y: after - 8, width: 4, height: 16, rx: 2, class: `graph-pill${picked ? " picked" : ""}`}))
    }
  }

  /** Very many keys as one figure. @param {Scale} on */
  function drawMany({plot, x, y}) {
    const picked = new Set(store.state.picked)
    const dots = ["", ""]
    for (const mark of plot.marks) {
      const at = x(mark.time)
      if (at < -4 || at > width + 4) continue
      dots[picked.has(mark.item) ? 1 : 0] += `M${(at - 2.5).toFixed(1)} ${y(mark.values[0]).toFixed(1)}a2.5 2.5 0 1 1 5 0a2.5 2.5 0 1 1 -5 0Z`
    }
    root.append(element("path", {d: dots[0], class: "graph-key"}), element("path", {d: dots[1], class: "graph-key picked"}))
    const one = store.state.picked.length === 1 && plot.marks.find(mark => mark.item === store.state.picked[0])
    if (one) drawMark(one, scale())
  }

  // The wheel zooms the values about the pointer; a double click shows all of them again.
  root.addEventListener("wheel", event => {
    if (event.ctrlKey || event.altKey || event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) return
    event.preventDefault()
    const on = scale(), about = on.value(event.clientY - root.getBoundingClientRect().top)
    const factor = Math.exp(event.deltaY / 400)
    zoom = [about - (about - on.value(height - BOTTOM)) * factor, about + (on.value(TOP) - about) * factor]
    soon()
  }, {passive: false})
  root.addEventListener("dblclick", () => {
    zoom = null
    soon()
  })

  const drags = wireGraph(root, {
    store, edits, say, scale,
    show(points) {
      stroke = points
      soon()
    },
  })

  new ResizeObserver(() => {
    [width, height] = [root.clientWidth, root.clientHeight]
    redraw()
  }).observe(root)

  return {
    cancel: drags.cancel,
    update({state, previous}) {
      const other = /** @type {const} */ (["chosen", "graph", "property", "span", "picked", "prefs", "rider", "arrived"]).some(name => state[name] !== previous[name])
      if (state.graph !== previous.graph || state.property !== previous.property || state.chosen !== previous.chosen) zoom = null
      if (other || (shown(state) !== shown(previous) && (drags.busy || !state.look))) soon()
      else if (shown(state) !== shown(previous)) inAWhile()
      if (state.draws !== previous.draws) root.classList.toggle("draws", state.draws)
    },
  }
}
