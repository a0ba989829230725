/** What a field was refused, said at the field until it is mended or left as it was. */

const ID = "refusal", GAP = 4

export class Refusal {
  /** @type {HTMLInputElement|null} */
  #field = null

  /** @param {HTMLElement} root where it is shown */
  constructor(root) {
    this.bubble = Object.assign(document.createElement("p"), {className: ID, id: ID, role: "alert", hidden: true})
    root.append(this.bubble)
    document.addEventListener("input", event => { if (event.target === this.#field) this.clear() })
    document.addEventListener("keydown", event => { if (event.key === "Escape" && event.target === this.#field) this.clear() })
    document.addEventListener("scroll", () => this.#place(), true)
    this.sizes = new ResizeObserver(() => this.#place())
  }

  /** What was typed stays, to be mended; at once, if it is called back. @param {HTMLInputElement} field @param {string} words @param {boolean} back */
  say(field, words, back) {
    this.clear()
    this.#field = field
    field.ariaInvalid = "true"
    field.setAttribute("aria-describedby", ID)
    this.bubble.textContent = words
    this.sizes.observe(field)
    this.#place()
    if (back && document.activeElement === document.body) field.select()
  }

  clear() {
    if (this.#field) this.#field.ariaInvalid = null
    this.sizes.disconnect()
    this.#field?.removeAttribute("aria-describedby")
    this.#field = null
    this.bubble.hidden = true
  }

  /** The part of the page with the field was drawn anew. */
  redraw() {
    if (this.#field && !this.#field.isConnected) this.clear()
    this.#place()
  }

  #place() {
    if (!this.#field) return
    const field = this.#field.getBoundingClientRect()
    // What lies behind another tab is not there to be said anything at.
    this.bubble.hidden = !field.width
    const {offsetWidth: width, offsetHeight: height} = this.bubble
    const under = field.bottom + GAP, over = field.top - GAP - height
    this.bubble.style.top = `${under + height > innerHeight ? over : under}px`
    this.bubble.style.left = `${Math.max(Math.min(field.left, innerWidth - width - 2 * GAP), 2 * GAP)}px`
  }
}
