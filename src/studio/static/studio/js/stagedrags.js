/** What all drags of the stage have in common: when one begins, how it looks ahead and is kept, why nothing moves. */

/** @import {At, Drag, Edit} from "./types.js" */

/**
 * @typedef {{store: import("./store.js").Store, edits: import("./edits.js").Edits, view: import("./pane.js").Pane,
 *   snap: import("./snap.js").Snap, say: (words: string) => void}} Hands
 */

const FAR_ENOUGH = 3

/** @param {number} value */
export const px = value => String(+value.toFixed(3))

/** Places of the stage are said with the frame in which they are seen, and how deep what is drawn lies. @param {import("./types.js").State} state @returns {Record<string, string>} */
export const seenIn = ({frame, planes}) => ({seen_at: String(frame), ...(planes.front ? {level: px(planes.front)} : {})})

export class StageDrags {
  /** @param {Hands} hands */
  constructor({store, edits, view, snap, say}) {
    this.store = store
    this.edits = edits
    this.view = view
    this.snap = snap
    this.say = say
  }

  seen() { return seenIn(this.store.state) }

  /**
   * A drag that begins once the pointer has really moved, looks ahead at an edit and commits it.
   * @param {At} begun @param {(at: At) => Edit|null} edit @param {() => void} [click] where it was no drag
   * @returns {Drag}
   */
  dragging(begun, edit, click) {
    const {edits, snap} = this, from = begun.event
    let moved = false
    return {
      eager: true,
      move(at) {
        const {clientX, clientY} = at.event
        moved ||= Math.hypot(clientX - from.clientX, clientY - from.clientY) >= FAR_ENOUGH
        const wanted = moved ? edit(at) : null
        if (wanted) edits.look(wanted)
      },
      drop(at) {
        const wanted = moved ? edit(at) : null
        snap.clear()
        if (wanted) void edits.commit(wanted)
        else if (moved) edits.lookAway()
        else click?.()
      },
      cancel() {
        snap.clear()
        edits.lookAway()
      },
    }
  }

  /** A drag that only says why nothing moves. @param {At} begun @param {string} words */
  refusing(begun, words) {
    let said = false
    return this.dragging(begun, () => {
      if (!said) this.say(words)
      said = true
      return null
    })
  }
}
