/**
 * Sends edits and shows what comes of them. A look ahead is computed and not stored: at most one is
 * under way, and the newest waiting one replaces the rest. Commits go one after the other.
 */

import {unpack} from "./protocol.js"
import {Refused} from "./server.js"

/** @import {Edit} from "./types.js" */

/**
 * @param {{store: import("./store.js").Store, server: import("./server.js").Server,
 *   say: (words: string, bad?: boolean) => void, refresh: () => void}} tools
 */
export function createEdits({store, server, say, refresh}) {
  /** @type {Edit|null} */
  let waiting = null
  let looking = false
  let round = 0
  /** @type {Promise<unknown>} */
  let line = Promise.resolve()

  /** @param {Edit} edit @returns {Record<string, string>} */
  const posted = edit => {
    const base = String(store.state.revision)
    return "commands" in edit ? {base, commands: JSON.stringify(edit.commands)} : {base, form: edit.form, ...edit.fields}
  }

  /** @param {Response} response */
  async function take(response) {
    const {scene, head} = unpack(await response.arrayBuffer(), store.state.scene)
    const frame = Math.min(store.state.frame, scene.settings.length - 1)
    store.set({scene, look: null, frame, revision: head.revision, undo: head.undo, redo: head.redo, kept: "kept"})
    return head
  }

  async function whole() {
    return take(await server.get("stage"))
  }

  async function look() {
    if (looking) return
    looking = true
    while (waiting) {
      const edit = waiting, mine = round
      waiting = null
      try {
        const buffer = await (await server.post("preview", posted(edit))).arrayBuffer()
        if (mine === round) store.set({look: unpack(buffer, store.state.scene).scene})
      } catch (error) {
        if (!(error instanceof Refused)) throw error // a value that is not finished makes no picture
      }
    }
    looking = false
  }

  /** @template T @param {() => Promise<T>} work @returns {Promise<T|undefined>} */
  function inLine(work) {
    const mine = line.then(async () => {
      store.set({kept: "keeping"})
      try {
        return await work()
      } catch (error) {
        store.set({look: null, kept: "failed"})
        if (!(error instanceof Refused)) throw error
        say(error.message, true)
        if (error.status === 409) await whole()
        return undefined
      } finally {
        refresh()
      }
    })
    line = mine.catch(() => undefined)
    return mine
  }

  return {
    whole,
    /** Show what an edit would do. @param {Edit} edit */
    look(edit) {
      waiting = edit
      void look()
    },
    /** Show the kept scene again. */
    lookAway() {
      waiting = null
      round++
      if (store.state.look) store.set({look: null})
    },
    /** Carry out an edit. @param {Edit} edit @returns {Promise<any>} the answer's head, or undefined if it was refused */
    commit(edit) {
      waiting = null
      round++
      return inLine(async () => take(await server.post("edit", posted(edit))))
    },
    /** @param {"undo"|"redo"} step */
    step(step) {
      waiting = null
      round++
      return inLine(async () => {
        const head = await take(await server.post(step, {base: String(store.state.revision)}))
        say(step === "undo" ? head.words : `Redo: ${head.words}`)
        return head
      })
    },
    /** Send a file into the scene. @param {FormData} form @returns {Promise<any>} */
    send(form) {
      return inLine(async () => {
        form.set("base", String(store.state.revision))
        const response = await server.post("import", form)
        if (response.headers.get("Content-Type")?.startsWith("text/html")) {
          store.set({kept: "kept"})
          return {question: await response.text()}
        }
        return take(response)
      })
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
