/** Scrolling a part of the page, and never the page itself, of which something else is looked at. */

/**
 * Scrolls a list so that all of some elements in it is seen, or as much of that as there is room for, from its top on.
 * @param {Element} root @param {readonly Element[]} elements @param {number} [room] px beyond them
 */
export function bringIn(root, elements, room = 0) {
  const boxes = elements.map(each => each.getBoundingClientRect()), seen = root.getBoundingClientRect()
  const above = Math.min(...boxes.map(box => box.top)) - room - seen.top, below = Math.max(...boxes.map(box => box.bottom)) + room - seen.bottom
  if (boxes.length) root.scrollTop += above < 0 ? above : Math.min(Math.max(below, 0), above)
}
