/**
 * A press that is held: the one engine of all drags. It follows its own pointer only, is a drag from some px on, and
 * is left as if nothing had been where the pointer is lost: a drag that breaks off leaves nothing half done.
 */

/**
 * @typedef {{
 *   move: (event: PointerEvent) => void, drop: (event: PointerEvent) => void, cancel: () => void,
 *   click?: (event: PointerEvent) => void, slack?: number, eager?: boolean,
 * }} How ``click`` where it was let go before it was a drag; an eager one is told of movements as they come in, where the
 *   browser tells, not only once a picture
 */

const EARLY = "onpointerrawupdate" in globalThis

export class Hold {
  /** @type {How & {x: number, y: number, pointer: number, moved: boolean}|null} */
  #held = null

  /**
   * @param {HTMLElement|SVGElement} root which has the pointer while it is held
   * @param {{free?: boolean}} [options] free: the pointer stays with what it is over
   */
  constructor(root, {free = false} = {}) {
    this.root = root
    this.free = free
    const place = /** @type {HTMLElement} */ (free ? document : root)
    place.addEventListener("pointermove", event => { if (!EARLY || !this.#held?.eager) this.#move(event) })
    if (EARLY) place.addEventListener(/** @type {"pointermove"} */ ("pointerrawupdate"), event => { if (this.#held?.eager) this.#move(event) })
    place.addEventListener("pointerup", event => this.#up(event))
    for (const lost of /** @type {const} */ (["pointercancel", "lostpointercapture"]))
      place.addEventListener(lost, event => { if (event.pointerId === this.#held?.pointer) this.cancel() })
    globalThis.addEventListener("blur", () => this.cancel())
  }

  get busy() { return this.#held !== null }

  /** @param {PointerEvent} pressed @param {How} how */
  begin(pressed, how) {
    this.#held = {...how, x: pressed.clientX, y: pressed.clientY, pointer: pressed.pointerId, moved: !how.slack}
    if (!this.free) this.root.setPointerCapture(pressed.pointerId)
  }

  /** Leaves things as they were. */
  cancel() {
    const held = this.#held
    this.#held = null
    held?.cancel()
    return held !== null
  }

  /** @param {PointerEvent} event */
  #move(event) {
    const held = this.#held
    if (!held || event.pointerId !== held.pointer) return
    if (event.pointerType !== "touch" && event.buttons === 0) return void this.cancel() // let go where no one saw it
    held.moved ||= Math.hypot(event.clientX - held.x, event.clientY - held.y) >= (held.slack ?? 0)
    if (held.moved) held.move(event)
  }

  /** @param {PointerEvent} event */
  #up(event) {
    const held = this.#held
    if (!held || event.pointerId !== held.pointer) return
    this.#held = null
    if (held.moved) held.drop(event)
    else held.click?.(event)
  }
}
