/**
 * What scripts say, in the language of who reads it: tr`Moved ${n} layers`. A page in another language than English loads its
 * texts before any module (`gettext`), in which values stand as {0}, {1}.
 */

/** @param {TemplateStringsArray} parts @param {...unknown} values */
export function tr(parts, ...values) {
  const text = parts.reduce((all, part, i) => `${all}{${i - 1}}${part}`)
  return word(text).replace(/\{(\d+)\}/g, (_, i) => String(values[Number(i)]))
}

/** A word of the core's in that language: a kind of layer, an accent. @param {string} text */
export const word = text => /** @type {{gettext?: (text: string) => string}} */ (globalThis).gettext?.(text) ?? text

/** What stands alone, as it stands within a sentence; some languages keep their capitals. @param {string} text */
export const small = text => (document.documentElement.lang === "en" ? text.toLowerCase() : text)
