/**
 * What the modules pass to each other. Nothing runs here.
 *
 * @typedef {{d: string, fill: string|null, stroke: string|null, width: number, dash: [number, number]|null}} Outline
 * @typedef {{box: [number, number, number, number], asset: string|null, outlines: Outline[]}} Drawable
 * @typedef {{position: number, angle: number, speed: number, clean: boolean, unseen: boolean, reasons: string[]}} Seam
 * @typedef {{id: string, time: number, distance: number, node: string|null}} Peg
 * @typedef {{path: string, start: number, end: number, length: number, limited: boolean, average: number,
 *   peak: {speed: number, frame: number}, rows: Float32Array, pegs: Peg[], seam: Seam}} Ride
 * @typedef {{id: string, name: string, type: string, visible: boolean, locked: boolean, opacity: number,
 *   position: [number, number], drawable: Drawable, matrices: Float32Array, ride: Ride|null}} Layer
 * @typedef {{id: string, name: string, visible: boolean, colour: string|null, loops: boolean, d: string,
 *   nodes: [number, number, string][], start: [number, number, number], box: [number, number, number, number],
 *   length: number}} Path
 * @typedef {{width: number, height: number, fps: number, rate: string, length: number, background: string|null}} Settings
 * @typedef {{settings: Settings, layers: Layer[], paths: Path[]}} StageScene
 *
 * @typedef {{kind: "layer"|"path", id: string}} Chosen
 * @typedef {{
 *   scene: StageScene|null, look: StageScene|null, revision: number, frame: number, playing: boolean, loop: boolean,
 *   chosen: Chosen|null, tool: string, undo: string, redo: string, kept: "kept"|"keeping"|"failed"
 * }} State
 * @typedef {{update: (change: {state: State, previous: State}) => void, destroy?: () => void}} View
 *
 * @typedef {{form: string, fields: Record<string, string>}|{commands: object[]}} Edit
 */
export {}
