/** Speed over time of the told ride, in the colours of speed, on the strip's time axis. */

import {element} from "./svg.js"
import {COLUMNS} from "./protocol.js"
import {rampColour} from "./ramp.js"
import {shown, tellingRider} from "./store.js"

/** @import {Ride, View} from "./types.js" */

const TOP = 12, BOTTOM = 4

/** @param {number} peak @returns {number[]} some round speeds below the peak */
function lines(peak) {
  const rough = peak / 4
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 2.5, 5, 10].map(m => m * power).find(s => s >= rough * 0.99) ?? power
  const found = []
  for (let speed = step; speed <= peak * 1.02; speed += step) found.push(speed)
  return found
}

/** @param {SVGSVGElement} root @returns {View} */
export function createGraph(root) {
  /** @type {{ride: Ride|undefined, length: number}} */
  let last = {ride: undefined, length: 1}
  let width = root.clientWidth, height = root.clientHeight
  let due = 0
  new ResizeObserver(() => {
    [width, height] = [root.clientWidth, root.clientHeight]
    redraw()
  }).observe(root)

  /** With the next picture on the screen, however often it is asked for until then. */
  function soon() {
    cancelAnimationFrame(due)
    due = requestAnimationFrame(redraw)
  }

  function redraw() {
    const {ride, length} = last
    root.replaceChildren()
    if (!ride || !width) {
      const words = element("text", {x: width / 2, y: height / 2, "text-anchor": "middle"})
      words.textContent = "The speed of a chosen rider shows here."
      root.append(words)
      return
    }
    const peak = ride.peak.speed
    const x = (/** @type {number} */ frame) => (frame / length) * width
    const y = (/** @type {number} */ speed) => height - BOTTOM - (peak ? speed / peak : 0) * (height - TOP - BOTTOM)
    const shade = element("linearGradient", {id: "pace-shade"})
    const frames = ride.rows.length / COLUMNS
    const step = Math.max(1, Math.floor(frames / 80))
    let d = ""
    for (let frame = 0; frame < frames; frame++) {
      const speed = ride.rows[frame * COLUMNS + 3]
      d += `${frame ? "L" : "M"}${x(frame).toFixed(1)} ${y(speed).toFixed(1)}`
      if (frame % step === 0)
        shade.append(element("stop", {offset: frame / length, "stop-color": rampColour(peak ? speed / peak : 0)}))
    }
    root.append(shade)
    for (const speed of peak > 0 ? lines(peak) : []) {
      root.append(element("path", {d: `M0 ${y(speed)}H${width}`, stroke: "#e6e1d6", "stroke-dasharray": "2 5"}))
      const label = element("text", {x: width - 2, y: y(speed) - 3, "text-anchor": "end"})
      label.textContent = `${+speed.toFixed(1)} px/s`
      root.append(label)
    }
    // A straight line has no height for a gradient to be measured on: hence userSpaceOnUse.
    for (const [key, value] of [["gradientUnits", "userSpaceOnUse"], ["x1", "0"], ["x2", String(width)]]) shade.setAttribute(key, value)
    root.append(element("path", {d: `${d}L${width} ${height - BOTTOM}L0 ${height - BOTTOM}Z`, fill: "url(#pace-shade)", "fill-opacity": 0.22}))
    root.append(element("path", {d, fill: "none", stroke: "url(#pace-shade)", "stroke-width": 3, "stroke-linejoin": "round"}))
    for (const peg of ride.pegs) {
      if (peg.time < 0 || peg.time > length) continue
      const at = Math.min(Math.max(x(peg.time), 1), width - 1)
      root.append(element("path", {d: `M${at} ${TOP}V${height - BOTTOM}`, stroke: "#16222e", "stroke-dasharray": "2 3"}))
    }
  }

  return {
    update({state, previous}) {
      const ride = tellingRider(state)?.ride ?? undefined
      const length = shown(state)?.settings.length ?? 1
      if (ride === last.ride && length === last.length && shown(previous)) return
      last = {ride, length}
      soon()
    },
  }
}
