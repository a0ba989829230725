/** Short words at the foot of the window, beside the stage: a few at a time, which leave by themselves or by Esc. */

const MOST = 3

/** @param {HTMLElement} root */
export function createToasts(root) {
  document.addEventListener("keydown", event => {
    if (event.key === "Escape") root.querySelector(".toast:last-child")?.remove()
  })
  /** @param {string} words @param {boolean} [bad] */
  return function say(words, bad = false) {
    const toast = Object.assign(document.createElement("div"), {className: `toast${bad ? " bad" : ""}`})
    toast.append(Object.assign(document.createElement("span"), {textContent: words}))
    if (bad) {
      const close = Object.assign(document.createElement("button"), {textContent: "Close"})
      close.addEventListener("click", () => toast.remove())
      toast.append(close)
    }
    leaveAfter(toast, (bad ? 8000 : 3000) + 60 * words.length)
    for (const old of root.querySelectorAll(".toast:not(.bad)")) old.remove()
    root.append(toast)
    while (root.childElementCount > MOST) root.firstElementChild?.remove()
  }
}

/** Not while it is being read with the pointer on it. @param {HTMLElement} toast @param {number} ms */
function leaveAfter(toast, ms) {
  const leave = () => {
    if (toast.matches(":hover, :focus-within")) setTimeout(leave, 1000)
    else toast.remove()
  }
  setTimeout(leave, ms)
}
