/**
 * The rails: every path as it is seen, the chosen one in full and last; each is touched only when it looks
 * different.
 */

import {pathMatrix} from "./layers.js"
import {chosenPath, pathsSeen, shown} from "./store.js"
import {element, put} from "./svg.js"
import {tr} from "./words.js"

/** @import {Layer, Path, State} from "./types.js" */

/**
 * @param {SVGElement} root
 * @param {import("./pane.js").Pane} view
 */
export function createRails(root, view) {
  /** What is drawn, by its path, and how it looks. @type {Map<string, {looks: string, group: SVGElement}>} */
  let known = new Map()

  return {
    /** @param {State} state */
    draw(state) {
      const scene = shown(state), full = chosenPath(state)
      root.style.setProperty("--rail-width", `${state.prefs.railWidth}px`)
      const seen = state.prefs.rails ? pathsSeen(state) : []
      const order = [...shownBefore(seen.filter(path => path.id !== full?.id && path.visible)), ...seen.filter(path => path.id === full?.id)]
      /** @type {typeof known} */
      const drawn = new Map()
      for (const path of order) {
        const riders = (scene?.layers ?? []).filter(layer => layer.ride?.path === path.id)
        const {group, looks: before} = known.get(path.id) ?? {group: element("g", {"data-rail": path.id}), looks: ""}
        const words = about(path, riders), isFull = path.id === full?.id
        const looks = [isFull, path.colour, words, placeOf(path, view), path.seen ?? path.d].join("|")
        if (looks !== before) show(group, path, isFull, words, view)
        drawn.set(path.id, {looks, group})
      }
      known = drawn
      const groups = [...drawn.values()].map(each => each.group)
      // To take all of them out and put them in again would have the page lay them all out.
      const inPlace = groups.length === root.childElementCount && groups.every((group, i) => group === root.children[i])
      if (!inPlace) root.replaceChildren(...groups)
    },
  }
}

/** Those that are made of others first: what they are made of lies over them, to be taken hold of. @param {Path[]} paths */
const shownBefore = paths => [...paths.filter(path => path.parts.length), ...paths.filter(path => !path.parts.length)]

/** @param {Path} path @param {import("./pane.js").Pane} view */
function placeOf(path, view) {
  const [a, b, c, d, e, f] = Array.from(pathMatrix(path)), s = view.scale
  return `matrix(${a * s} ${b * s} ${c * s} ${d * s} ${e * s + view.left} ${f * s + view.top})`
}

/**
 * @param {SVGElement} group @param {Path} path @param {boolean} full @param {string} words
 * @param {import("./pane.js").Pane} view
 */
function show(group, path, full, words, view) {
  const common = {d: path.seen ?? path.d, transform: placeOf(path, view), "vector-effect": "non-scaling-stroke"}
  const quiet = full ? "" : " quiet", {colour} = path
  group.setAttribute("role", "group")
  group.setAttribute("aria-label", words)
  group.style.setProperty("--rail", colour ?? "")
  group.style.setProperty("--rail-under", colour ? contrast(colour) : "")
  put(group, ["rail-under" + quiet, "rail" + quiet, "rail-hit"].map(name => element("path", {...common, class: name})))
}

/** @param {Path} path @param {Layer[]} riders */
function about(path, riders) {
  const ridden = riders.length ? tr`, ridden by ${riders.map(rider => rider.name).join(", ")}` : ""
  return tr`${path.name}: ${Math.round(path.length)} px, ${path.ids.length} nodes` + ridden + (path.locked ? tr`, locked` : "")
}

/** White or ink, whichever stands off a colour. @param {string} colour #rrggbb */
function contrast(colour) {
  const [r, g, b] = [1, 3, 5].map(i => parseInt(colour.slice(i, i + 2), 16))
  return 0.299 * r + 0.587 * g + 0.114 * b > 150 ? "#16222e" : "#ffffffe0"
}
