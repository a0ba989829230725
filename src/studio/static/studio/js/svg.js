/** Makes SVG elements. */

/** @param {string} name @param {Record<string, string|number>} attributes @returns {SVGElement} */
export function element(name, attributes) {
  const made = /** @type {SVGElement} */ (document.createElementNS("http://www.w3.org/2000/svg", name))
  for (const key in attributes) made.setAttribute(key, String(attributes[key]))
  return made
}
