/** The card of what is chosen: which of its tabs is up, and the figures in it that follow what is looked ahead to. */

import {calm} from "./calm.js"
import {Controls} from "./controls.js"
import {placeOf} from "./layers.js"
import {PegControl} from "./pegcontrol.js"
import {bringIn} from "./scrolls.js"
import {wireScrubs} from "./scrubs.js"
import {chosenLayer, chosenPath, shown} from "./store.js"
import {tr} from "./words.js"

/** @import {State, View} from "./types.js" */

/** Controls that are new, at least, and gone, at most, where something was added to what the card is about. */
const ADDED = 2, GONE = 3
/** Px seen round what is scrolled to. */
const ROUND_PX = 12
const PATH_TABS = ["nodes", "whole", "rail", "riders"]

export class Card {
  #tab = "ride"
  /** Which layer or path the card is about. */
  #about = ""
  /** What could be set when the card was drawn last, and of what. @type {{about: string, controls: Set<string>}} */
  #had = {about: "", controls: new Set()}
  /** What was chosen in lists that stay as they are when the card is drawn anew, by their names. @type {Map<string, string>} */
  #stay = new Map()
  /** Whether the name is to be typed over once the card shows it. */
  #renames = false
  /** What follows a drag calmly. @type {View} */
  #node
  /** @type {View} */
  #peg

  /**
   * @param {HTMLElement} root
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits,
   *   server: import("./server.js").Server, say: (words: string, bad?: boolean) => void,
   *   refusal: import("./refusal.js").Refusal}} tools
   */
  constructor(root, {store, edits, server, say, refusal}) {
    this.root = root
    this.store = store
    this.server = server
    this.say = say
    this.peg = new PegControl(root, {store, edits})
    this.#peg = calm(this.peg)
    this.#node = calm({update({state, previous}) {
      if (shown(state) !== shown(previous) || state.nodes !== previous.nodes) drawNode(root, state)
    }})
    this.cancel = wireScrubs(root, new Controls(root, {store, edits, refusal}), edits).cancel
    document.addEventListener("change", event => {
      const input = /** @type {HTMLInputElement} */ (event.target)
      if (input.matches("[data-tab]")) this.#showTab(input.value)
      if (input.matches("[data-stays]")) this.#stay.set(input.name, input.value)
      if (input.dataset.renameScene) void this.#renameScene(input)
    })
    document.addEventListener("click", event => {
      const button = /** @type {Element} */ (event.target).closest("[data-order]")
      const layer = chosenLayer(store.state)
      if (button instanceof HTMLElement && layer)
        void edits.commit({form: "order", fields: {layer: layer.id, to: button.dataset.order ?? ""}})
    })
  }

  /** Puts the hand on the name, as soon as the card is about what is chosen. */
  rename() {
    this.#renames = true
    this.#toName()
  }

  #toName() {
    const {chosen} = this.store.state, name = /** @type {HTMLInputElement|null} */ (this.root.querySelector("[data-form='rename'], [data-rename-scene]"))
    const about = /** @type {HTMLElement|null} */ (this.root.querySelector("[data-card]"))?.dataset.id
    if (!this.#renames || !name || (chosen && about !== chosen.id)) return
    this.#renames = false
    name.focus()
    name.select()
  }

  get tab() { return this.#tab }

  /** @param {string} tab of what is chosen */
  open(tab) {
    this.#about = this.store.state.chosen?.id ?? ""
    this.#tab = tab
  }

  /** How the tab is called in which something is set. @param {Element} control */
  tabOf(control) {
    return this.root.querySelector(`[data-tab][value="${panelOf(control)}"]`)?.closest("label")?.textContent?.trim() ?? ""
  }

  /** Puts the hand on something that is set here, in whichever tab. @param {HTMLElement} control */
  reach(control) {
    const panel = panelOf(control)
    if (panel) this.#showTab(panel)
    this.#bringIn([control])
    control.focus()
  }

  /** @param {readonly HTMLElement[]} controls */
  #bringIn(controls) {
    if (this.root.parentElement) bringIn(this.root.parentElement, controls, ROUND_PX)
  }

  /** It was drawn anew. */
  swapped() {
    this.#toName()
    const card = /** @type {HTMLElement|null} */ (this.root.querySelector("[data-card]")), id = card?.dataset.id ?? ""
    // Of a text that rides nothing its words are wanted first.
    if (id !== this.#about && card?.dataset.first && this.#tab === "ride") this.#tab = card.dataset.first
    this.#about = id
    this.#showTab(this.#tab)
    for (const list of /** @type {NodeListOf<HTMLSelectElement>} */ (this.root.querySelectorAll("select[data-stays]")))
      list.value = this.#stay.get(list.name) ?? list.value
    this.peg.draw()
    drawNode(this.root, this.store.state)
    this.#showNew(id)
  }

  /** What was added may be set at once: it is scrolled to. @param {string} about */
  #showNew(about) {
    const found = /** @type {HTMLElement[]} */ ([...this.root.querySelectorAll("[data-form]")]), before = this.#had
    const named = found.map(each => [each.dataset.form, each.dataset.target, each.getAttribute("name")].join())
    const controls = new Set(named)
    this.#had = {about, controls}
    const gone = [...before.controls].filter(each => !controls.has(each)), fresh = found.filter((each, i) => !before.controls.has(named[i]) && each.checkVisibility())
    if (before.about === about && gone.length <= GONE && fresh.length >= ADDED) this.#bringIn(fresh)
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const more = (/** @type {"picked"|"nodes"} */ what) => state[what] !== previous[what] && state[what].length > 0
    const stays = "stays" in this.root.dataset && more("picked")
    if (stays) delete this.root.dataset.stays
    else if (state.chosen !== previous.chosen || more("picked") || more("nodes")) this.#tab = this.#firstTab(state)
    this.#node.update({state, previous})
    if (state.notes !== previous.notes) this.#drawSaid(state)
    this.#peg.update({state, previous})
  }

  /** What is likely to be wanted of what was chosen. @param {State} state */
  #firstTab(state) {
    const tab = this.#tab, layer = chosenLayer(state)
    if (state.chosen?.kind === "path") {
      if (chosenPath(state)?.parts.length) return PATH_TABS.includes(tab) && tab !== "nodes" ? tab : "whole"
      if (state.nodes.length) return "nodes"
      return chosenPath(state)?.drawn ? "take" : PATH_TABS.includes(tab) ? tab : "whole"
    }
    if (layer && !layer.can.fill && !layer.can.stroke && !layer.ride) return "ride"
    if (layer?.ride && state.picked.length === 1 && state.picked[0].startsWith(`${layer.id}/peg/`)) return "pace"
    return tab === "look" || (tab === "pace" && layer?.ride) ? tab : "ride"
  }

  /** @param {string} wanted */
  #showTab(wanted) {
    this.#tab = wanted
    for (const panel of this.root.querySelectorAll("[data-panel]"))
      /** @type {HTMLElement} */ (panel).hidden = /** @type {HTMLElement} */ (panel).dataset.panel !== wanted
    for (const radio of this.root.querySelectorAll("[data-tab]"))
      /** @type {HTMLInputElement} */ (radio).checked = /** @type {HTMLInputElement} */ (radio).value === wanted
  }

  /** @param {State} state */
  #drawSaid(state) {
    for (const place of this.root.querySelectorAll("[data-said]")) {
      const said = state.notes[/** @type {HTMLElement} */ (place).dataset.said ?? ""]
      if (said) place.textContent = said
    }
  }

  /** @param {HTMLInputElement} input */
  async #renameScene(input) {
    try {
      const {name} = await (await this.server.postTo(input.dataset.renameScene ?? "", {name: input.value})).json()
      document.title = tr`${name} · Coaster`
      const title = document.getElementById("scene-name")
      if (title) title.textContent = name
      input.defaultValue = name
    } catch (error) {
      this.say(error instanceof Error ? error.message : String(error), true)
      input.value = input.defaultValue
    }
  }
}

/** The tab in which something lies, by its name. @param {Element} control */
const panelOf = control => /** @type {HTMLElement|null} */ (control.closest("[data-panel]"))?.dataset.panel

/** The place of the one chosen node, while it is dragged too. @param {HTMLElement} root @param {State} state */
function drawNode(root, state) {
  const path = chosenPath(state)
  const index = state.nodes.length === 1 ? path?.ids.indexOf(state.nodes[0]) ?? -1 : -1
  if (!path || index < 0) return
  const place = placeOf(path, index)
  ;["x", "y"].forEach((name, axis) => {
    const input = root.querySelector(`[name="${name}"][data-form="node-move"]`)
    if (input instanceof HTMLInputElement && document.activeElement !== input) input.value = String(+place[axis].toFixed(2))
  })
}
