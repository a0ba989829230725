/** Makes SVG elements. */

/** @param {string} name @param {Record<string, string|number>} attributes @returns {SVGElement} */
export function element(name, attributes) {
  const made = /** @type {SVGElement} */ (document.createElementNS("http://www.w3.org/2000/svg", name))
  for (const key in attributes) made.setAttribute(key, String(attributes[key]))
  return made
}

/**
 * Make a group hold these elements. Those that are there already take on what they are to be: to put new ones in
 * their place would have the page style, lay out and paint all of them again.
 * @param {Element} group @param {readonly Element[]} wanted
 */
export function put(group, wanted) {
  wanted.forEach((element, i) => {
    const there = group.children[i]
    if (!there) group.append(element)
    else if (!becomes(there, element)) there.replaceWith(element)
  })
  while (group.childElementCount > wanted.length) group.lastElementChild?.remove()
}

/**
 * Give an element the attributes and contents of another one, where both are of one kind.
 * @param {Element} there @param {Element} wanted
 */
function becomes(there, wanted) {
  const names = wanted.getAttributeNames()
  const alike = there.localName === wanted.localName && names.length === there.attributes.length
  if (!alike || names.some(name => !there.hasAttribute(name))) return false
  for (const name of names) {
    const value = /** @type {string} */ (wanted.getAttribute(name))
    if (there.getAttribute(name) !== value) there.setAttribute(name, value)
  }
  if (wanted.childElementCount || there.childElementCount) put(there, [...wanted.children])
  else if (there.textContent !== wanted.textContent) there.textContent = wanted.textContent
  return true
}

/** A line under and over, so that it reads on any ground. @param {string} name @param {string} d */
export const twice = (name, d) => [element("path", {class: `${name} under`, d}), element("path", {class: name, d})]

/** The data of a circle. @param {number} x @param {number} y @param {number} r */
export const around = (x, y, r) => `M${x - r} ${y}a${r} ${r} 0 1 1 ${2 * r} 0a${r} ${r} 0 1 1 ${-2 * r} 0Z`
