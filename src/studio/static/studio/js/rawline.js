/** The raw line of a take behind its smooth path, and where that is farthest off; alone, while a key is held. */

import {chosenPath, shown} from "./store.js"
import {element} from "./svg.js"

/** @import {View} from "./types.js" */

/**
 * @param {SVGSVGElement} root
 * @param {{view: import("./pane.js").Pane, server: import("./server.js").Server, from?: () => string}} tools from where the scene is seen
 * @returns {View & {redraw: () => void, alone: (on: boolean) => void}}
 */
export function createRawLine(root, {view, server, from = () => "front"}) {
  const group = /** @type {SVGElement} */ (element("g", {class: "raw", "pointer-events": "none"}))
  root.prepend(group)
  /** @type {{d: string, worst: [number, number, number][]}|null} */
  let known = null
  let asked = ""

  function redraw() {
    group.replaceChildren()
    if (!known) return
    const place = `matrix(${view.scale} 0 0 ${view.scale} ${view.left} ${view.top})`
    for (const name of ["raw-line under", "raw-line"]) group.append(element("path", {class: name, d: known.d, transform: place, "vector-effect": "non-scaling-stroke"}))
    known.worst.forEach(([x, y, off], i) => {
      const [cx, cy] = [view.x(x), view.y(y)]
      group.append(element("circle", {class: "raw-worst", cx, cy, r: i ? 4 : 7}))
      if (i) return
      const words = element("text", {class: "raw-words", x: cx + 11, y: cy + 4})
      words.textContent = `${off.toFixed(1)} px`
      group.append(words)
    })
  }

  /** @param {string} path */
  async function fetchLine(path) {
    try {
      const found = await (await server.get(`takes/${path}/raw`)).json()
      if (asked.startsWith(`${path} `)) known = found
    } catch {
      known = null // the card says what is missing
    }
    redraw()
  }

  /** All but the raw line goes out of sight while a key is held. @param {boolean} on */
  const alone = on => { root.classList.toggle("raw-alone", on) }
  window.addEventListener("blur", () => alone(false))

  return {
    redraw, alone,
    update({state, previous}) {
      const path = state.prefs.rails ? chosenPath(state) : undefined
      const wanted = path?.drawn && path.drawn === from() && state.chosen?.kind === "path" ? `${path.id} ${state.revision}` : ""
      if (wanted === asked) return
      const other = wanted.split(" ")[0] !== asked.split(" ")[0]
      asked = wanted
      if (other) {
        known = null
        redraw()
      }
      if (path && wanted && (state.revision !== previous.revision || other || shown(state) !== shown(previous))) void fetchLine(path.id)
    },
  }
}
