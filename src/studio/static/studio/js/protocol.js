/** Reads the evaluated scene as the core packs it (coaster/render/stage.py). */

/** @import {Layer, StageScene} from "./types.js" */

const FORMAT = 4
/** Numbers a node of a path: x, y, and both handles as offsets. */
export const NODE = 6
/** Numbers a frame of a ride: x, y, heading, speed, travelled, percent. */
export const COLUMNS = 6

/** @typedef {[number, number]} Block where numbers are: offset and count */
/** @typedef {(block: Block) => Float32Array} Read */

/**
 * @param {ArrayBuffer} buffer
 * @param {StageScene|null} before what parts named "same" are taken from
 * @returns {{scene: StageScene, head: any}}
 */
export function unpack(buffer, before) {
  const {head, read} = opened(buffer)
  const figures = head.figures.map((/** @type {any} */ figure) => ({verbs: figure.verbs, points: read(figure.points)}))
  const layers = head.layers.map((/** @type {any} */ told) => layerFrom(told, before, figures, read))
  const paths = head.paths.map((/** @type {any} */ told) => (told.same ? known(before?.paths, told.id) : {...told, nodes: read(told.nodes)}))
  return {scene: {settings: kept(before?.settings, head.scene), layers, paths, program: head.program}, head}
}

/** What was there before if the same is said again, so that views see that nothing changed. @template {object} T @param {T|undefined} before @param {T} now */
function kept(before, now) {
  const same = before && Object.entries(now).every(([name, value]) => before[/** @type {keyof T} */ (name)] === value)
  return same ? before : now
}

/** @param {ArrayBuffer} buffer @returns {{head: any, read: Read}} */
function opened(buffer) {
  const view = new DataView(buffer)
  const magic = String.fromCharCode(...new Uint8Array(buffer, 0, 4))
  if (magic !== "CSTR" || view.getUint32(4, true) !== FORMAT) throw new Error("The server speaks another version; reload the page.")
  const size = view.getUint32(8, true)
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 12, size)))
  const numbers = new Float32Array(buffer, 12 + size)
  return {head, read: ([offset, count]) => numbers.subarray(offset, offset + count)}
}

/** @param {any} told @param {StageScene|null} before @param {object[]} figures @param {Read} read @returns {Layer} */
function layerFrom(told, before, figures, read) {
  if (told.same) return known(before?.layers, told.id)
  const now = {maps: read(told.maps), opacities: read(told.opacities)}
  if (told.pose) return {...known(before?.layers, told.id), ...now}
  const maybe = (/** @type {Block|null} */ block) => (block ? read(block) : null)
  return {
    ...told, ...now,
    spots: maybe(told.spots),
    faces: {list: told.faces.list.map((/** @type {any} */ face) => faceFrom(face, figures)), which: maybe(told.faces.which)},
    paints: told.paints && {fill: maybe(told.paints.fill), stroke: maybe(told.paints.stroke), width: maybe(told.paints.width)},
    ride: told.ride && {...told.ride, rows: read(told.ride.rows), passes: read(told.ride.passes)},
    keys: told.keys.map((/** @type {any} */ track) => ({...track, values: read(track.values), reaches: read(track.reaches), colours: maybe(track.colours ?? null)})),
  }
}

/** @param {any} face @param {object[]} figures */
const faceFrom = (face, figures) => ({...face, outlines: face.outlines.map((/** @type {any} */ outline) => ({...outline, figure: figures[outline.figure]}))})

/** @template {{id: string}} T @param {T[]|undefined} things @param {string} id @returns {T} */
function known(things, id) {
  const thing = things?.find(each => each.id === id)
  if (!thing) throw new Error("This window lost track of the scene; reload the page.")
  return thing
}
