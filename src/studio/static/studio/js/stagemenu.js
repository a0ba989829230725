/** The menu on a node, on the curve, on a layer, on the stage: by the right button, a long press, or a key. */

import {commandsOf, shownKey} from "./commands.js"
import {layerAt, nodeAt} from "./hits.js"
import {placeOf} from "./layers.js"
import {chosenIds, chosenPath} from "./store.js"

/** @import {Point} from "./types.js" */
/** @import {Menu} from "./commands.js" */

/** @param {{name: string, words: string, keys?: string[]}} command */
function item({name, words, keys = []}) {
  const button = document.createElement("button")
  button.setAttribute("role", "menuitem")
  button.dataset.do = name
  button.append(Object.assign(document.createElement("span"), {className: "flex-1", textContent: words}))
  if (keys.length) button.append(Object.assign(document.createElement("span"), {className: "kbd", textContent: shownKey(keys[0])}))
  return button
}

const ruled = () => Object.assign(document.createElement("hr"), {className: "my-1 border-rule p-0!"})

export class StageMenu {
  /** Where it was opened, px of the scene; nowhere by a key. @type {Point|undefined} */
  #where

  /**
   * @param {HTMLElement} bench
   * @param {{store: import("./store.js").Store, view: import("./view.js").StageView, acts: import("./acts.js").Acts, lists: HTMLElement[]}} parts
   *   lists of layers and paths, where it opens as well
   */
  constructor(bench, {store, view, acts, lists}) {
    this.bench = bench
    this.store = store
    this.view = view
    this.menu = /** @type {HTMLElement} */ (document.getElementById("stage-menu"))
    bench.addEventListener("contextmenu", event => {
      if (/** @type {Element} */ (event.target).closest("button, .menu")) return
      event.preventDefault()
      this.#where = view.point(event)
      this.#open(this.#under(event), event.clientX, event.clientY)
    })
    for (const place of lists) place.addEventListener("contextmenu", event => this.#onList(event))
    document.addEventListener("click", event => {
      const button = /** @type {Element} */ (event.target).closest("[data-do]")
      if (!(button instanceof HTMLElement)) return
      this.menu.hidden = true
      acts.run(button.dataset.do ?? "", this.#where)
    })
  }

  /** Opens the menu of the chosen nodes or the chosen thing, where it is. */
  keyboard() {
    this.#where = undefined
    const {store: {state}, view} = this, path = chosenPath(state), box = this.bench.getBoundingClientRect()
    const index = path?.ids.indexOf(state.nodes.at(-1) ?? "") ?? -1
    if (path && index >= 0) {
      const [x, y] = placeOf(path, index)
      return this.#open(["node"], box.left + view.x(x) + 8, box.top + view.y(y) + 8)
    }
    const about = /** @type {Menu[]} */ (state.chosen ? [state.chosen.kind === "path" ? "rail" : "layer"] : [])
    this.#open([...about, "stage"], box.left + 40, box.top + 40)
  }

  /** @param {MouseEvent} event */
  #onList(event) {
    const {store} = this, row = /** @type {Element} */ (event.target).closest("[data-layer], [data-path], [data-lane], [data-of]")
    if (!(row instanceof HTMLElement)) return
    event.preventDefault()
    const {layer, lane, of, path} = row.dataset, id = layer ?? lane ?? of
    this.#where = undefined
    if (path) store.set({chosen: {kind: "path", id: path}})
    else if (id && !chosenIds(store.state).includes(id)) store.set({chosen: {kind: "layer", id}})
    this.#open([path ? "rail" : "layer"], event.clientX, event.clientY)
  }

  /** What is under the pointer is chosen, and named. @param {MouseEvent} event @returns {Menu[]} */
  #under(event) {
    const {store, view} = this, {state} = store, path = state.prefs.rails ? chosenPath(state) : undefined
    const target = /** @type {Element} */ (event.target)
    const at = /** @type {any} */ ({event, target, point: view.point(event), near: 10 / view.scale})
    const index = nodeAt(path, at, state.nodes)
    if (path && index >= 0) {
      const id = path.ids[index]
      if (!state.nodes.includes(id)) store.set({chosen: {kind: "path", id: path.id}, nodes: [id]})
      return ["node"]
    }
    const rail = target.closest("[data-rail]")
    if (rail instanceof SVGElement) {
      store.set({chosen: {kind: "path", id: rail.dataset.rail ?? ""}})
      return ["rail"]
    }
    const layer = layerAt(state, at.point, at.near)
    if (!layer || (path && layer.ground)) return ["stage"]
    if (!chosenIds(state).includes(layer.id)) store.set({chosen: {kind: "layer", id: layer.id}})
    return ["layer", "stage"]
  }

  /** @param {Menu[]} menus @param {number} x @param {number} y in the window's px */
  #open(menus, x, y) {
    const {menu} = this
    const parts = menus.map(name => commandsOf(name, this.store.state, this.#where)).filter(found => found.length)
    menu.replaceChildren(...parts.flatMap((found, i) => [...(i ? [ruled()] : []), ...found.map(item)]))
    menu.hidden = false
    menu.style.left = `${Math.min(x, innerWidth - menu.offsetWidth - 6)}px`
    menu.style.top = `${Math.max(6, Math.min(y, innerHeight - menu.offsetHeight - 6))}px`
    menu.querySelector("button")?.focus()
  }
}
