/** Whether somebody types. One answer for all who ask. */

const NO_TEXT = ["range", "checkbox", "radio", "color", "button"]

/** Whether an element takes text. @param {Element|null} [element] by default what has the focus */
export const typesIn = (element = document.activeElement) =>
  element instanceof HTMLTextAreaElement || element instanceof HTMLSelectElement ||
  (element instanceof HTMLInputElement && !NO_TEXT.includes(element.type))

/** Whether an element has text of its own, to be copied, cut, pasted and chosen in: a list of choices has not. @param {Element|null} [element] */
export const holdsText = (element = document.activeElement) => typesIn(element) && !(element instanceof HTMLSelectElement)
