/** Says of a chosen layer, once the playhead rests, why it is not seen; the core finds it out. */

import {shown} from "./store.js"

/** @import {State, View} from "./types.js" */

const RESTS_MS = 250

/** @implements {View} */
export class Why {
  /** What is asked for when nothing has changed for a while. */
  #rest = 0
  /** Which question is the newest: an older answer is not wanted any more. */
  #asked = 0

  /**
   * @param {HTMLElement} root
   * @param {{server: import("./server.js").Server, put: (place: HTMLElement, html: string) => void}} tools
   */
  constructor(root, {server, put}) {
    this.root = root
    this.server = server
    this.put = put
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const same = state.chosen === previous.chosen && state.frame === previous.frame && state.playing === previous.playing
    if (same && shown(state) === shown(previous)) return
    clearTimeout(this.#rest)
    const asked = ++this.#asked, one = state.chosen?.kind === "layer" && (state.chosen.ids?.length ?? 1) === 1
    // Of another layer, or another frame, the words would not be true.
    if (state.chosen !== previous.chosen || state.frame !== previous.frame || !one) this.#show("")
    if (one && !state.playing && !state.look) this.#rest = setTimeout(() => void this.#ask(state, asked), RESTS_MS)
  }

  /** @param {State} state @param {number} asked */
  async #ask({chosen, frame}, asked) {
    try {
      const query = new URLSearchParams({layer: chosen?.id ?? "", frame: String(Math.floor(frame))})
      const html = await (await this.server.get(`why?${query}`)).text()
      if (asked === this.#asked) this.#show(html.trim())
    } catch {
      // A studio that is away says so elsewhere; this is asked again with the next change.
    }
  }

  /** @param {string} html */
  #show(html) {
    if (!html && this.root.hidden) return
    this.root.hidden = !html
    this.put(this.root, html)
  }
}
