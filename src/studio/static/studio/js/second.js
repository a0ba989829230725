/**
 * The second view beside the stage: the scene from above or from its side, with the tools and the selection of the stage,
 * or all of it at once, to move about in.
 */

import {Hand} from "./hand.js"
import {layerAt} from "./hits.js"
import {cornersOf} from "./layerframe.js"
import {createPaper} from "./paper.js"
import {Pane} from "./pane.js"
import {Pick as PickTool} from "./pick.js"
import {layersOn, planOf} from "./plan.js"
import {createRawLine} from "./rawline.js"
import {Snap} from "./snap.js"
import {px} from "./stagedrags.js"
import {shown} from "./store.js"
import {small, tr} from "./words.js"

/** @import {At, Drag, Edit, Side, StageScene, State, Tool, View} from "./types.js" */
/** @typedef {import("./stagedrags.js").Hands} Hands */

const WHERE = {above: tr`From above`, side: tr`From the side`, all: tr`All of it`}
/** A drawing is at least so deep, as a share of how wide the picture is. */
const LEAST_DEEP = 0.3
/** A layer this many times as wide as the picture does not count when all is shown. */
const LARGEST = 1.5
/** What of the state is drawn here. @type {(keyof State)[]} */
const DRAWN = ["scene", "look", "arrived", "frame", "playing", "chosen", "nodes", "prefs", "planes", "tool", "second", "solo"]

/** How wide and how high what has these corners is. @param {import("./types.js").Point[]} corners */
const spanOf = corners => [0, 1].map(i => Math.max(...corners.map(each => each[i])) - Math.min(...corners.map(each => each[i])))

class Paper extends Pane {
  margin = {left: 20, right: 20, top: 44, bottom: 44}
  /** What is to be seen when all is. @type {() => import("./pane.js").Box|null} */
  whole = () => null

  fitAll() {
    const box = this.whole()
    if (box && this.room.width) this.show(box)
  }
}

/** @implements {View} */
export class SecondView {
  /** @type {State|null} */
  #last = null
  #isOver = false
  /** What a tool shows here before there is anything to keep. @type {Pick<State, "draft"|"guides">} */
  #own = {draft: null, guides: []}
  /** The state as it is on the paper, and what it was made of. @type {{of: State, own: object, state: State}|null} */
  #seen = null

  /**
   * @param {HTMLElement} root
   * @param {Hands & {stage: import("./view.js").StageView, server: import("./server.js").Server, pen: import("./pen.js").Pen, placing: (hands: Hands) => Record<string, Pick<Tool, "press"|"hover"|"double">>, words: (layer: import("./types.js").Layer) => void, said: () => void}} parts
   */
  constructor(root, {store, edits, say, stage, server, pen, placing, words, said}) {
    this.root = root
    this.store = store
    this.stage = stage
    this.view = new Paper(root, () => this.redraw())
    this.view.whole = () => this.#whole()
    this.paper = createPaper(/** @type {SVGSVGElement} */ (root.querySelector("svg.overlay")), this.view, stage)
    const seen = this.#store(), hands = {store: seen, edits: this.#edits(edits), view: this.view, snap: new Snap(seen, this.view), say}
    /** @type {Record<string, Pick<Tool, "press"|"hover"|"double">>} */
    const tools = {pick: new PickTool(hands, words), pen: pen.over(hands), ...placing(hands), hand: {press: () => null}}
    const other = {press: () => {
      say(tr`That tool works on the stage; here paths and figures are drawn, movements recorded, texts and shapes placed, nodes and layers moved.`)
      return null
    }, hover: () => "not-allowed"}
    const tool = () => store.state.second === "all" ? {press: () => this.#moving(), hover: () => "grab"} : this.#plane(tools[store.state.tool] ?? other)
    this.hold = new Hand(root, {view: this.view, tool, pans: () => store.state.tool === "hand" && store.state.second !== "all", tell: said}).hold
    this.raw = createRawLine(/** @type {SVGSVGElement} */ (root.querySelector("svg.overlay")), {view: this.view, server, from: () => store.state.second})
    this.#wire()
  }

  /** Opens it, or away with it. @param {State["second"]} what */
  show(what) {
    this.hold.cancel()
    this.store.set({second: what})
  }

  /** Opens it as it was last, or away with it. */
  toggle() { this.show(this.store.state.second ? "" : this.#kind) }

  cancel() { return this.hold.cancel() }

  /** From where the scene is drawn under the pointer; nothing over the stage. @returns {Side|""} */
  get under() {
    const {second} = this.store.state
    return this.#isOver && (second === "above" || second === "side") ? second : ""
  }

  #kind = /** @type {Side|"all"} */ ("above")

  #wire() {
    const {root, store} = this
    root.addEventListener("click", event => {
      const {dataset} = /** @type {HTMLElement} */ (/** @type {Element} */ (event.target).closest("[data-second], [data-second-fit]") ?? root)
      if ("secondFit" in dataset) this.view.fit()
      else if (dataset.second !== undefined) this.show(/** @type {State["second"]} */ (dataset.second))
    })
    root.addEventListener("pointerenter", () => { this.#isOver = true })
    root.addEventListener("pointerleave", () => {
      /** @type {HTMLElement} */ (root.querySelector("[data-second-about]")).hidden = true
      this.#isOver = false
      this.#own = {draft: null, guides: []}
      this.redraw()
    })
    root.addEventListener("change", event => {
      const {name, value} = /** @type {HTMLInputElement} */ (event.target)
      if (!name.startsWith("plane-")) return
      const number = Number(value.replace(",", ".")), which = name === "plane-front" ? "front" : store.state.second
      if (value.trim() && Number.isFinite(number) && Math.abs(number) <= 1e6) store.set({planes: {...store.state.planes, [which]: number}})
      this.#tellPlanes(store.state)
    })
  }

  /** The plane that the stage draws in is dragged along by its line. @param {Pick<Tool, "press"|"hover"|"double">} tool @returns {Pick<Tool, "press"|"hover"|"double">} */
  #plane(tool) {
    const on = (/** @type {At} */ at) => at.target.closest("[data-plane]")
    return {
      press: at => on(at) ? this.#dragPlane() : tool.press(at),
      hover: at => {
        this.#sayWhatIsUnder(at)
        return on(at) ? (this.store.state.second === "above" ? "ns-resize" : "ew-resize") : tool.hover?.(at) ?? ""
      },
      double: at => tool.double?.(at),
    }
  }

  /** @param {At} at */
  #sayWhatIsUnder(at) {
    const rail = at.target.closest("[data-rail]"), words = /** @type {HTMLElement} */ (this.root.querySelector("[data-second-about]"))
    words.textContent = rail?.getAttribute("aria-label")?.split(":")[0] ?? layerAt(this.#onPaper(), at.point, at.near)?.name ?? ""
    words.hidden = !words.textContent
  }

  /** @returns {Drag} */
  #dragPlane() {
    const {store} = this, before = store.state.planes
    const move = (/** @type {At} */ {point: [x, y]}) => {
      const deep = store.state.second === "above" ? -y : x
      store.set({planes: {...store.state.planes, front: Math.abs(deep) * this.view.scale < 5 ? 0 : Math.round(deep)}})
    }
    return {move, drop: move, cancel: () => store.set({planes: before})}
  }

  /** In all of it the hand moves what the stage shows. @returns {Drag} */
  #moving() {
    const {stage} = this
    const move = (/** @type {At} */ {point: [x, y]}) => stage.pan(stage.width / 2 - stage.x(x), stage.height / 2 - stage.y(y))
    return {move, drop: move, cancel: () => undefined}
  }

  /** The store as the tools see it here: the same, with the scene as it is on the paper. */
  #store() {
    const own = this
    return /** @type {Hands["store"]} */ ({
      get state() { return own.#onPaper() },
      set(change) {
        const {draft, guides, ...rest} = change
        if (draft !== undefined || guides !== undefined) own.#own = {draft: draft === undefined ? own.#own.draft : draft, guides: guides ?? own.#own.guides}
        if (Object.keys(rest).length) own.store.set(rest)
        else own.redraw()
      },
      add: view => own.store.add(view),
    })
  }

  /** What the tools say is said of the paper. @param {Hands["edits"]} edits @returns {Hands["edits"]} */
  #edits(edits) {
    /** @type {(edit: Edit) => Edit} */
    const here = edit => "form" in edit ? {...edit, fields: {...edit.fields, ...this.#drawnIn()}} : edit
    return /** @type {any} */ ({
      look: (/** @type {Edit} */ edit) => edits.look(here(edit)),
      lookAway: () => edits.lookAway(),
      step: (/** @type {"undo"|"redo"} */ step) => edits.step(step),
      record: (/** @type {Record<string, string>} */ fields) => edits.record({...fields, ...this.#drawnIn()}),
      commit: (/** @type {Edit|(() => Edit|null)} */ edit) => edits.commit(typeof edit !== "function" ? here(edit) : () => {
        const made = edit()
        return made && here(made)
      }),
    })
  }

  /** What is said of that with what is drawn here. */
  #drawnIn() { return {seen_from: String(this.store.state.second), level: px(this.#level())} }

  /** The plane in which what is drawn here lies. */
  #level() {
    const {second, planes} = this.store.state, settings = shown(this.store.state)?.settings
    return second === "side" ? planes.side ?? (settings?.width ?? 0) / 2 : planes.above ?? (settings?.height ?? 0) / 2
  }

  #onPaper() {
    const {state} = this.store
    if (this.#seen?.of === state && this.#seen.own === this.#own) return this.#seen.state
    const side = state.second === "side" ? "side" : "above"
    const plan = (/** @type {StageScene|null} */ scene) => scene && planOf(scene, state.frame, side, state.arrived)
    const made = {...state, ...this.#own, scene: plan(state.scene), look: plan(state.look)}
    this.#seen = {of: state, own: this.#own, state: made}
    return made
  }

  /** All that is drawn, with the picture. @returns {import("./pane.js").Box|null} */
  #whole() {
    const {state} = this.store, all = state.second === "all", scene = shown(all ? state : this.#onPaper())
    if (!scene) return null
    const {width, height} = scene.settings, deep = LEAST_DEEP * width
    const frame = all ? [[0, 0], [width, height]] : scene.side === "above" ? [[0, -deep], [width, deep / 2]] : [[-deep / 2, 0], [deep, height]]
    const boxes = all ? scene.paths.filter(path => !path.parent && !path.depths) : scene.paths
    const ends = boxes.filter(path => path.visible).flatMap(({box: [x, y, w, h]}) => [[x, y], [x + w, y + h]])
    // What fills more than the picture, a ground or a sky, would leave the rest too small.
    const outlines = layersOn(scene).filter(layer => !layer.can.view).map(layer => cornersOf(layer, state.frame))
    const corners = outlines.filter(outline => Math.max(...spanOf(outline)) < LARGEST * width).flat()
    const points = [...frame, ...ends, ...corners]
    const xs = points.map(point => point[0]), ys = points.map(point => point[1]), left = Math.min(...xs), top = Math.min(...ys)
    return [left, top, Math.max(...xs) - left, Math.max(...ys) - top]
  }

  redraw() {
    const {state} = this.store
    if (!state.second) return
    this.paper.draw(state.second === "all" ? state : this.#onPaper())
    this.raw.redraw()
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const first = !this.#last
    this.#last = state
    this.raw.update({state, previous})
    if (first || state.second !== previous.second) this.#open(state)
    if (state.planes !== previous.planes || state.second !== previous.second || shown(state)?.settings !== shown(previous)?.settings) this.#tellPlanes(state)
    const waits = this.view.fitted && !shown(previous) && shown(state)
    if (state.second && waits) this.view.fitAll()
    if (state.second && DRAWN.some(name => state[name] !== previous[name])) this.redraw()
  }

  /** @param {State} state */
  #open({second}) {
    const {root, view} = this
    root.hidden = !second
    root.parentElement?.classList.toggle("two-views", Boolean(second))
    if (!second) return
    this.#kind = second
    root.dataset.shows = second
    root.setAttribute("aria-label", tr`Second view: ${small(WHERE[second])}`)
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (root.querySelectorAll("[data-second]")))
      button.setAttribute("aria-pressed", String(button.dataset.second === second))
    view.room = root.getBoundingClientRect()
    view.fitted = true
    view.fitAll()
  }

  /** @param {State} state */
  #tellPlanes({planes, second}) {
    const [own, front] = ["plane-own", "plane-front"].map(name => /** @type {HTMLInputElement} */ (this.root.querySelector(`[name="${name}"]`)))
    front.value = String(planes.front)
    own.value = String(Math.round(this.#level()))
    own.setAttribute("aria-label", second === "side" ? tr`Draws so far from the left, px` : tr`Draws so far down, px`)
    const words = this.root.querySelector("[data-plane-words]")
    if (words) words.textContent = second === "side" ? "x" : "y"
  }
}
