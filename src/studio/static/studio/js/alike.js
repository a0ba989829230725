/** In which frames two states of a scene look the same: what was drawn of those need not be drawn again. */

import {countBeside, looksOf, opacityOf, partsOf} from "./layers.js"

/** @import {Layer, StageScene} from "./types.js" */
/** @import {Rows} from "./rows.js" */

/** What a look is made of beside its numbers a frame. @param {any} look @returns {string} */
const parts = ({faces, blend, stencil, stencilInverted, guide, seen, parent, cover, kind, inside, copies, mirror, crowd}) => JSON.stringify([
  faces?.list, blend, stencil, stencilInverted, guide, seen, parent, kind,
  crowd?.looks.map((/** @type {Layer} */ look) => look.faces.list), cover && [cover.inverted, cover.cuts.map((/** @type {any} */ cut) => [cut.figure, cut.how])],
], (_, value) => ArrayBuffer.isView(value) ? Array.from(/** @type {Float32Array} */ (value)) : value)
  + [...(inside ?? []), ...(copies ?? []), ...(mirror ?? [])].map(parts).join()

/** All that a layer shows, itself and of other scenes. @param {Layer} layer @returns {(Rows|null|undefined)[]} */
const numbers = layer => [...looksOf(/** @type {any} */ (layer)), ...partsOf(layer).flatMap(looksOf)]

/** @param {Rows|null|undefined} a @param {Rows|null|undefined} b @param {number} frame */
function sameRow(a, b, frame) {
  if (a === b) return true
  if (!a || !b) return false
  const before = a.at(frame), after = b.at(frame)
  return before.length === after.length && before.every((value, i) => value === after[i])
}

/**
 * What tells of a frame whether it looks the same in both.
 * @param {StageScene} before @param {StageScene} after @returns {(frame: number) => boolean}
 */
export function alike(before, after) {
  if (before === after) return () => true
  const same = (/** @type {unknown} */ a, /** @type {unknown} */ b) => JSON.stringify(a) === JSON.stringify(b)
  if (!same(before.settings, after.settings) || !same(before.program, after.program)) return () => false
  const known = new Map(before.layers.map(layer => [layer.id, layer]))
  const drawn = new Set(after.program.map(([, id]) => id))
  const changed = after.layers.flatMap(layer => {
    const old = known.get(layer.id)
    return drawn.has(layer.id) && old !== layer ? [{layer, old, same: Boolean(old) && parts(old) === parts(layer)}] : []
  })
  return frame => changed.every(({layer, old, same: isSame}) => {
    if (!old) return false
    const alone = [old, layer].every(each => !countBeside(each) && !each.mirror.length)
    if (alone && opacityOf(old, frame) === 0 && opacityOf(layer, frame) === 0) return true
    const rows = numbers(layer)
    return isSame && numbers(old).every((row, i) => sameRow(row, rows[i], frame))
  })
}
