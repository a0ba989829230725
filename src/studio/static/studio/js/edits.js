/**
 * Sends edits and shows what comes of them. A look ahead is computed and not stored: at most one is
 * under way, and the newest waiting one replaces the rest. Commits go one after the other.
 */

import {unpack} from "./protocol.js"
import {Refused} from "./server.js"
import {layersChosen, tellingRider} from "./store.js"

/** @import {Edit, State} from "./types.js" */

/**
 * @param {{store: import("./store.js").Store, server: import("./server.js").Server,
 *   say: (words: string, bad?: boolean) => void, refresh: () => void}} tools
 */
export function createEdits({store, server, say, refresh}) {
  /** @type {Edit|null} */
  let waiting = null
  /** @type {Edit|null} */
  let looked = null
  let looking = false
  let round = 0
  let halted = new AbortController()
  /** @type {Promise<unknown>} */
  let line = Promise.resolve()

  /** What an edit is made on, and the frame round which the answer is to tell first. */
  const stands = () => ({base: String(store.state.revision), playhead: String(store.state.frame)})

  /** @param {Edit} edit @returns {Record<string, string>} */
  const posted = edit => {
    const asked = stands()
    return "commands" in edit ? {...asked, commands: JSON.stringify(edit.commands)} : {...asked, form: edit.form, ...edit.fields}
  }

  /** @param {Response} response */
  async function take(response) {
    const {scene, head} = unpack(await response.arrayBuffer(), store.state.scene)
    const frame = Math.min(store.state.frame, scene.settings.length - 1)
    store.set({scene, look: null, frame, revision: head.revision, undo: head.undo, redo: head.redo, kept: "kept"})
    return head
  }

  /** @param {{layers?: string[], path?: string, nodes?: string[]}|undefined} wanted layers, or a path and nodes of it */
  function select(wanted) {
    if (!wanted) return
    if (wanted.path) store.set({chosen: {kind: "path", id: wanted.path}, ...(wanted.nodes ? {nodes: wanted.nodes} : {})})
    else store.set({chosen: layersChosen(wanted.layers ?? [])})
  }

  async function whole() {
    return take(await server.get(`stage?playhead=${store.state.frame}`))
  }

  /** While nothing plays, only one rider is asked for in all frames, and the others as they are now. @returns {Record<string, string>} */
  function glance() {
    const {playing, frame} = store.state
    return playing ? {} : {glance: String(frame), rider: tellingRider(store.state)?.id ?? ""}
  }

  /** What was looked ahead to is of no use any more. */
  function halt() {
    waiting = looked = null
    round++
    halted.abort()
    halted = new AbortController()
  }

  async function look() {
    if (looking) return
    looking = true
    while (waiting) {
      const edit = waiting, mine = round
      waiting = null
      try {
        const buffer = await (await server.post("preview", {...posted(edit), ...glance()}, halted.signal)).arrayBuffer()
        if (mine !== round) continue
        const {scene, head} = unpack(buffer, store.state.scene)
        const form = "form" in edit ? edit.form : ""
        store.set({look: scene, notes: {...store.state.notes, [form]: (head.notes ?? []).join(" ")}})
      } catch (error) {
        // A value that is not finished makes no picture.
        if (!(error instanceof Refused || mine !== round)) throw error
      }
    }
    looking = false
  }

  /** @template T @param {() => Promise<T>} work @param {(words: string) => void} [tell] @returns {Promise<T|undefined>} */
  function inLine(work, tell = words => say(words, true)) {
    const mine = line.then(async () => {
      store.set({kept: "keeping"})
      try {
        return await work()
      } catch (error) {
        store.set({look: null, kept: "failed"})
        if (!(error instanceof Refused)) throw error
        tell(error.message)
        if (error.status === 409) await whole()
        return undefined
      } finally {
        refresh()
      }
    })
    line = mine.catch(() => undefined)
    return mine
  }

  /** @param {Edit|(() => Edit|null)} edit */
  async function carryOut(edit) {
    const wanted = typeof edit === "function" ? edit() : edit
    if (!wanted) return undefined
    const head = await take(await server.post("edit", posted(wanted)))
    select(head.select)
    if (head.notes?.length) say(head.notes.join(" "))
    return head
  }

  return {
    whole, select,
    /** Show what an edit would do. @param {Edit} edit */
    look(edit) {
      waiting = looked = edit
      void look()
    },
    /** @param {{state: State, previous: State}} change */
    update({state, previous}) {
      if (!state.look || !looked || (state.playing === previous.playing && (state.playing || state.frame === previous.frame))) return
      waiting = looked
      void Promise.resolve().then(look)
    },
    /** Show the kept scene again. */
    lookAway() {
      halt()
      if (store.state.look) store.set({look: null})
    },
    /**
     * Carry out an edit, or what it turns out to be when those before it are kept.
     * @param {Edit|(() => Edit|null)} edit
     * @returns {Promise<any>} the answer's head, or undefined if it was refused
     */
    commit(edit) {
      halt()
      return inLine(() => carryOut(edit))
    },
    /** Carry out an edit; a refusal is not said but returned: "" where it was done. @param {Edit} edit */
    async attempt(edit) {
      halt()
      let refusal = ""
      await inLine(() => carryOut(edit), words => { refusal = words })
      return refusal
    },
    /** @param {"undo"|"redo"} step */
    step(step) {
      halt()
      return inLine(async () => {
        const head = await take(await server.post(step, stands()))
        say(step === "undo" ? head.words : `Redo: ${head.words}`)
        return head
      })
    },
    /** Send a file into the scene. @param {FormData} form @returns {Promise<any>} */
    send(form) {
      return inLine(async () => {
        for (const [name, value] of Object.entries(stands())) form.set(name, value)
        const response = await server.post("import", form)
        if (response.headers.get("Content-Type")?.startsWith("text/html")) {
          store.set({kept: "kept"})
          return {question: await response.text()}
        }
        return take(response)
      })
    },
    /** Send a recorded movement. @param {Record<string, string>} fields @returns {Promise<any>} */
    record(fields) {
      halt()
      return inLine(async () => {
        const head = await take(await server.post("takes", {...stands(), ...fields}))
        select(head.select)
        if (head.notes?.length) say(head.notes.join(" "))
        return head
      })
    },
    /** The frame at which a rider first comes to a node; null for never. @param {string} layer @param {string} node @returns {Promise<number|null>} */
    async passed(layer, node) {
      return (await (await server.get(`layers/${layer}/passed/${node}`)).json()).frame
    },
    /** Look whether another window has moved the scene on. */
    async catchUp() {
      const {revision} = await (await server.get("revision")).json()
      if (revision !== store.state.revision && store.state.kept !== "keeping") {
        await whole()
        refresh()
      }
    },
  }
}

/** @typedef {ReturnType<typeof createEdits>} Edits */
