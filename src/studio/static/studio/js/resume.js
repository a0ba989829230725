/** Where one was in a scene, kept for this tab of the browser: after a reload one goes on from there. */

import {shown} from "./store.js"

/** @import {Chosen, StageScene} from "./types.js" */

/**
 * @typedef {{chosen?: Chosen|null, frame?: number, tab?: string, lies?: import("./view.js").Lies|null, span?: [number, number]|null,
 *   graph?: import("./types.js").State["graph"], second?: import("./types.js").State["second"], planes?: import("./types.js").Planes}} Kept
 * @typedef {{store: import("./store.js").Store, player: import("./player.js").Player, view: import("./view.js").StageView,
 *   card: import("./card.js").Card}} Parts
 */

export class Resume {
  /** @param {string} scene @param {Parts} parts */
  constructor(scene, parts) {
    this.name = `scene-${scene}`
    this.parts = parts
    addEventListener("pagehide", () => this.#keep())
  }

  /** Goes on where one was, or begins with the frontmost rider: something that moves. */
  begin() {
    const {store, player, view, card} = this.parts, {scene} = store.state
    if (!scene) return
    const last = this.#last()
    if (last.frame && last.frame < scene.settings.length) player.go(last.frame)
    if (last.lies) view.lie(last.lies)
    store.set({chosen: this.#chosen(scene, last), ...(last.span ? {span: last.span} : {}), ...(last.graph ? {graph: last.graph} : {}), ...(last.second ? {second: last.second} : {}), ...(last.planes ? {planes: last.planes} : {})})
    if (last.tab) card.open(last.tab)
  }

  #keep() {
    const {store: {state}, view, card} = this.parts
    if (!shown(state)) return
    const {chosen, span, graph, second, planes} = state
    /** @type {Kept} */
    const kept = {chosen, span, graph, second, planes, frame: Math.floor(state.frame), tab: card.tab, lies: view.lies}
    sessionStorage.setItem(this.name, JSON.stringify(kept))
  }

  /** @returns {Kept} */
  #last() {
    try {
      return JSON.parse(sessionStorage.getItem(this.name) ?? "{}")
    } catch {
      return {} // not ours, or of another version
    }
  }

  /** @param {StageScene} scene @param {Kept} last */
  #chosen(scene, {chosen}) {
    const there = chosen && (chosen.kind === "layer" ? scene.layers : scene.paths).some(thing => thing.id === chosen.id)
    if (there) return chosen
    const rider = scene.layers.findLast(layer => layer.ride && layer.visible)
    return rider ? /** @type {Chosen} */ ({kind: "layer", id: rider.id}) : null
  }
}
