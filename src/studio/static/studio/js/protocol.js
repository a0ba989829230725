/** Reads the evaluated scene as the core packs it (coaster/render/stage.py). */

/** @import {StageScene} from "./types.js" */

const FORMAT = 3
/** Numbers a node of a path: x, y, and both handles as offsets. */
export const NODE = 6
/** Numbers a frame of a ride: x, y, heading, speed, travelled, percent. */
export const COLUMNS = 6

/**
 * @param {ArrayBuffer} buffer
 * @param {StageScene|null} before what parts named "same" are taken from
 * @returns {{scene: StageScene, head: any}}
 */
export function unpack(buffer, before) {
  const view = new DataView(buffer)
  const magic = String.fromCharCode(...new Uint8Array(buffer, 0, 4))
  if (magic !== "CSTR" || view.getUint32(4, true) !== FORMAT) throw new Error("The server speaks another version; reload the page.")
  const size = view.getUint32(8, true)
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 12, size)))
  const numbers = new Float32Array(buffer, 12 + size)
  /** @param {[number, number]} block */
  const block = ([offset, count]) => numbers.subarray(offset, offset + count)
  const layers = head.layers.map((/** @type {any} */ layer) => {
    if (layer.same) return found(before?.layers, layer.id)
    const now = {matrices: block(layer.matrices), opacities: block(layer.opacities)}
    if (layer.pose) return {...found(before?.layers, layer.id), ...now}
    const ride = layer.ride && {...layer.ride, rows: block(layer.ride.rows), passes: block(layer.ride.passes)}
    const places = layer.places && block(layer.places)
    const keys = layer.keys.map((/** @type {any} */ track) => ({...track, values: block(track.values), reaches: block(track.reaches), colours: track.colours ? block(track.colours) : null}))
    return {...layer, ...now, ride, keys, places, figures: layer.figures && {...layer.figures, which: block(layer.figures.which), sizes: block(layer.figures.sizes)}}
  })
  const paths = head.paths.map((/** @type {any} */ path) => (path.same ? found(before?.paths, path.id) : {...path, nodes: block(path.nodes)}))
  return {scene: {settings: head.scene, layers, paths}, head}
}

/** @template {{id: string}} T @param {T[]|undefined} things @param {string} id @returns {T} */
function found(things, id) {
  const thing = things?.find(t => t.id === id)
  if (!thing) throw new Error("This window lost track of the scene; reload the page.")
  return thing
}
