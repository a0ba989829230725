/** Dialogs: `data-opens="id"` shows one, `data-closes` closes the one it is in. */

export function wireDialogs() {
  document.addEventListener("click", event => {
    const target = /** @type {Element} */ (event.target)
    const opener = target.closest("[data-opens]")
    if (opener instanceof HTMLElement) show(opener.dataset.opens ?? "")
    if (target.closest("[data-closes]")) target.closest("dialog")?.close()
    if (target instanceof HTMLDialogElement && outside(target, event)) target.close()
  })
  document.addEventListener("change", event => {
    const input = /** @type {HTMLInputElement} */ (event.target)
    for (const part of input.form?.querySelectorAll(`[data-shows-for^="${input.name}:"]`) ?? [])
      /** @type {HTMLElement} */ (part).hidden = !part.getAttribute("data-shows-for")?.endsWith(`:${input.value}`)
  })
}

/** @param {string} id */
export function show(id) {
  const dialog = document.getElementById(id)
  if (dialog instanceof HTMLDialogElement && !dialog.open) dialog.showModal()
}

/** @param {HTMLDialogElement} dialog @param {MouseEvent} event */
function outside(dialog, event) {
  const box = dialog.getBoundingClientRect()
  return event.clientX < box.left || event.clientX > box.right || event.clientY < box.top || event.clientY > box.bottom
}
