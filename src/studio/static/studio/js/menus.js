/** Small menus: a button with `data-menu` opens the `.menu` that follows it. */

export function wireMenus() {
  document.addEventListener("click", event => {
    const target = /** @type {Element} */ (event.target)
    const button = target.closest("[data-menu]")
    const menu = button?.nextElementSibling
    for (const open of openMenus()) if (open !== menu && !(open.contains(target) && target.closest("label"))) close(open)
    if (button && menu instanceof HTMLElement) {
      menu.hidden = !menu.hidden
      button.setAttribute("aria-expanded", String(!menu.hidden))
      if (!menu.hidden) focusable(menu)[0]?.focus()
    }
  })
  document.addEventListener("focusin", event => {
    const to = /** @type {Element} */ (event.target)
    for (const open of openMenus()) if (!open.contains(to) && to !== buttonOf(open)) close(open)
  })
  document.addEventListener("keydown", event => {
    const menu = openMenus()[0]
    if (!menu) return
    const items = focusable(menu)
    const at = items.indexOf(/** @type {HTMLElement} */ (document.activeElement))
    if (event.key === "Escape") {
      close(menu)
      buttonOf(menu)?.focus()
    } else if (event.key === "ArrowDown") items[(at + 1) % items.length]?.focus()
    else if (event.key === "ArrowUp") items[(at + items.length - 1) % items.length]?.focus()
    else return
    event.preventDefault()
    event.stopPropagation()
  }, true)
}

/** @returns {HTMLElement[]} */
function openMenus() {
  return [...document.querySelectorAll(".menu:not([hidden])")].map(menu => /** @type {HTMLElement} */ (menu))
}

/** @param {HTMLElement} menu @returns {HTMLElement[]} */
function focusable(menu) {
  return [...menu.querySelectorAll("button, a, input")].map(item => /** @type {HTMLElement} */ (item)).filter(item => item.offsetParent)
}

/** @param {HTMLElement} menu */
function close(menu) {
  menu.hidden = true
  buttonOf(menu)?.setAttribute("aria-expanded", "false")
}

/** The button that opens a menu, if it has one. @param {HTMLElement} menu */
function buttonOf(menu) {
  const before = menu.previousElementSibling
  return before instanceof HTMLElement && before.matches("[data-menu]") ? before : null
}
