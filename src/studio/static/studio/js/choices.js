/** What is chosen for a render: fields that only count together are chosen together. */

/**
 * @param {HTMLElement} sheet
 * @param {() => number} playhead the frame that a still is of, where nothing else was chosen
 */
export function wireChoices(sheet, playhead) {
  sheet.addEventListener("change", event => {
    const field = /** @type {HTMLInputElement | HTMLSelectElement} */ (event.target), form = field.form
    if (form?.id !== "wanted") return
    /** @param {string} name */
    const the = name => /** @type {HTMLInputElement} */ (form.elements.namedItem(name))
    const [size, high, first, last] = ["size", "high", "first", "last"].map(the)
    if (field.name === "high" && high.value.trim()) size.value = "own"
    if (field.name === "size") {
      const own = size.value === "own"
      high.value = own ? high.value || high.placeholder : ""
      if (own) high.select()
    }
    if (field.name === "colour") the("behind").value = "colour"
    if (field.name !== "format") return
    const still = form.querySelector("option[data-single]:checked")
    const wasStill = form.dataset.still ?? form.querySelector("option[data-single][selected]")
    if (still && !first.value && !last.value) {
      const frame = playhead()
      first.value = String(frame)
      last.value = String(frame + 1)
    } else if (!still && wasStill && Number(last.value) === Number(first.value) + 1) first.value = last.value = ""
    form.dataset.still = still ? "still" : ""
  })
}
