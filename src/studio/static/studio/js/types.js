/**
 * What the modules pass to each other. Nothing runs here.
 *
 * @import {Rows} from "./rows.js"
 *
 * @typedef {{verbs: string, points: Float32Array}} Figure verbs M, L, C and Z, and the points they take
 * @typedef {{form: "linear"|"radial", start: Point, end: Point, colours: string[], offsets: number[]}} Ramp a gradient, in px of its layer
 * @typedef {{figure: Figure, fill: string|Ramp|null, side: "middle"|"inside"|"outside", stroke: string|null, width: number, cap: CanvasLineCap, join: CanvasLineJoin,
 *   dash: [number, number]|null, offset: number, miter: number, under: boolean}} Outline
 * @typedef {{box: [number, number, number, number], picture: [string, number]|null, mix: [number, number]|null, outlines: Outline[]}} Face
 * @typedef {{list: Face[], which: Rows|null}} Faces its looks, and which of them in each frame
 * @typedef {{fill: Rows|null, stroke: Rows|null, width: Rows|null, offset: Rows|null, stops: [number, Rows][], stopsAt: [number, Rows][]}} Paints
 * @typedef {{figure: Figure, how: "add"|"take"|"meet", maps: Rows}} Cut
 * @typedef {{cuts: Cut[], inverted: boolean, grow: Rows, blur: Rows, strength: Rows}} Cover a mask
 * @typedef {{stand: boolean, fill: boolean, stroke: boolean, trace: boolean, hold: boolean, last: boolean, show: boolean, view: boolean, light: boolean}} Can
 * @typedef {ArrayLike<number>} Matrix six numbers, in the order of SVG's matrix(), or nine (see matrices.js)
 * @typedef {{position: number, angle: number, speed: number, clean: boolean, unseen: boolean, reasons: string[]}} Seam
 * @typedef {{id: string, time: number, distance: number, node: string|null, at: Point, reaches: [number, number],
 *   speeds: [number, number, number|null, number|null]}} Peg its speeds in px/s: come to, left with, and the most they may be
 * @typedef {[id: string, time: number, value: number]} Key
 * @typedef {{property: string, values: Rows, keys: Key[], reaches: Float32Array, steps: string[],
 *   colours: Rows|null, hex?: string[]}} Track a property over
 *   time: a value a frame, its keys, and for each how it is come to and left: time and distance, as shares of the section
 * @typedef {{path: string, start: number, end: number, length: number, limited: boolean, average: number,
 * rows: Rows, pegs: Peg[], relative: boolean, after: [string, "ends"|"starts"|"passes"]|null, spot: Point|null, unturned: number[]}} Ride
 * @typedef {{text: string, size: number, weight: number, align: "left"|"centre"|"right", leading: number, tracking: number,
 *   wrap: number|null, files: string[]}} Words of a text, and the files of its font
 * @typedef {{kind: "item"|"push"|"through"|"pop"|"sort"|"part"|"sorted", away?: Rows|null, maps?: Rows, opacities?: Rows, faces?: Faces, paints?: Paints|null, cover?: Cover|null, tint?: Rows|null,
 *   inside?: Inside[]|null, kept?: boolean, space?: Rows|null, blend?: string, soft?: number, image?: boolean, stencil?: "alpha"|"brightness", stencilInverted?: boolean}} Inside a step of what a layer shows of another scene, in that one's px
 * @typedef {{id: string, kind: string, when: "at"|"before"|"during"|"after"|"peg"|"node", start: number, from: number, to: number, again: number[]}} Accent from which frame to which it goes on, and from which again
 * @typedef {{lanes: number, maps: Rows, opacities: Rows, which: Rows|null, looks: Layer[]}} Crowd many that look as their layer does, or like those of several looks that they are, as if these were layers: so many times the numbers a frame
 * @typedef {{id: string, name: string, parent: string|null, visible: boolean, seen: boolean, locked: boolean, guide: boolean, can: Can,
 *   pickedBy: "box"|"ink", inParts: boolean, still: boolean, ground: boolean, placed: boolean, faces: Faces, paints: Paints|null,
 *   blend: string, soft?: number, image?: boolean, cover: Cover|null, stencil: "alpha"|"brightness"|null, stencilInverted: boolean,
 *   maps: Rows, opacities: Rows, spots: Rows|null, ride: Ride|null,
 *   keys: Track[], seam: Seam|null, carrier: string|null, radius: number|null, words: Words|null, kind: string, shown: [number, number]|null, film: Film|null, accents: Accent[], follows: string[], shows: string|null, maskedBy: string[], inside: Inside[]|null, copies: Inside[], crowd: Crowd|null, tint: Rows|null, away: Rows|null, lift: Rows|null, space: Rows|null, mirror: Inside[]}} Layer what the core tells of one; read it by layers.js
 * @typedef {{id: string, name: string, parent: string|null, visible: boolean, locked: boolean, colour: string|null, loops: boolean,
 *   drawn: string, parts: ([string, string]|null)[], d: string, ids: string[], nodes: Float32Array, marks: string[], runs: [number, boolean][],
 *   start: [number, number, number], box: [number, number, number, number], length: number, matrix?: Matrix, seen?: string, depths?: Float32Array, cubics?: Float32Array}} Path
 *   with a matrix where it is seen through its group's, or as it is seen in perspective; of one in depth how deep each node is, and its handles behind that, and its cubics in space; of one that is made of other paths, of each node whose it is: that path's id and the node's
 * @typedef {{width: number, height: number, fps: number, rate: string, length: number, background: string|null}} Settings
 * @typedef {{settings: Settings, layers: Layer[], paths: Path[], program: ["item"|"push"|"through"|"pop"|"sort"|"part"|"sorted", string|null][], lift: number[], side?: Side, whole?: StageScene}} StageScene with a side it is drawn from there, and flat on the paper; whole is what it was made of
 * @typedef {"above"|"side"} Side from where a scene is drawn beside its picture
 *
 * @typedef {[number, number]} Point
 * @typedef {[number, number, number]} Place with its depth
 * @typedef {{kind: "layer"|"path", id: string, ids?: readonly string[]}} Chosen what is selected: of several layers the last one, and all
 * @typedef {{x?: number, y?: number, line?: [Point, Point]}} Guide where something snapped to, in scene px
 * @typedef {{d?: string, dots?: Point[], stems?: [Point, Point][], ring?: Point|null, band?: [Point, Point]|null,
 *   plus?: Point|null}} Draft what a tool shows before there is anything to keep, in scene px
 * @typedef {{nodeSize: number, railWidth: number, handles: "chosen"|"all"|"none", snap: boolean, rails: boolean, ghosts: boolean, compare: boolean, unturned: boolean, along: "none"|"time"|"way"}} Prefs
 * @typedef {{
 *   scene: StageScene|null, look: StageScene|null, revision: number, arrived: number, frame: number, playing: boolean, loop: boolean, rate: number, range: [number, number]|null, span: [number, number]|null,
 *   pin: boolean, graph: "speed"|"distance"|"place"|"keys", property: string, draws: boolean, picked: readonly string[],
 *   chosen: Chosen|null, inside: string|null, solo: readonly string[], folded: readonly string[], nodes: readonly string[], rider: string|null, tool: string, figure: string, options: Record<string, string>, shape: string,
 *   guides: readonly Guide[], draft: Draft|null, prefs: Prefs, notes: Record<string, string>,
 *   second: ""|Side|"all", planes: Planes, undo: string, redo: string, kept: "kept"|"keeping"|"waiting"|"failed", sent: number
 * }} State
 * @typedef {{front: number, above: number|null, side: number|null}} Planes in which plane each view draws: how deep, how far down, how far to the right; none is the middle
 * @typedef {{update: (change: {state: State, previous: State}) => void, destroy?: () => void}} View
 *
 * @typedef {{form: string, fields: Record<string, string>}|{commands: object[]}} Edit
 *
 * @typedef {{event: PointerEvent, target: Element, point: Point, near: number}} At a place on the stage: in scene px,
 *   and how near is near, in scene px
 * @typedef {{move: (at: At) => void, drop: (at: At) => void, cancel: () => void, eager?: boolean}} Drag an eager one is told of
 *   movements as they come in, not only once a picture
 * @typedef {{cursor: string, hint: () => string, press: (at: At) => Drag|null|void, hover?: (at: At) => string|void,
 *   key?: (event: KeyboardEvent) => boolean, leave?: () => void, double?: (at: At) => void}} Tool
 */

/** @typedef {{from: number, to: number, after: "hold"|"repeat"|"return"|"vanish"}} Film frames in which footage is played once, and what comes then */
export {}
