/**
 * What the modules pass to each other. Nothing runs here.
 *
 * @typedef {{d: string, fill: string|null, stroke: string|null, width: number, dash: [number, number]|null}} Outline
 * @typedef {{box: [number, number, number, number], asset: string|null, outlines: Outline[]}} Drawable
 * @typedef {{position: number, angle: number, speed: number, clean: boolean, unseen: boolean, reasons: string[]}} Seam
 * @typedef {{id: string, time: number, distance: number, node: string|null, at: Point, reaches: [number, number],
 *   speeds: [number, number, number|null, number|null]}} Peg its speeds in px/s: come to, left with, and the most they may be
 * @typedef {[id: string, time: number, value: number]} Key
 * @typedef {{property: string, values: Float32Array, keys: Key[], reaches: Float32Array, steps: string[],
 *   colours: Float32Array|null, hex?: string[]}} Track a property over
 *   time: a value a frame, its keys, and for each how it is come to and left: time and distance, as shares of the section
 * @typedef {{path: string, start: number, end: number, length: number, limited: boolean, average: number,
 *   peak: {speed: number, frame: number}, rows: Float32Array, passes: Float32Array, pegs: Peg[], spot: Point|null, unturned: number[]}} Ride
 * @typedef {{id: string, name: string, type: string, visible: boolean, locked: boolean, opacities: Float32Array,
 *   position: [number, number], drawable: Drawable, matrices: Float32Array, ride: Ride|null,
 *   keys: Track[], seam: Seam|null, shown: [number, number]|null, places: Float32Array|null,
 *   figures: {d: string[], which: Float32Array, sizes: Float32Array}|null}} Layer
 * @typedef {{id: string, name: string, visible: boolean, locked: boolean, colour: string|null, loops: boolean, drawn: boolean, d: string,
 *   ids: string[], nodes: Float32Array, marks: string[], runs: [number, boolean][], start: [number, number, number],
 *   box: [number, number, number, number], length: number}} Path
 * @typedef {{width: number, height: number, fps: number, rate: string, length: number, background: string|null}} Settings
 * @typedef {{settings: Settings, layers: Layer[], paths: Path[]}} StageScene
 *
 * @typedef {[number, number]} Point
 * @typedef {{kind: "layer"|"path", id: string}} Chosen
 * @typedef {{x?: number, y?: number, line?: [Point, Point]}} Guide where something snapped to, in scene px
 * @typedef {{d?: string, dots?: Point[], stems?: [Point, Point][], ring?: Point|null, band?: [Point, Point]|null,
 *   plus?: Point|null}} Draft what a tool shows before there is anything to keep, in scene px
 * @typedef {{nodeSize: number, handles: "chosen"|"all"|"none", snap: boolean, rails: boolean, ghosts: boolean, compare: boolean, unturned: boolean}} Prefs
 * @typedef {{
 *   scene: StageScene|null, look: StageScene|null, revision: number, frame: number, playing: boolean, loop: boolean, rate: number, range: [number, number]|null, span: [number, number]|null,
 *   pin: boolean, graph: "speed"|"distance"|"place"|"keys", property: string, draws: boolean, picked: readonly string[],
 *   chosen: Chosen|null, nodes: readonly string[], rider: string|null, tool: string, figure: string, options: Record<string, string>, shape: string,
 *   guides: readonly Guide[], draft: Draft|null, prefs: Prefs, notes: Record<string, string>,
 *   undo: string, redo: string, kept: "kept"|"keeping"|"failed"
 * }} State
 * @typedef {{update: (change: {state: State, previous: State}) => void, destroy?: () => void}} View
 *
 * @typedef {{form: string, fields: Record<string, string>}|{commands: object[]}} Edit
 *
 * @typedef {{event: PointerEvent, target: Element, point: Point, reach: number}} At a place on the stage: in scene px,
 *   and how near is near, in scene px
 * @typedef {{move: (at: At) => void, drop: (at: At) => void, cancel: () => void, eager?: boolean}} Drag an eager one is told of
 *   movements as they come in, not only once a picture
 * @typedef {{cursor: string, hint: () => string, press: (at: At) => Drag|null|void, hover?: (at: At) => string|void,
 *   key?: (event: KeyboardEvent) => boolean, leave?: () => void, double?: (at: At) => void}} Tool
 */
export {}
