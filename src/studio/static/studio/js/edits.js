/**
 * Sends edits and shows what comes of them. A look ahead is computed and not stored: at most one is
 * under way, and the newest waiting one replaces the rest. Commits go one after the other.
 */

import {unpack} from "./protocol.js"
import {Away, Refused} from "./server.js"
import {layersChosen, tellingRider} from "./store.js"
import {tr} from "./words.js"

/** @import {Edit, State} from "./types.js" */
/**
 * @typedef {{layers?: string[], path?: string, nodes?: string[]}|undefined} Wanted layers, or a path and nodes of it
 * @typedef {{edit: Edit, round: number, buffer: ArrayBuffer}} Looked what a look ahead was answered, and to which one
 */

/** Of a hand that moves, a place this old is about to be replaced by a newer one; */
const OLD_MS = 6
/** which is waited for as long as a frame: while it moves, a pointer says so once in each. */
const PATIENCE_MS = 16

/** So long a studio that does not answer is left alone before it is asked again, at first and at most. */
const AGAIN_MS = 500, SELDOM_MS = 5000

export class Edits {
  /** What is to be looked ahead to next. @type {Edit|null} */
  #waiting = null
  /** What is looked ahead to, as it stands. @type {Edit|null} */
  #looked = null
  #looking = false
  /** When it was last said what to look ahead to, and who waits for that to be said again. */
  #said = 0
  #newer = () => {}
  /** Raised whenever what was looked ahead to is of no use any more. */
  #round = 0
  #halted = new AbortController()
  /** Commits, one after the other. @type {Promise<unknown>} */
  #line = Promise.resolve()

  /**
   * @param {{store: import("./store.js").Store, server: import("./server.js").Server,
   *   say: (words: string, bad?: boolean) => void, refresh: () => void, shown?: number, now?: () => number}} tools
   *   shown stands for what it shows of other scenes, as they were when the page was made
   */
  constructor({store, server, say, refresh, shown = 0, now = () => performance.now()}) {
    this.shown = shown
    this.now = now
    this.store = store
    this.server = server
    this.say = say
    this.refresh = refresh
  }

  /** Show what an edit would do. @param {Edit} edit */
  look(edit) {
    this.#waiting = this.#looked = edit
    this.#said = this.now()
    this.#newer()
    void this.#lookOn()
  }

  /** Show the kept scene again. */
  lookAway() {
    this.#halt()
    if (this.store.state.look) this.store.set({look: null})
  }

  /**
   * What is looked ahead to is asked for anew where another frame is seen.
   * @param {{state: State, previous: State}} change
   */
  update({state, previous}) {
    const moved = state.playing !== previous.playing || (!state.playing && state.frame !== previous.frame)
    if (!state.look || !this.#looked || !moved) return
    this.#waiting = this.#looked
    void Promise.resolve().then(() => this.#lookOn())
  }

  /**
   * Carry out an edit, or what it turns out to be when those before it are kept.
   * @param {Edit|(() => Edit|null)} edit
   * @param {(words: string) => void} [tell] says at its place why it was refused
   * @returns {Promise<any>} the answer's head, or undefined if it was refused
   */
  commit(edit, tell) {
    this.#halt()
    return this.#inLine(() => this.#carryOut(edit), tell)
  }

  /** Carry out an edit; a refusal is not said but returned: "" where it was done. @param {Edit} edit */
  async attempt(edit) {
    this.#halt()
    let refusal = ""
    await this.#inLine(() => this.#carryOut(edit), words => { refusal = words })
    return refusal
  }

  /** @param {"undo"|"redo"} step */
  step(step) {
    this.#halt()
    return this.#inLine(async () => {
      const head = await this.#take(await this.#sent(step, this.#stands()))
      this.say(step === "undo" ? head.words : tr`Redo: ${head.words}`)
      return head
    })
  }

  /** Send a file into the scene. @param {FormData} form @returns {Promise<any>} */
  send(form) {
    return this.#inLine(async () => {
      for (const [name, value] of Object.entries(this.#stands())) form.set(name, value)
      const response = await this.#sent("import", form)
      if (!response.headers.get("Content-Type")?.startsWith("text/html")) return this.#take(response)
      this.store.set({kept: "kept"})
      return {question: await response.text()}
    })
  }

  /** Make the scene what it was after a revision. @param {number} number @returns {Promise<any>} */
  goBack(number) { return this.#through(`history/${number}/back`) }

  /** Make something of a spot that was followed. @param {Record<string, string>} fields @returns {Promise<any>} */
  followed(fields) { return this.#through("followed", fields) }

  /** Make a group a scene of its own. @param {string} layer @returns {Promise<any>} */
  groupScene(layer) { return this.#through("group-scene", {layer}) }

  /** @param {string} address @param {Record<string, string>} [fields] */
  #through(address, fields = {}) {
    this.#halt()
    return this.#inLine(async () => this.#told(await this.#take(await this.#sent(address, {...this.#stands(), ...fields}))))
  }

  /** The scene as it was after a revision. @param {number} number */
  async sceneAt(number) {
    const answer = await this.server.get(`history/${number}?playhead=${this.store.state.frame}`)
    return unpack(await answer.arrayBuffer(), null).scene
  }

  /** Show the scene as it was after a revision, until one looks away. @param {number} number */
  async lookAt(number) {
    this.#halt()
    const round = this.#round
    const scene = await this.sceneAt(number)
    if (round === this.#round) this.store.set({look: scene, frame: Math.min(this.store.state.frame, scene.settings.length - 1)})
  }

  /** Send a recorded movement. @param {Record<string, string>} fields @returns {Promise<any>} */
  record(fields) {
    return this.#through("takes", fields)
  }

  /**
   * The frame at which a rider first comes to a node; null for never.
   * @param {string} layer @param {string} node @returns {Promise<number|null>}
   */
  async passed(layer, node) {
    return (await (await this.server.get(`layers/${layer}/passed/${node}`)).json()).frame
  }

  /** Look whether another window has moved the scene on, or one that it shows. */
  async catchUp() {
    const {revision, shown} = await (await this.server.get("revision")).json()
    const isOther = revision !== this.store.state.revision || shown !== this.shown
    if (isOther && !["keeping", "waiting"].includes(this.store.state.kept)) {
      this.shown = shown
      await this.whole()
      this.refresh()
    }
  }

  /** All of the scene as it is kept. */
  async whole() {
    const {frame} = this.store.state
    // At the start it is what the page has asked for already, by this very address.
    return this.#take(await this.server.get(frame ? `stage?playhead=${frame}` : "stage"))
  }

  /** @param {Wanted} wanted */
  select(wanted) {
    if (!wanted) return
    if (wanted.path) this.store.set({chosen: {kind: "path", id: wanted.path}, ...(wanted.nodes ? {nodes: wanted.nodes} : {})})
    else this.store.set({chosen: layersChosen(wanted.layers ?? [])})
  }

  /** What an edit is made on, and the frame round which the answer is to tell first. */
  #stands() {
    const {revision, frame} = this.store.state
    return {base: String(revision), playhead: String(frame)}
  }

  /**
   * While nothing plays, only one rider is asked for in all frames, and the others as they are now.
   * @returns {Record<string, string>}
   */
  #glance() {
    const {playing, frame} = this.store.state
    return playing ? {} : {glance: String(frame), rider: tellingRider(this.store.state)?.id ?? ""}
  }

  /** @param {Edit} edit @returns {Record<string, string>} */
  #posted(edit) {
    const asked = this.#stands()
    return "commands" in edit ? {...asked, commands: JSON.stringify(edit.commands)} : {...asked, form: edit.form, ...edit.fields}
  }

  /** @param {Response} response */
  async #take(response) {
    const {scene, head} = unpack(await response.arrayBuffer(), this.store.state.scene)
    const frame = Math.min(this.store.state.frame, scene.settings.length - 1)
    this.store.set({scene, look: null, frame, revision: head.revision, undo: head.undo, redo: head.redo, kept: "kept"})
    return head
  }

  /** Choose what an answer says, and say what it has to say. @param {any} head */
  #told(head) {
    this.select(head.select)
    if (head.notes?.length) this.say(head.notes.join(" "))
    return head
  }

  /** What was looked ahead to is of no use any more. */
  #halt() {
    this.#waiting = this.#looked = null
    this.#round++
    this.#halted.abort()
    this.#halted = new AbortController()
  }

  async #lookOn() {
    if (this.#looking) return
    this.#looking = true
    try {
      let answer = /** @type {Looked|null} */ (null)
      while (this.#waiting || answer) {
        // A place that is old already would be older when it is seen than a newer one asked for a little later.
        const old = Boolean(answer) && this.#isOld()
        // The server works on the next one while this one is drawn.
        const next = old ? null : this.#asked()
        if (answer?.round === this.#round) this.#showLook(answer)
        if (old) await this.#saidAgain()
        answer = await next
      }
    } finally {
      this.#looking = false
    }
  }

  /** Whether what waits to be asked for was said a while ago. @returns {boolean} */
  #isOld() {
    return this.#waiting !== null && this.now() - this.#said > OLD_MS
  }

  /** When the hand has moved on, or was waited for long enough. @returns {Promise<void>} */
  #saidAgain() {
    return new Promise(go => {
      this.#newer = go
      setTimeout(go, PATIENCE_MS)
    })
  }

  /** Ask for the newest that waits. @returns {Promise<Looked|null>|null} */
  #asked() {
    const edit = this.#waiting
    this.#waiting = null
    return edit && this.#askedFor(edit, this.#round)
  }

  /** @param {Edit} edit @param {number} round the one it belongs to @returns {Promise<Looked|null>} */
  async #askedFor(edit, round) {
    try {
      const response = await this.server.post("preview", {...this.#posted(edit), ...this.#glance()}, this.#halted.signal)
      return {edit, round, buffer: await response.arrayBuffer()}
    } catch (error) {
      // A value that is not finished makes no picture.
      if (error instanceof Refused || error instanceof Away || round !== this.#round) return null
      throw error
    }
  }

  /** @param {Looked} answer */
  #showLook({edit, buffer}) {
    const {state} = this.store, {scene, head} = unpack(buffer, state.scene)
    const form = "form" in edit ? edit.form : ""
    this.store.set({look: scene, notes: {...state.notes, [form]: (head.notes ?? []).join(" ")}})
  }

  /**
   * @template T @param {() => Promise<T>} work @param {(words: string) => void} [tell]
   * @returns {Promise<T|undefined>}
   */
  #inLine(work, tell = words => this.say(words, true)) {
    const mine = this.#line.then(() => this.#kept(work, tell))
    this.#line = mine.catch(() => undefined)
    return mine
  }

  /** @template T @param {() => Promise<T>} work @param {(words: string) => void} tell @returns {Promise<T|undefined>} */
  async #kept(work, tell) {
    this.store.set({kept: "keeping"})
    try {
      return await work()
    } catch (error) {
      const said = error instanceof Refused || error instanceof Away
      // What was refused is as it was, and that is kept.
      this.store.set({look: null, kept: said ? "kept" : "failed"})
      if (!said) throw error
      const changed = error instanceof Refused && error.status === 409
      if (!changed) tell(error.message)
      else {
        this.say(error.message, true)
        await this.whole()
      }
      return undefined
    } finally {
      this.refresh()
    }
  }

  /** @param {Edit|(() => Edit|null)} edit */
  async #carryOut(edit) {
    const wanted = typeof edit === "function" ? edit() : edit
    if (!wanted) {
      this.store.set({kept: "kept"})
      return undefined
    }
    return this.#told(await this.#take(await this.#sent("edit", this.#posted(wanted))))
  }

  /**
   * Send what is to be kept, and wait for a studio that is away.
   * @param {string} name @param {Record<string, string>|FormData} fields @returns {Promise<Response>}
   */
  async #sent(name, fields) {
    // Sent again, it has the same key: what was done already is not done twice.
    const named = fields instanceof FormData ? fields : {...fields, key: freshKey()}
    if (named instanceof FormData) named.set("key", freshKey())
    for (let pause = AGAIN_MS; ; pause = Math.min(2 * pause, SELDOM_MS)) {
      try {
        if (!(named instanceof FormData)) return await this.server.post(name, named)
        return await this.server.send(name, named, sent => this.store.set({sent}))
      } catch (error) {
        if (!(error instanceof Away)) throw error
        if (error.told && pause === AGAIN_MS) this.say(tr`${error.message} It is tried again until it is kept.`, true)
      }
      this.store.set({kept: "waiting", sent: 1})
      await new Promise(go => setTimeout(go, pause))
    }
  }
}

/** A name that no other edit has. */
const freshKey = () => [...crypto.getRandomValues(new Uint32Array(4))].map(part => part.toString(36)).join("")
