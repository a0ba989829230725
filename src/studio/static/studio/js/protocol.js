/** Reads the evaluated scene as the core packs it (coaster/render/stage.py). */

import {Rows} from "./rows.js"
import {tr} from "./words.js"

/** @import {Cover, Faces, Inside, Layer, Paints, StageScene} from "./types.js" */
/** @import {Told} from "./rows.js" */

const FORMAT = 18
/** Numbers a node of a path: x, y, and both handles as offsets. */
export const NODE = 6
/** Numbers a frame of a ride: x, y, heading, speed, travelled, percent. */
export const COLUMNS = 6
/** Numbers of a map in the plane. */
const MAP = 6

/** @typedef {[number, number]} Block where numbers are: offset and count */
/** @typedef {(block: Block) => Float32Array} Read */

/**
 * @param {ArrayBuffer} buffer
 * @param {StageScene|null} before what parts named "same" are taken from
 * @returns {{scene: StageScene, head: any}}
 */
export function unpack(buffer, before) {
  const {head, read} = opened(buffer)
  const figures = figuresIn(head, read)
  /** @type {Told} */
  const told = {length: head.scene.length, block: head.block, list: head.frames && Array.from(read(head.frames))}
  const rows = rowsIn(read, told)
  const layers = head.layers.map((/** @type {any} */ layer) => layerFrom(layer, before, figures, rows, read))
  const paths = head.paths.map((/** @type {any} */ told) => told.same ? known(before?.paths, told.id) : pathFrom(told, read))
  return {scene: {settings: kept(before?.settings, head.scene), layers, paths, program: head.program, lift: head.lift}, head}
}

/** @param {any} told @param {Read} read @returns {import("./types.js").Path} */
const pathFrom = (told, read) => ({...told, nodes: read(told.nodes), depths: told.depths && read(told.depths), cubics: told.cubics && read(told.cubics)})

/** @param {any} head @param {Read} read @returns {object[]} */
const figuresIn = (head, read) => head.figures.map((/** @type {any} */ figure) => ({verbs: figure.verbs, points: read(figure.points)}))

/**
 * What was there before if the same is said again, so that views see that nothing changed.
 * @template {object} T @param {T|undefined} before @param {T} now
 */
function kept(before, now) {
  const same = before && Object.entries(now).every(([name, value]) => before[/** @type {keyof T} */ (name)] === value)
  return same ? before : now
}

/** @param {ArrayBuffer} buffer @returns {{head: any, read: Read}} */
function opened(buffer) {
  const view = new DataView(buffer)
  const magic = String.fromCharCode(...new Uint8Array(buffer, 0, 4))
  if (magic !== "CSTR" || view.getUint32(4, true) !== FORMAT) throw new Error(tr`The server speaks another version; reload the page.`)
  const size = view.getUint32(8, true)
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 12, size)))
  const numbers = new Float32Array(buffer, 12 + size)
  return {head, read: ([offset, count]) => numbers.subarray(offset, offset + count)}
}

/**
 * Numbers of so many a frame; none where there is no block.
 * @typedef {(block: Block|null|undefined, width: number) => any} MakeRows
 */

/** @param {Read} read @param {Told} told @returns {MakeRows} */
const rowsIn = (read, told) => (block, width) => block ? new Rows(read(block), width, told) : null

/** What lies over a layer: a colour and its alpha, or factors of red, green and blue and what is added. @param {[number, number, number]|null} told @param {MakeRows} rows */
const tintIn = (told, rows) => rows(told && [told[0], told[1]], told?.[2] ?? 4)

/**
 * @param {any} told @param {StageScene|null} before @param {object[]} figures @param {MakeRows} rows
 * @param {Read} read @returns {Layer}
 */
function layerFrom(told, before, figures, rows, read) {
  if (told.same) return known(before?.layers, told.id)
  const now = {maps: mapsIn(told.maps, rows), opacities: rows(told.opacities, 1), away: rows(told.away, 1), lift: rows(told.lift, 12), space: rows(told.space, told.space?.[2] ?? 0), cover: told.cover && coverFrom(told.cover, figures, rows)}
  const crowd = told.crowd && crowdFrom(told.crowd, rows), tint = tintIn(told.tint, rows)
  const mirror = told.mirror.map((/** @type {any} */ step) => insideFrom(step, figures, rows))
  const copies = told.copies.map((/** @type {any} */ step) => insideFrom(step, figures, rows))
  const besideNow = (/** @type {Inside[]} */ was) => told.parts ? placed(was, told.parts, rows) : posed(was, copies)
  if (told.pose) {
    const was = known(before?.layers, told.id)
    const {still, ground} = told, put = "spots" in told ? {still, ground, spots: rows(told.spots, 2)} : {}
    return withLooks({...was, ...now, ...put, copies: besideNow(was.copies), crowd, tint, mirror: mirror.length ? mirror : was.mirror}, told, figures)
  }
  return withLooks({
    ...told, ...now,
    spots: rows(told.spots, 2),
    // In a glance, what looks as it did is not told.
    seam: "seam" in told ? told.seam : before?.layers.find(each => each.id === told.id)?.seam ?? null,
    faces: told.faces ? facesFrom(told.faces, figures, rows) : known(before?.layers, told.id).faces,
    paints: told.paints && paintsFrom(told.paints, rows),
    inside: told.inside && told.inside.map((/** @type {any} */ step) => insideFrom(step, figures, rows)),
    // Of those that stand for it a glance leaves out what they look like, where that is as it was.
    copies: besideNow(before?.layers.find(each => each.id === told.id)?.copies ?? []), crowd, tint, mirror,
    ride: told.ride && {...told.ride, rows: rows(told.ride.rows, COLUMNS)},
    keys: told.keys.map((/** @type {any} */ track) => (
      {...track, values: rows(track.values, 1), reaches: read(track.reaches), colours: rows(track.colours, 4)}
    )),
  }, told, figures)
}

/** Copies where they are now, with looks that are kept as they were. @param {Inside[]} before @param {Inside[]} now */
const posed = (before, now) => now.map((copy, i) => copy.kept ? {...copy, faces: before[i]?.faces, paints: before[i]?.paints} : copy)

/**
 * What stands for a layer, where it is now, with looks as they were.
 * @param {Inside[]} before @param {{maps: Block, opacities: Block}} told @param {MakeRows} rows @returns {Inside[]}
 */
const placed = (before, {maps: [map], opacities: [opacity]}, rows) => before.map((part, i) => (
  {...part, maps: rows([map + MAP * i, MAP], MAP), opacities: rows([opacity + i, 1], 1)}
))

/**
 * Puts blocks of frames into the layers they are told of.
 * @param {ArrayBuffer} buffer
 * @param {Map<string, Layer>} layers as they were when the blocks were asked for
 */
export function putBlocks(buffer, layers) {
  const {head, read} = opened(buffer)
  const figures = figuresIn(head, read)
  for (const told of head.layers) {
    const layer = /** @type {Layer} */ (layers.get(told.id))
    const put = (/** @type {Rows|null|undefined} */ rows, /** @type {Block|null|undefined} */ block) => {
      if (rows && block && !rows.single) rows.put(head.first, read(block))
    }
    /** @param {Inside} part @param {any} said */
    const putLook = (part, said) => {
      put(part.maps, said.maps)
      put(part.opacities, said.opacities)
      put(part.tint, said.tint)
      put(part.away, said.away)
      if (part.cover && said.cover) putCover(part.cover, said.cover, put)
      for (const brush of /** @type {const} */ (["fill", "stroke", "width", "offset"])) put(part.paints?.[brush], said.paints?.[brush])
      for (const stops of /** @type {const} */ (["stops", "stopsAt"])) part.paints?.[stops].forEach(([, rows], i) => put(rows, said.paints?.[stops][i][1]))
      if (!part.faces?.which) return
      const faces = said.faces.list.map((/** @type {any} */ face) => faceFrom(face, figures))
      putFaces(part.faces, faces, read(said.faces.which), head.first)
    }
    putLook(/** @type {any} */ (layer), told)
    layer.inside?.forEach((part, i) => putLook(part, told.inside[i]))
    layer.copies.forEach((part, i) => {
      putLook(part, told.copies[i])
      put(part.space, told.copies[i].space)
      part.inside?.forEach((each, k) => putLook(each, told.copies[i].inside[k]))
    })
    layer.mirror.forEach((part, i) => putLook(part, told.mirror[i]))
    put(layer.crowd?.maps, told.crowd?.maps)
    put(layer.crowd?.opacities, told.crowd?.opacities)
    put(layer.crowd?.which, told.crowd?.which)
    put(layer.spots, told.spots)
    put(layer.lift, told.lift)
    put(layer.space, told.space)
    put(layer.ride?.rows, told.ride?.rows)
    layer.keys.forEach((track, i) => {
      put(track.values, told.keys[i].values)
      put(track.colours, told.keys[i].colours)
    })
  }
}

/** Maps of six numbers, or as many as their block says. @param {any} block @param {MakeRows} rows @param {number} [lanes] */
const mapsIn = (block, rows, lanes = 1) => rows(block, (block?.[2] ?? 6) * lanes)

/** @param {any} told @param {object[]} figures @param {MakeRows} rows @returns {Faces} */
const facesFrom = (told, figures, rows) => ({list: told.list.map((/** @type {any} */ face) => faceFrom(face, figures)), which: rows(told.which, 1)})

/** A step of what a layer shows of another scene. @param {any} told @param {object[]} figures @param {MakeRows} rows @returns {Inside} */
const insideFrom = (told, figures, rows) => ({
  ...told, space: rows(told.space, told.space?.[2] ?? 0), maps: mapsIn(told.maps, rows), opacities: rows(told.opacities, 1), away: rows(told.away, 1), paints: told.paints && paintsFrom(told.paints, rows),
  cover: told.cover && coverFrom(told.cover, figures, rows), faces: told.faces && facesFrom(told.faces, figures, rows), tint: tintIn(told.tint, rows),
  inside: told.inside && told.inside.map((/** @type {any} */ step) => insideFrom(step, figures, rows)),
})

/** @param {any} told @param {MakeRows} rows @returns {import("./types.js").Crowd} */
const crowdFrom = ({lanes, maps, opacities, which}, rows) => ({lanes, maps: mapsIn(maps, rows, lanes), opacities: rows(opacities, lanes), which: rows(which, lanes), looks: []})

/**
 * The looks that a crowd has, each as a layer that has no other one.
 * @param {Layer} layer @param {any} told @param {object[]} figures @returns {Layer}
 */
function withLooks(layer, told, figures) {
  if (!layer.crowd || !told.crowd) return layer
  layer.crowd.looks = told.crowd.looks.map((/** @type {any} */ face) => (
    {...layer, faces: {list: [faceFrom(face, figures)], which: null}, paints: null, crowd: null, copies: [], inside: null}
  ))
  return layer
}

/** @param {any} told @param {MakeRows} rows @returns {Paints} */
function paintsFrom(told, rows) {
  const numbered = (/** @type {[number, Block][]} */ list, /** @type {number} */ width) => list.map(([i, block]) => [i, rows(block, width)])
  return /** @type {any} */ ({
    fill: rows(told.fill, 4), stroke: rows(told.stroke, 4), width: rows(told.width, 1), offset: rows(told.offset, 1),
    stops: numbered(told.stops, 4), stopsAt: numbered(told.stopsAt, 1),
  })
}

/** @param {any} told @param {object[]} figures @param {MakeRows} rows @returns {Cover} */
const coverFrom = (told, figures, rows) => ({
  cuts: told.cuts.map((/** @type {any} */ cut) => ({...cut, figure: figures[cut.figure], maps: mapsIn(cut.maps, rows)})),
  inverted: told.inverted, grow: rows(told.grow, 1), blur: rows(told.blur, 1), strength: rows(told.strength, 1),
})

/** @param {Cover} cover @param {any} told @param {(rows: Rows, block: Block) => void} put */
function putCover(cover, told, put) {
  for (const name of /** @type {const} */ (["grow", "blur", "strength"])) put(cover[name], told[name])
  cover.cuts.forEach((cut, i) => put(cut.maps, told.cuts[i].maps))
}

/**
 * Adds looks, and which of them in each frame.
 * @param {Faces} faces @param {import("./types.js").Face[]} list @param {Float32Array} which @param {number} first
 */
function putFaces(faces, list, which, first) {
  const before = faces.list.length
  faces.list.push(...list)
  faces.which?.put(first, which.map(index => index + before))
}

/** @param {any} face @param {object[]} figures */
function faceFrom(face, figures) {
  const outlines = face.outlines.map((/** @type {any} */ outline) => ({...outline, figure: figures[outline.figure]}))
  return {...face, outlines}
}

/** @template {{id: string}} T @param {T[]|undefined} things @param {string} id @returns {T} */
function known(things, id) {
  const thing = things?.find(each => each.id === id)
  if (!thing) throw new Error(tr`This window lost track of the scene; reload the page.`)
  return thing
}
