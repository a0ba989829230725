/** What the core says once for everybody: properties, in words and units. The page carries it. */

/** @typedef {{words: string, unit: string, factor: number, kind: "number"|"colour"}} Property */

/** @returns {{properties: Record<string, Property>}} */
function read() {
  const place = globalThis.document?.getElementById("tables")
  return JSON.parse(place?.textContent ?? '{"properties": {}}')
}

const {properties} = read()
/** @type {Property} */
const UNKNOWN = {words: "", unit: "", factor: 1, kind: "number"}

/** What there is to know of a property. @param {string} name */
export const propertyOf = name => properties[name] ?? {...UNKNOWN, words: name}

/** The name of a property as people read it. @param {string} name */
export const wordsOf = name => propertyOf(name).words
