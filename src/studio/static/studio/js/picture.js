/** Runs the display program of one frame on the stage's canvas: the same program the renderer runs. */

import {path2dOf} from "./figures.js"
import {faceOf, isMoved, matrixOf, opacityOf, outlinesOf, spotOf} from "./layers.js"
import {chosenLayer, shown, tellingRider} from "./store.js"

/** @import {Layer, Outline, StageScene, State, View} from "./types.js" */

/** @typedef {[Layer, number, number, Float32Array?]} Ghost a pale copy: of which layer, in which frame, how strong, elsewhere than it is */

/** @typedef {{kind: "item"|"push"|"pop", layer: Layer}} Step a step of the program, with the layer it is about */

/** @param {StageScene} scene @returns {Step[]} */
function stepsOf({layers, program}) {
  const byId = new Map(layers.map(layer => [layer.id, layer]))
  return program.map(([kind, id]) => ({kind, layer: /** @type {Layer} */ (byId.get(id))}))
}

/** A picture and copies of it at half sizes, so that small ones are neither jagged nor slow. */
class Sprite {
  /** @param {string} address @param {() => void} arrived @param {() => void} failed */
  constructor(address, arrived, failed) {
    this.image = new Image()
    /** @type {(HTMLImageElement|HTMLCanvasElement)[]} */
    this.levels = []
    /** Whether all of it is there: its size is known before that, and half a picture must not be kept. */
    this.loaded = false
    this.settled = new Promise(settle => {
      this.image.onload = () => {
        this.loaded = true
        arrived()
        settle(undefined)
      }
      this.image.onerror = () => {
        failed()
        settle(undefined)
      }
    })
    this.image.src = address
  }

  /** @param {number} scale shown px per px of the file */
  at(scale) {
    const wanted = Math.max(0, Math.floor(-Math.log2(Math.min(scale, 1)) + 1e-6))
    if (!this.levels.length) this.levels.push(this.image)
    while (this.levels.length <= wanted) {
      const from = this.levels[this.levels.length - 1]
      const canvas = document.createElement("canvas")
      canvas.width = Math.max(1, Math.round(from.width / 2))
      canvas.height = Math.max(1, Math.round(from.height / 2))
      const small = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"))
      small.imageSmoothingQuality = "high"
      small.drawImage(from, 0, 0, canvas.width, canvas.height)
      this.levels.push(canvas)
    }
    return this.levels[wanted]
  }
}

/** @param {CanvasRenderingContext2D} context @param {Outline} outline */
function drawOutline(context, outline) {
  const path = path2dOf(outline.figure)
  if (outline.fill) {
    context.fillStyle = outline.fill
    context.fill(path)
  }
  if (outline.stroke && outline.width > 0) {
    context.strokeStyle = outline.stroke
    context.lineWidth = outline.width
    context.lineCap = context.lineJoin = "round"
    context.setLineDash(outline.dash ?? [])
    context.stroke(path)
  }
}

/**
 * @param {HTMLCanvasElement} canvas
 * @param {{assets: string, view: import("./view.js").StageView, say: (words: string, bad?: boolean) => void}} options
 *   the address of pictures; how the scene lies on the stage, which the canvas covers
 * @returns {View & {redraw: () => void, whenReady: () => Promise<unknown>}}
 */
export function createPicture(canvas, {assets, view, say}) {
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"))
  /** @type {Map<string, Sprite>} */
  const sprites = new Map()
  /** @type {{scene: StageScene, frame: number, ghosts: Ghost[]}|null} */
  let last = null
  /** @type {{key: unknown[], image: HTMLCanvasElement}|null} */
  let still = null
  /** @type {HTMLCanvasElement[]} */
  const sheets = []

  /** @param {string} asset */
  function sprite(asset) {
    let found = sprites.get(asset)
    if (!found) {
      const arrived = () => {
        still = null
        redraw()
      }
      found = new Sprite(assets + asset, arrived, () => say("A picture could not be loaded; reload the page to try again.", true))
      sprites.set(asset, found)
    }
    return found
  }

  /** @param {CanvasRenderingContext2D} on @param {Layer} layer @param {number} frame @param {number} [strength] @param {Float32Array} [matrix] */
  function drawLayer(on, layer, frame, strength = 1, matrix = matrixOf(layer, frame)) {
    const [a, b, c, d, e, f] = matrix
    const s = view.scale * devicePixelRatio
    const left = view.left * devicePixelRatio, top = view.top * devicePixelRatio
    on.setTransform(a * s, b * s, c * s, d * s, e * s + left, f * s + top)
    on.globalAlpha = strength * opacityOf(layer, frame)
    const {picture, box} = faceOf(layer, frame)
    if (picture) {
      const shown = sprite(picture[0])
      if (!shown.loaded) return
      const stretch = (Math.max(Math.hypot(a, b), Math.hypot(c, d)) * s * box[2]) / shown.image.naturalWidth
      on.drawImage(shown.at(stretch), box[0], box[1], box[2], box[3])
    }
    for (const outline of outlinesOf(layer, frame)) drawOutline(on, outline)
  }

  /** Runs steps of the program; groups drawn apart go onto a canvas of their own first. @param {CanvasRenderingContext2D} on @param {Step[]} steps @param {number} frame @param {Ghost[]} ghosts */
  function run(on, steps, frame, ghosts) {
    const stack = [on]
    for (const {kind, layer} of steps) {
      const top = stack[stack.length - 1]
      if (kind === "push") stack.push(apart(stack.length))
      else if (kind === "pop") {
        const under = stack[stack.length - 2]
        under.setTransform(1, 0, 0, 1, 0, 0)
        under.globalAlpha = opacityOf(layer, frame)
        under.drawImage(top.canvas, 0, 0)
        stack.pop()
      } else {
        for (const [pale, at, strength, matrix] of ghosts.filter(([ghost]) => ghost.id === layer.id)) drawLayer(top, pale, at, strength, matrix)
        drawLayer(top, layer, frame)
      }
    }
  }

  /** A clear canvas for what is drawn apart, one for each depth. @param {number} depth */
  function apart(depth) {
    const sheet = (sheets[depth] ??= document.createElement("canvas"))
    if (sheet.width !== canvas.width || sheet.height !== canvas.height) Object.assign(sheet, {width: canvas.width, height: canvas.height})
    const on = /** @type {CanvasRenderingContext2D} */ (sheet.getContext("2d"))
    on.setTransform(1, 0, 0, 1, 0, 0)
    on.clearRect(0, 0, sheet.width, sheet.height)
    on.imageSmoothingQuality = "high"
    return on
  }

  /** The background and the still layers behind everything that moves, drawn once. @param {StageScene} scene */
  function backdrop(scene) {
    const steps = stepsOf(scene)
    const moving = steps.findIndex(({kind, layer}) => kind !== "item" || !layer.still)
    const behind = moving < 0 ? steps : steps.slice(0, moving)
    const {width, height, background} = scene.settings
    const key = [background, width, height, canvas.width, canvas.height, view.scale, view.left, view.top, ...behind.map(({layer}) => layer)]
    if (!still || key.length !== still.key.length || key.some((part, i) => part !== still?.key[i])) {
      const image = document.createElement("canvas")
      image.width = canvas.width
      image.height = canvas.height
      const on = /** @type {CanvasRenderingContext2D} */ (image.getContext("2d"))
      on.imageSmoothingQuality = "high"
      if (background) {
        on.fillStyle = background
        const s = view.scale * devicePixelRatio
        on.fillRect(view.left * devicePixelRatio, view.top * devicePixelRatio, width * s, height * s)
      }
      for (const {layer} of behind) drawLayer(on, layer, 0)
      still = {key, image}
    }
    return {image: still.image, rest: steps.slice(behind.length)}
  }

  function redraw() {
    if (!last) return
    const {scene, frame} = last
    const width = Math.round(view.width * devicePixelRatio), height = Math.round(view.height * devicePixelRatio)
    if (canvas.width !== width || canvas.height !== height) {
      canvas.width = width
      canvas.height = height
    }
    const {image, rest} = backdrop(scene)
    context.setTransform(1, 0, 0, 1, 0, 0)
    context.globalAlpha = 1
    context.clearRect(0, 0, width, height)
    context.drawImage(image, 0, 0)
    context.imageSmoothingQuality = "high"
    run(context, rest, frame, last.ghosts)
  }

  /**
   * Pale copies of what is chosen, while nothing plays: some frames before and after, at the end of its ride and,
   * while a change is looked at, as it was.
   * @param {State} state @returns {Ghost[]}
   */
  function ghostsOf(state) {
    const layer = chosenLayer(state) ?? tellingRider(state), last = (shown(state)?.settings.length ?? 1) - 1
    if (!layer || state.playing || !isMoved(layer)) return []
    /** @type {Ghost[]} */
    const plain = []
    if (layer.ride && state.prefs.unturned) {
      const [a, b, c, d, e, f] = layer.ride.unturned, [x, y] = spotOf(layer, state.frame)
      plain.push([layer, state.frame, 0.45, new Float32Array([a, b, c, d, e + x, f + y])])
    }
    if (!state.prefs.ghosts) return plain
    // While something is dragged every picture counts: only what it was before is shown beside it.
    const kept = state.look && state.scene?.layers.find(each => each.id === layer.id)
    if (state.look) return kept && kept !== layer ? [...plain, [kept, state.frame, 0.4]] : plain
    const step = Math.max(2, Math.round((shown(state)?.settings.fps ?? 30) / 5))
    const end = layer.ride ? Math.min(Math.round(layer.ride.end), last) : last
    /** @type {Ghost[]} */
    const found = [...plain, [layer, end, 0.22], [layer, state.frame - 2 * step, 0.14], [layer, state.frame + 2 * step, 0.14],
      [layer, state.frame - step, 0.26], [layer, state.frame + step, 0.26]]
    return found.filter(([, at]) => at >= 0 && at <= last)
  }

  return {
    redraw,
    whenReady() {
      for (const layer of last?.scene.layers ?? []) for (const {picture} of layer.faces.list) if (picture) sprite(picture[0])
      return Promise.all([...sprites.values()].map(s => s.settled))
    },
    update({state, previous}) {
      const scene = shown(state)
      const other = /** @type {const} */ (["frame", "chosen", "rider", "playing", "prefs", "arrived"]).some(name => state[name] !== previous[name])
      if (!scene || (scene === shown(previous) && !other)) return
      const fresh = scene !== last?.scene
      last = {scene, frame: state.frame, ghosts: ghostsOf(state)}
      redraw()
      if (fresh) performance.mark("stage-drawn")
    },
  }
}
