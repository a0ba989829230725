/** A label that scrubs: dragging it sideways changes its number by its step a few px. */

import {Hold} from "./hold.js"

const PX_A_STEP = 2

/**
 * @param {HTMLElement} root
 * @param {import("./controls.js").Controls} controls
 * @param {import("./edits.js").Edits} edits
 * @returns {{cancel: () => boolean}}
 */
export function wireScrubs(root, controls, edits) {
  const hold = new Hold(root)
  root.addEventListener("pointerdown", event => {
    const label = /** @type {Element} */ (event.target).closest("[data-scrubs]")
    if (!(label instanceof HTMLElement) || event.button !== 0) return
    const input = root.querySelector(`[name="${label.dataset.scrubs}"][data-step]`)
    if (!(input instanceof HTMLInputElement)) return
    event.preventDefault()
    scrub(input, event)
  })

  /** @param {HTMLInputElement} input @param {PointerEvent} pressed */
  function scrub(input, pressed) {
    const {step, min = -Infinity} = input.dataset, from = Number(input.value)
    const put = (/** @type {number} */ value) => {
      input.value = String(value)
      controls.twins(input)
    }
    hold.begin(pressed, {
      move(event) {
        const steps = Math.round((event.clientX - pressed.clientX) / PX_A_STEP) * (event.shiftKey ? 10 : 1)
        put(+Math.max(from + steps * Number(step), Number(min)).toFixed(3))
        controls.look(input)
      },
      drop() {
        if (Number(input.value) !== from) void controls.keep(input)
      },
      cancel() {
        put(from)
        edits.lookAway()
      },
    })
  }
  return {cancel: () => hold.cancel()}
}
