/** Short words at the bottom of the screen; the bad ones stay until they are closed. */

/** @param {HTMLElement} root */
export function createToasts(root) {
  /** @param {string} words @param {boolean} [bad] */
  return function say(words, bad = false) {
    const toast = document.createElement("div")
    toast.className = `toast${bad ? " bad" : ""}`
    const text = document.createElement("span")
    text.textContent = words
    toast.append(text)
    if (bad) {
      const close = document.createElement("button")
      close.textContent = "Close"
      close.addEventListener("click", () => toast.remove())
      toast.append(close)
    } else setTimeout(() => toast.remove(), 3000 + 60 * words.length)
    for (const old of root.querySelectorAll(".toast:not(.bad)")) old.remove()
    root.append(toast)
  }
}
