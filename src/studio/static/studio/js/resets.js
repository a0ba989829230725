/** A double click on a label sets what it names back to what is usual. */

/** @typedef {HTMLInputElement} Field */

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
 */
export function wireResets(root, {store, edits}) {
  root.addEventListener("dblclick", async event => {
    const label = /** @type {Element} */ (event.target).closest(".label")
    for (const [form, fields] of label ? usualOf(label) : []) {
      const {frame, pin} = store.state
      await edits.commit({form, fields: {...fields, frame: String(frame), ...(pin ? {pin: "true"} : {})}})
    }
  })
}

/**
 * What is usual of the fields behind a label, up to the next label: for each form what is sent.
 * @param {Element} label @returns {Map<string, Record<string, string>>}
 */
function usualOf(label) {
  /** @type {Map<string, Record<string, string>>} */
  const found = new Map()
  for (let next = label.nextElementSibling; next && !next.matches(".label"); next = next.nextElementSibling) {
    const fields = /** @type {Field[]} */ ([...(next.matches("[data-usual]") ? [next] : []), ...next.querySelectorAll("[data-usual]")])
    for (const {name, dataset} of fields) {
      const {form = "", target = "", usual = ""} = dataset
      found.set(form, {...found.get(form), ...Object.fromEntries(new URLSearchParams(target)), [name]: usual})
    }
  }
  return found
}
