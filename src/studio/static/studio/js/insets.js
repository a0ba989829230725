/** Scenes in scenes on the stage: what a layer shows of another scene, as steps of the program of this one. */

import {composed, growth} from "./matrices.js"

/** @import {Inside, Layer} from "./types.js" */
/** @import {Rows} from "./rows.js" */

/** Numbers of two that are told apart, as one: what reads rows reads these alike. */
class Joined {
  /** @param {(frame: number) => Float32Array} at @param {boolean} still */
  constructor(at, still) {
    this.at = at
    this.single = still ? at(0) : null
  }
}

/** @param {(frame: number) => Float32Array} at @param {(Rows|null)[]} of @returns {Rows} */
const joined = (at, of) => /** @type {any} */ (new Joined(at, of.every(rows => !rows || rows.single)))

/**
 * Maps that lie under others, frame by frame.
 * @param {Rows} outer @param {Rows} inner @returns {Rows}
 */
const under = (outer, inner) => joined(frame => composed(outer.at(frame), inner.at(frame)), [outer, inner])

/** Px of the inner scene as they are seen in this one. @param {Rows} px @param {Rows} outer @returns {Rows} */
const seen = (px, outer) => joined(frame => Float32Array.of(px.at(frame)[0] * growth(outer.at(frame), [0, 0])), [px, outer])

/** @typedef {{kind: Inside["kind"]|"crowd", layer: Layer}} Within */
/** @type {WeakMap<Layer, Within[]>} */
const known = new WeakMap(), mirrors = new WeakMap()

/**
 * What is drawn of a layer: itself or, where it shows another scene, that; behind it its copies.
 * @param {Layer} layer @returns {Within[]}
 */
export function stepsWithin(layer) {
  if (!layer.inside && !layer.copies.length && !layer.crowd) return [{kind: "item", layer}]
  let steps = known.get(layer)
  if (!steps) known.set(layer, steps = [...crowdSteps(layer), ...[...copiesOf(layer).reverse(), layer].flatMap(shownSteps)])
  return steps
}

/** @param {Layer} layer @returns {Within[]} */
const crowdSteps = layer => layer.crowd ? [{kind: "crowd", layer}] : []

/** @param {Layer} layer @returns {Within[]} */
const shownSteps = layer => layer.inside ? placedSteps(layer, layer.inside) : [{kind: "item", layer}]

/** The riders beside a layer, as if they were layers, from the one next to it on. @param {Layer} layer @returns {Layer[]} */
export const copiesOf = layer => layer.copies.map(({maps, opacities, faces, paints, inside, away, space}, i) => /** @type {Layer} */ ({
  ...layer, id: `${layer.id}.${i + 1}`, copies: [], maps, opacities, away: away ?? null, space: space ?? null, faces: faces ?? layer.faces, paints: paints ?? layer.paints,
  inside: inside ?? layer.inside,
}))

/** What is drawn of a layer's image on the ground, which is told in px of the scene. @param {Layer} layer @returns {Within[]} */
export function mirrorSteps(layer) {
  let steps = mirrors.get(layer)
  if (!steps) mirrors.set(layer, steps = placedSteps(layer, layer.mirror, standing))
  return steps
}

/** @param {Inside} part @param {Layer} layer @param {number} index */
const standing = (part, layer, index) => /** @type {Layer} */ ({
  ...layer, ...part, maps: part.maps ?? layer.maps, cover: part.cover ?? null, opacities: part.opacities ?? layer.opacities, tint: part.tint ?? null,
  faces: part.faces ?? layer.faces, paints: part.paints ?? null, blend: part.blend ?? "normal", id: `${layer.id}~${index}`, can: {...layer.can, hold: true},
  inside: null, copies: [], crowd: null, mirror: [],
})

/**
 * What is laid on at a pop is what its push began.
 * @param {Layer} layer @param {Inside[]} inside @param {typeof placed} make @returns {Within[]}
 */
function placedSteps(layer, inside, make = placed) {
  const open = /** @type {Layer[]} */ ([])
  return inside.map((part, i) => {
    if (part.kind === "pop") return {kind: part.kind, layer: /** @type {Layer} */ (open.pop())}
    const made = make(part, layer, i)
    if (part.kind === "push") open.push(made)
    return {kind: part.kind, layer: made}
  })
}

/** A part of another scene, as if it were a layer of this one. @param {Inside} part @param {Layer} layer @param {number} index */
function placed(part, layer, index) {
  const maps = part.maps ? under(layer.maps, part.maps) : layer.maps
  const cover = part.cover && {
    ...part.cover,
    cuts: part.cover.cuts.map(cut => ({...cut, maps: under(layer.maps, cut.maps)})),
    blur: seen(part.cover.blur, layer.maps),
  }
  // All of it is as faint as the layer is.
  const opacities = index ? part.opacities ?? layer.opacities : layer.opacities
  return /** @type {Layer} */ ({
    ...part, maps, cover, opacities, id: `${layer.id}/${index}`, guide: layer.guide && !index, can: {...layer.can, hold: true},
    faces: part.faces ?? layer.faces, paints: part.paints ?? null, blend: part.blend ?? "normal", tint: part.tint ?? null, still: layer.still,
    soft: (part.soft ?? 0) && (part.soft ?? 0) * growth(layer.maps.at(0), [0, 0]),
  })
}

/** Goes to a scene that one of this shows, with a way back. @param {string} shows */
export function openShown(shows) {
  const {scene} = /** @type {HTMLElement} */ (document.getElementById("editor")).dataset
  location.assign(`/scenes/${shows}/?from=${scene}`)
}
