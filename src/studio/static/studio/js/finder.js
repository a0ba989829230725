/** Finds commands, layers, paths, scenes and how things are done, by typing; what was used last comes first. */

import {AREAS, COMMANDS, shownKey} from "./commands.js"
import {show} from "./dialogs.js"
import {canStand} from "./layers.js"
import {searched} from "./sheet.js"
import {chosenLayer, shown} from "./store.js"
import {tr, word} from "./words.js"

/** @import {State} from "./types.js" */

/**
 * @typedef {{id: string, words: string, kind: string, also?: string, key?: string, able?: boolean, less?: number, run: () => void}} Thing
 *   `able` is false for what cannot be done now; of what fits as well as another, what counts `less` comes later
 */

const KEPT_AS = "coaster-found", MOST_KEPT = 30, MOST_SHOWN = 60, MANUAL = "manual"
/** How well a typed word fits: the beginning of all words, of one of them, within them, or of another word for it. */
const WHOLE = 6, BEGINS = 4, WITHIN = 2, OTHERWISE = 1
/** What was used last counts as much as this, the one before a little less. */
const RECENT = 3
/** By how much what the card sets, and how things are done, count less than what is there and what is done at once. */
const IN_CARD = 0.25, HOW_TO = 0.5

/** @param {string} text */
const wordsIn = text => text.toLowerCase().split(/[\s:;,.()]+/).filter(Boolean)

/** A thing fits, where no other has all words that are typed, with more than this share of them. */
const MOST_WORDS = 0.5

/**
 * How well a thing fits what is typed; 0 where no more than a share of the words is in it, or not all of them.
 * @param {Thing} thing @param {string[]} typed @param {number} [share]
 */
function fit({words, also = "", kind}, typed, share = 1) {
  const text = words.toLowerCase(), parts = wordsIn(words), others = `${also} ${kind}`.toLowerCase()
  const marks = /** @type {number[]} */ (typed.map(word => {
    if (text.startsWith(word)) return WHOLE
    if (parts.some(part => part.startsWith(word))) return BEGINS
    if (wordsIn(others).some(part => part.startsWith(word))) return WITHIN
    return text.includes(word) || others.includes(word) ? OTHERWISE : 0
  }))
  const had = marks.filter(mark => mark > 0).length
  if (share < 1 ? had <= share * marks.length : had < marks.length) return 0
  return marks.reduce((sum, mark) => sum + mark, 0) / Math.max(marks.length, 1) || WITHIN
}

/**
 * The things that fit what is typed, the best first; of those that fit as well, those used last, then those with few words.
 * @param {Thing[]} things @param {string} text @param {string[]} recent ids, the last first
 */
export function ranked(things, text, recent) {
  const typed = wordsIn(text)
  const fitting = (/** @type {number} */ share) => things.map((thing, i) => {
    const at = recent.indexOf(thing.id), used = at < 0 ? 0 : RECENT * (1 - at / MOST_KEPT)
    return {thing, i, mark: typed.length ? fit(thing, typed, share) : WITHIN, used}
  }).filter(each => each.mark > 0)
  const whole = fitting(1), found = whole.length || typed.length < 3 ? whole : fitting(MOST_WORDS)
  const worth = (/** @type {typeof found[number]} */ {mark, used, thing}) => mark + used - (typed.length ? thing.less ?? 0 : 0)
  // What cannot be done now is shown, but after all that can.
  found.sort((a, b) => Number(b.thing.able !== false) - Number(a.thing.able !== false) || worth(b) - worth(a)
    || (typed.length && a.thing.words.length - b.thing.words.length) || a.i - b.i)
  return found.map(each => each.thing)
}

/** @typedef {{address: string, name: string, project: string}} SceneTold */

export class Finder {
  /** @type {Thing[]} */
  #things = []
  /** @type {Thing[]} */
  #found = []
  #at = 0
  /** @type {SceneTold[]} */
  #scenes = []

  /**
   * @param {HTMLDialogElement} dialog
   * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, acts: import("./acts.js").Acts,
   *   server: import("./server.js").Server, help: HTMLElement, card: import("./card.js").Card}} tools
   */
  constructor(dialog, {store, edits, acts, server, help, card}) {
    this.dialog = dialog
    this.card = card
    this.edits = edits
    this.store = store
    this.acts = acts
    this.server = server
    this.help = help
    this.field = /** @type {HTMLInputElement} */ (dialog.querySelector("input"))
    this.list = /** @type {HTMLElement} */ (dialog.querySelector("[role=listbox]"))
    this.words = /** @type {HTMLElement} */ (dialog.querySelector("[role=status]"))
    this.field.addEventListener("input", () => this.#draw())
    this.field.addEventListener("keydown", event => this.#key(event))
    this.list.addEventListener("pointermove", event => {
      const at = this.#rowAt(event)
      if (at >= 0 && at !== this.#at) this.#light(at)
    })
    this.list.addEventListener("click", event => this.#take(this.#rowAt(event)))
  }

  open() {
    this.#things = this.#all()
    this.field.value = ""
    this.#draw()
    show(this.dialog.id)
    // Those of other windows, too: what is found is as it is now.
    void this.server.get("scenes").then(answer => answer.json()).then(found => {
      this.#scenes = found.scenes
      this.#things = this.#all()
      if (this.dialog.open) this.#draw()
    }).catch(() => undefined)
  }

  /** @returns {Thing[]} */
  #all() {
    const {state} = this.store
    return [...this.#commands(), ...this.#rides(state), ...this.#own(state), ...this.#elsewhere(), ...this.#topics(), ...this.#inCard()]
  }

  /** @returns {Thing[]} */
  #commands() {
    // What lasts while its key is down has nothing to be pressed here for.
    return COMMANDS.filter(command => !command.held).map(({name, words, area, also, keys}) => ({
      id: name, words, kind: AREAS[area], also, key: keys?.[0], able: this.acts.fits(name), run: () => this.acts.run(name),
    }))
  }

  /** What the chosen layer may ride. @param {State} state @returns {Thing[]} */
  #rides(state) {
    const layer = chosenLayer(state)
    if (!layer || layer.ride || !canStand(layer)) return []
    return (shown(state)?.paths ?? []).map(({id, name}) => ({
      id: `ride:${id}`, words: tr`Ride ${name}`, kind: tr`For ${layer.name}`, also: tr`put on path attach follow motion`,
      run: () => void this.edits.commit({form: "attach", fields: {layer: layer.id, path: id}}),
    }))
  }

  /** @param {State} state @returns {Thing[]} */
  #own(state) {
    const {layers = [], paths = []} = shown(state) ?? {}
    const choose = (/** @type {"layer"|"path"} */ kind, /** @type {string} */ id) => () => this.store.set({chosen: {kind, id}, nodes: [], picked: []})
    return [
      ...[...layers].reverse().map(({id, name, kind}) => ({id: `layer:${id}`, words: name, kind: tr`Layer · ${word(kind)}`, run: choose("layer", id)})),
      ...paths.map(({id, name}) => ({id: `path:${id}`, words: name, kind: tr`Path`, run: choose("path", id)})),
    ]
  }

  /** @returns {Thing[]} */
  #elsewhere() {
    return this.#scenes.map(({address, name, project}) => ({
      id: `scene:${address}`, words: name, kind: tr`Scene in ${project}`, run: () => location.assign(address),
    }))
  }

  /** @returns {Thing[]} */
  #topics() {
    return [...this.help.querySelectorAll("details[data-search-item]")].map(topic => {
      const words = topic.querySelector("summary")?.textContent ?? "", {searchItem: also} = /** @type {HTMLElement} */ (topic).dataset
      return {id: `help:${words}`, words, also, kind: tr`How to`, less: HOW_TO, run: () => this.#explain(words)}
    })
  }

  /** What the card sets of what is chosen, in any of its tabs, and what may be picked or done there. @returns {Thing[]} */
  #inCard() {
    const {card} = this, labelled = new Set()
    const thing = (/** @type {string} */ words, /** @type {Control} */ control, /** @type {() => void} */ then, also = "") => {
      const tab = card.tabOf(control), run = () => { card.reach(control); then() }
      return {id: `card:${words}`, words, kind: tab ? tr`Card, ${tab}` : tr`Card`, also, able: !control.disabled, less: IN_CARD, run}
    }
    const set = [...card.root.querySelectorAll(".label")].flatMap(label => {
      const controls = controlsOf(label), name = label.textContent?.trim() ?? "", [first] = controls
      if (!first || !name) return []
      for (const each of controls) labelled.add(each)
      const also = [label, ...controls].map(each => `${each.getAttribute("title") ?? ""} ${each.ariaLabel ?? ""}`).join(" ")
      return [thing(name, first, () => {}, also), ...controls.flatMap(control => choicesOf(control).map(({words, pick}) => thing(`${name}: ${words}`, control, pick)))]
    })
    const others = /** @type {NodeListOf<Control>} */ (card.root.querySelectorAll("input[type=radio]:not([data-tab]), button:not(.key)"))
    const headings = [...card.root.querySelectorAll("h2, h3, .heading")]
    const under = (/** @type {Control} */ control) => headings.filter(each => each.compareDocumentPosition(control) & Node.DOCUMENT_POSITION_FOLLOWING).at(-1)?.textContent ?? ""
    return [...set, ...[...others].filter(each => !labelled.has(each) && textOf(each)).map(each => thing(textOf(each), each, () => each.click(), `${under(each)} ${each.title}`))]
  }

  /** @param {string} words */
  #explain(words) {
    const field = /** @type {HTMLInputElement} */ (this.help.querySelector("[data-search]"))
    show(this.help.id)
    field.value = words
    field.dispatchEvent(new Event("input"))
  }

  #draw() {
    this.#found = [...ranked(this.#things, this.field.value, recent()).slice(0, MOST_SHOWN), ...this.#inManual()]
    this.list.replaceChildren(...this.#found.map((thing, i) => rowOf(thing, i)))
    const count = this.#found.filter(thing => thing.id !== MANUAL).length
    this.words.textContent = count ? "" : tr`Nothing is called so; try another word.`
    this.#light(0)
  }

  /** What is found nowhere here may be in the manual. @returns {Thing[]} */
  #inManual() {
    const words = this.field.value.trim(), manual = /** @type {HTMLAnchorElement} */ (this.help.querySelector("[data-manual]"))
    const run = () => void window.open(searched(manual.href, words), "_blank", "noopener")
    return words ? [{id: MANUAL, words: tr`Look for “${words}”`, kind: tr`Manual`, run}] : []
  }

  /** @param {Event} event */
  #rowAt(event) {
    const row = /** @type {Element} */ (event.target).closest("[role=option]")
    return row ? [...this.list.children].indexOf(row) : -1
  }

  /** @param {number} at */
  #light(at) {
    this.#at = at
    ;[...this.list.children].forEach((row, i) => row.setAttribute("aria-selected", String(i === at)))
    const row = this.list.children[at]
    row?.scrollIntoView({block: "nearest"})
    if (row) this.field.setAttribute("aria-activedescendant", row.id)
    else this.field.removeAttribute("aria-activedescendant")
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    const count = this.#found.length, step = {ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8}[event.key]
    if (event.key === "Enter") this.#take(this.#at)
    else if (step && count) this.#light(Math.abs(step) === 1 ? (this.#at + step + count) % count : Math.min(Math.max(this.#at + step, 0), count - 1))
    else return
    event.preventDefault()
  }

  /** @param {number} at */
  #take(at) {
    const thing = this.#found[at]
    if (!thing) return
    if (thing.able === false) {
      this.words.textContent = tr`“${thing.words}” cannot be done now: it needs something else to be chosen.`
      return
    }
    localStorage.setItem(KEPT_AS, JSON.stringify([thing.id, ...recent().filter(id => id !== thing.id)].slice(0, MOST_KEPT)))
    this.dialog.close()
    thing.run()
  }
}

/** @typedef {HTMLInputElement|HTMLSelectElement|HTMLButtonElement} Control */

/** What is written on a button, or beside a switch. @param {Control} control */
const textOf = control => (control instanceof HTMLInputElement ? control.closest("label") : control)?.textContent?.trim() ?? ""

/** What is set beside a label, up to the next one. @param {Element} label */
function controlsOf(label) {
  const found = /** @type {Control[]} */ ([]), kinds = "input, select, button:not(.key)"
  for (let next = label.nextElementSibling; next && !next.matches(".label") && !next.querySelector(".label"); next = next.nextElementSibling)
    found.push(.../** @type {typeof found} */ ([...next.matches(kinds) ? [next] : [], ...next.querySelectorAll(kinds)]))
  return found
}

/**
 * What may be picked instead of what is: of a list, or one of several beside each other.
 * @param {Control} control @returns {{words: string, pick: () => void}[]}
 */
function choicesOf(control) {
  if (control instanceof HTMLInputElement && control.type === "radio" && !control.checked) return textOf(control) ? [{words: textOf(control), pick: () => control.click()}] : []
  if (!(control instanceof HTMLSelectElement)) return []
  return [...control.options].filter(each => each.value && !each.selected).map(each => ({words: each.text, pick: () => {
    control.value = each.value
    control.dispatchEvent(new Event("change", {bubbles: true}))
  }}))
}

/** @param {Thing} thing @param {number} number */
function rowOf({words, kind, key, able}, number) {
  const row = document.createElement("li")
  row.id = `found-${number}`
  row.setAttribute("role", "option")
  if (able === false) row.setAttribute("aria-disabled", "true")
  row.append(part("found-words", words), part("found-kind", kind))
  if (key) row.append(part("kbd", shownKey(key)))
  return row
}

/** @param {string} name @param {string} text */
const part = (name, text) => Object.assign(document.createElement("span"), {className: name, textContent: text})

/** What was used last. @returns {string[]} */
function recent() {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT_AS) ?? "[]")
    return Array.isArray(kept) ? kept.map(String) : []
  } catch {
    return [] // not ours
  }
}
