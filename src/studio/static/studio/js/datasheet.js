/** The sheet that shows a path's data as text: to copy, or to type over. */

/** @param {{edits: import("./edits.js").Edits}} tools */
export function wireDataSheet({edits}) {
  const sheet = /** @type {HTMLDialogElement} */ (document.getElementById("data"))
  const field = () => /** @type {HTMLTextAreaElement} */ (sheet.querySelector("textarea"))

  sheet.addEventListener("click", event => {
    if (!(/** @type {Element} */ (event.target).closest("[data-copy-data]"))) return
    field().select()
    document.execCommand("copy")
  })
  sheet.addEventListener("submit", async event => {
    event.preventDefault()
    const form = /** @type {HTMLFormElement} */ (event.target)
    const words = /** @type {HTMLElement} */ (sheet.querySelector(".words"))
    const path = form.dataset.pathData ?? ""
    const refused = await edits.attempt({form: "path-data", fields: {data: field().value, ...(path ? {path} : {})}})
    words.hidden = !refused
    words.textContent = refused
    if (!refused) sheet.close()
  })
}
