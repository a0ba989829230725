/** Makes SVG elements. */

/** @param {string} name @param {Record<string, string|number>} attributes @returns {SVGElement} */
export function element(name, attributes) {
  const made = /** @type {SVGElement} */ (document.createElementNS("http://www.w3.org/2000/svg", name))
  for (const key in attributes) made.setAttribute(key, String(attributes[key]))
  return made
}

/** A line under and over, so that it reads on any ground. @param {string} name @param {string} d */
export const twice = (name, d) => [element("path", {class: `${name} under`, d}), element("path", {class: name, d})]

/** The data of a circle. @param {number} x @param {number} y @param {number} r */
export const around = (x, y, r) => `M${x - r} ${y}a${r} ${r} 0 1 1 ${2 * r} 0a${r} ${r} 0 1 1 ${-2 * r} 0Z`
