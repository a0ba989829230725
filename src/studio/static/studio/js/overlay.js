/** What lies over the picture while working: rails, ties, nodes, the start, the chosen thing, a tool's draft. */

import {draftOf} from "./drafts.js"
import {boxesOf, nodesOf, railMatrix, stopsOn} from "./held.js"
import {cameraOf, canStand, spotOf} from "./layers.js"
import {createRails} from "./rails.js"
import {chosenLayer, shown, tellingRider} from "./store.js"
import {element, put} from "./svg.js"
import {inPlane, inSpace, tiesOf} from "./ties.js"
import {tr} from "./words.js"

/** @import {State, View} from "./types.js" */

/**
 * @param {SVGSVGElement} root
 * @param {import("./view.js").StageView} view
 * @returns {View & {redraw: () => void}}
 */
export function createOverlay(root, view) {
  const [railsRoot, ties, marks, stops, chosen, draft] = ["rails", "ties", "marks", "stops", "chosen", "draft"].map(name => {
    const group = root.appendChild(element("g", {class: name}))
    if (name !== "rails") group.setAttribute("pointer-events", "none")
    return group
  })
  const rails = createRails(railsRoot, view), drawPinned = pinnedSign(root)
  /** @type {State|null} */
  let last = null
  sayWhatIsUnder(root)

  /** @param {State} state */
  function drawTies(state) {
    const rider = state.prefs.rails ? tellingRider(state) : undefined
    if (!rider?.ride) return put(ties, [])
    const isDeep = Boolean(shown(state)?.paths.find(path => path.id === rider.ride?.path)?.depths)
    const going = isDeep ? inSpace(frame => spotOf(rider, frame)) : inPlane(rider.ride, railMatrix(state, rider))
    put(ties, tiesOf(rider, going, view, Boolean(state.look)))
  }

  const drawMarks = (/** @type {State} */ state) => put(marks, state.prefs.rails ? nodesOf(state, view) : [])
  const drawStops = (/** @type {State} */ state) => put(stops, stopsOn(state, view))
  const drawChosen = (/** @type {State} */ state) => put(chosen, boxesOf(state, view))
  const drawDraft = (/** @type {State} */ state) => put(draft, draftOf(state, view))

  function redraw() {
    if (!last) return
    for (const draw of [rails.draw, drawTies, drawMarks, drawStops, drawChosen, drawDraft]) draw(last)
  }

  return {
    redraw,
    update({state, previous}) {
      const scene = shown(state)
      last = state
      if (!scene) return
      const changed = (/** @type {(keyof State)[]} */ ...names) => names.some(name => state[name] !== previous[name])
      if (changed("pin") || (state.pin && changed("frame", "chosen"))) drawPinned(state)
      const carried = changed("frame") && (scene.paths.some(path => path.parent) || Boolean(cameraOf(scene)))
      if (scene !== shown(previous) || carried || changed("arrived", "chosen", "prefs")) redraw()
      else {
        if (changed("playing") || (changed("frame") && !state.playing)) drawChosen(state)
        if (changed("nodes")) drawMarks(state)
        if (changed("picked")) drawStops(state)
        if (changed("draft", "guides")) drawDraft(state)
      }
    },
  }
}

/** Says which path the pointer is on, and what rides it. @param {SVGSVGElement} root */
function sayWhatIsUnder(root) {
  const words = /** @type {HTMLElement} */ (root.parentElement?.querySelector("[data-about]"))
  root.addEventListener("pointerover", event => {
    const over = /** @type {Element} */ (event.target).closest("[data-rail]")
    words.hidden = !over
    if (over) words.textContent = over.getAttribute("aria-label")
  })
  root.addEventListener("pointerleave", () => { words.hidden = true })
}

/**
 * While Pin is on the stage says so, and what a drag would do.
 * @param {SVGSVGElement} root @returns {(state: State) => void}
 */
function pinnedSign(root) {
  const sign = /** @type {HTMLElement} */ (root.parentElement?.querySelector("[data-pinned]"))
  const words = /** @type {HTMLElement} */ (sign.querySelector("[data-pinned-words]"))
  return state => {
    const layer = chosenLayer(state), fps = shown(state)?.settings.fps ?? 1
    const what = layer && canStand(layer) ? layer.name : tr`a layer`
    sign.hidden = !state.pin
    root.parentElement?.classList.toggle("pinning", state.pin)
    words.textContent = tr`Pin is on: drag ${what} to place it at ${(state.frame / fps).toFixed(2)} s`
  }
}
