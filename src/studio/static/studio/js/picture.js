/** Runs the display program of one frame on the stage's canvas: the same program the renderer runs. */

import {Covers, REACH, shownBy} from "./covers.js"
import {Crowds, GUIDE, drawn} from "./crowds.js"
import {areFills, fillThrough} from "./fills.js"
import {Footage} from "./footage.js"
import {boundsOf, path2dOf} from "./figures.js"
import {mirrorSteps, stepsWithin} from "./insets.js"
import {TRAVELLED, crowdAt, faceOf, isMoved, isShownAlone, matrixOf, opacityOf, outlinesOf, rowsOf, spotOf} from "./layers.js"
import {fullOf, isDeep, onCanvas, sixOf, stretch} from "./matrices.js"
import {Planes} from "./planes.js"
import {Sheet, around, common, overlap} from "./sheets.js"
import {chosenLayer, shown, tellingRider} from "./store.js"
import {tr} from "./words.js"

/** @import {Layer, Outline, StageScene, State} from "./types.js" */

/**
 * @typedef {[Layer, number, number, Float32Array?]} Ghost a pale copy: of which layer, in which frame, how strong, elsewhere than it is
 */

/** @typedef {{kind: "item"|"crowd"|"push"|"through"|"pop"|"sort"|"part"|"sorted", layer: Layer}} Step a step of the program, with the layer it is about */
/** @typedef {{still: boolean, steps: Step[]}} Run steps in a row that look the same in every frame, or do not */

/** By how much a step goes deeper into what is drawn apart. */
const DEEPER = {push: 1, pop: -1, sort: 1, sorted: -1, part: 0, item: 0, crowd: 0, through: 0}

/** @param {StageScene} scene @param {readonly string[]} solo what is shown alone @returns {Step[]} */
function stepsOf(scene, solo) {
  const byId = new Map(scene.layers.map(layer => [layer.id, layer]))
  const steps = scene.program.map(([kind, id]) => ({kind, layer: /** @type {Layer} */ (byId.get(id ?? ""))}))
  const drawn = solo.length ? steps.filter(({kind, layer}) => kind !== "item" || isShownAlone(scene, layer, solo)) : steps
  // On the ground before what is drawn apart of it begins: it is blended and masked by itself.
  const apart = new Set(drawn.flatMap(({kind, layer}) => kind === "push" ? [layer.id] : []))
  return drawn.flatMap((step, i) => {
    if (step.kind === "sort" || step.kind === "part" || step.kind === "sorted") return [step]
    const below = step.kind === (apart.has(step.layer.id) ? "push" : "item") ? mirrorSteps(step.layer) : []
    if (step.kind !== "item") return [...below, step]
    const before = drawn[i - 1], within = stepsWithin(step.layer)
    return [...below, ...before?.kind === "part" && before.layer === step.layer ? inParts(within) : within]
  })
}

/** Steps of a layer and its copies, each a part of what is sorted. @param {Step[]} steps @returns {Step[]} */
const inParts = steps => steps.flatMap(step => step.kind === "item" ? [{kind: "part", layer: step.layer}, step] : [step])

/**
 * Steps of which those that are sorted are in order: the farthest away first, as they are in a frame.
 * @param {Step[]} steps @param {number} frame @returns {Step[]}
 */
export function inOrder(steps, frame) {
  const found = /** @type {Step[]} */ ([]), levels = [{into: found, parts: /** @type {{away: number, steps: Step[]}[]} */ ([])}]
  for (const step of steps) {
    const level = levels[levels.length - 1]
    if (step.kind === "sort") levels.push({into: level.into, parts: []})
    else if (step.kind === "part") {
      level.into = []
      level.parts.push({away: step.layer.away ? step.layer.away.at(frame)[0] : 1, steps: level.into})
    } else if (step.kind === "sorted") {
      levels.pop()
      levels[levels.length - 1].into.push(...level.parts.sort((a, b) => b.away - a.away).flatMap(part => part.steps))
    } else level.into.push(step)
  }
  return found
}

/** All that is drawn of layers. @param {readonly Layer[]} layers */
const drawnOf = layers => layers.flatMap(layer => [...mirrorSteps(layer), ...stepsWithin(layer)]).flatMap(({kind, layer}) => kind === "item" ? [layer] : [])

/**
 * The program in runs, the first of which is still, if it be an empty one; what is drawn apart counts as moving.
 * @param {StageScene} scene @param {Ghost[]} ghosts @param {readonly string[]} [solo]
 */
export function runsOf(scene, ghosts, solo = []) {
  const pale = new Set(ghosts.map(([layer]) => layer.id)), runs = [/** @type {Run} */ ({still: true, steps: []})]
  let depth = 0
  for (const step of stepsOf(scene, solo)) {
    const last = runs[runs.length - 1], isRoom = last.still || runs.length < 2 * MOST_STILL
    const still = isRoom && depth === 0 && step.kind === "item" && step.layer.still && !pale.has(step.layer.id)
    depth += DEEPER[step.kind]
    if (last.still === still) last.steps.push(step)
    else runs.push({still, steps: [step]})
  }
  return runs
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
    this.ready = new Promise(done => {
      this.image.onload = () => {
        this.loaded = true
        arrived()
        done(undefined)
      }
      this.image.onerror = () => {
        failed()
        done(undefined)
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
  const {fill, stroke, width, under} = outline
  if (stroke && width > 0) {
    context.strokeStyle = stroke
    context.lineWidth = width
    context.lineCap = outline.cap
    context.lineJoin = outline.join
    context.miterLimit = outline.miter
    context.setLineDash(outline.dash ?? [])
    context.lineDashOffset = outline.offset
  }
  const edge = () => { if (stroke && width > 0) strokeOn(context, path, outline) }
  if (under) edge()
  if (fill) {
    context.fillStyle = typeof fill === "string" ? fill : gradientOn(context, fill)
    context.fill(path)
  }
  if (!under) edge()
}

/** Of a stroke on one side of the edge the other half is cut away. @param {CanvasRenderingContext2D} context @param {Path2D} path @param {Outline} outline */
function strokeOn(context, path, {side, width}) {
  if (side === "middle") return context.stroke(path)
  context.save()
  context.lineWidth = 2 * width
  if (side === "inside") context.clip(path)
  else {
    const around = new Path2D()
    around.rect(-FAR_OUT, -FAR_OUT, 2 * FAR_OUT, 2 * FAR_OUT)
    around.addPath(path)
    context.clip(around, "evenodd")
  }
  context.stroke(path)
  context.restore()
}

/** @param {CanvasRenderingContext2D} context @param {import("./types.js").Ramp} ramp */
export function gradientOn(context, {form, start: [x1, y1], end: [x2, y2], colours, offsets}) {
  const ramp = form === "radial"
    ? context.createRadialGradient(x1, y1, 0, x1, y1, Math.hypot(x2 - x1, y2 - y1))
    : context.createLinearGradient(x1, y1, x2, y2)
  colours.forEach((colour, i) => ramp.addColorStop(offsets[i], colour))
  return ramp
}

/** Px of the longest side of what is drawn flat to be seen in perspective. */
const FINEST = 2048
/** So many frames of footage are had ready while it plays. */
const AHEAD = 12
/** What a picture is drawn anew for, beside another scene. */
const SHOWS = /** @type {const} */ (["frame", "chosen", "rider", "playing", "prefs", "arrived", "solo"])
/** Px of a layer that lie beyond all it shows. */
const FAR_OUT = 1e6
/** What is dragged and stands still for so long is drawn as what stays. */
const RESTS_MS = 250
/** So many runs of still layers are kept drawn; each takes a canvas. */
const MOST_STILL = 3
/** How strong ghosts along the path are, and how many. */
const ON_WAY = 0.2, ALONG = 24
/** How strong ghosts are: unturned, as it was, at the end, farther off and nearer. */
const UNTURNED = 0.45, BEFORE = 0.4, END = 0.22, FAR = 0.14, NEAR = 0.26

export class Picture {
  /** @type {Map<string, Sprite>} */
  #sprites = new Map()
  /** @type {{scene: StageScene, solo: readonly string[], frame: number, playing: boolean, ghosts: Ghost[], brief: boolean, stays: boolean}|null} */
  #last = null
  /** Runs of still layers as they were drawn last, the first with the background. @type {{key: unknown[], image: HTMLCanvasElement}[]} */
  #still = []
  /** What is drawn apart, one for each depth. @type {Sheet[]} */
  #sheets = []
  #covers = new Covers()
  #crowds = new Crowds()
  #planes = new Planes()
  /** Stencils that are being drawn, by their depths. @type {Map<number, Layer>} */
  #stencils = new Map()
  /** What draws again, as well as it can be, what stays for a while. */
  #rest = 0
  /** Frames that are kept as they were drawn. @type {import("./ahead.js").Ahead|null} */
  ahead = null
  #aside = document.createElement("canvas")
  #lay = ""

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {{assets: string, footage: import("./footage.js").Small, view: import("./view.js").StageView, say: (words: string, bad?: boolean) => void}} options
   *   where pictures and small frames are; how the scene lies on the stage, which the canvas covers
   */
  constructor(canvas, {assets, footage, view, say}) {
    this.canvas = canvas
    this.context = contextOf(canvas)
    this.assets = assets
    this.view = view
    this.say = say
    this.footage = new Footage(footage, {arrived: () => this.redraw(), failed: words => say(words, true)})
  }

  /** When all pictures are there, or have failed. */
  whenReady() {
    for (const layer of drawnOf(this.#last?.scene.layers ?? []))
      for (const {picture} of layer.faces.list) if (picture && !this.footage.has(picture[0])) this.#sprite(picture[0])
    return Promise.all([...this.#sprites.values()].map(sprite => sprite.ready))
  }

  /** @param {{state: State, previous: State}} change */
  update({state, previous}) {
    const scene = shown(state), other = SHOWS.some(part => state[part] !== previous[part])
    if (!scene || (scene === shown(previous) && !other)) return
    const fresh = scene !== this.#last?.scene
    this.#last = {scene, solo: state.solo, frame: state.frame, playing: state.playing, ghosts: ghostsOf(state), brief: state.playing || Boolean(state.look), stays: !state.look}
    this.redraw()
    clearTimeout(this.#rest)
    if (this.#last.brief && !state.playing) this.#rest = setTimeout(() => this.#redrawWell(), RESTS_MS)
    if (fresh) performance.mark("stage-drawn")
  }

  redraw() {
    if (!this.#last) return
    const {canvas, context, view} = this, {scene, solo, frame, ghosts, brief} = this.#last
    const width = Math.round(view.width * devicePixelRatio), height = Math.round(view.height * devicePixelRatio)
    if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, {width, height})
    const lay = [width, height, ...this.#lies()].join()
    if (lay !== this.#lay) this.ahead?.clear()
    this.#lay = lay
    this.footage.begin()
    context.setTransform(1, 0, 0, 1, 0, 0)
    context.globalAlpha = 1
    context.clearRect(0, 0, width, height)
    // A picture that is gone in a moment need not be scaled as well as one that stays: it takes three times as long.
    context.imageSmoothingQuality = brief ? "low" : "high"
    const {playing, stays} = this.#last, ahead = playing && stays ? this.ahead : null, kept = ahead?.at(frame)
    if (playing) this.#expect(scene, frame)
    if (kept) return context.drawImage(kept.image, ...kept.box)
    const begun = performance.now()
    this.#draw(scene, solo, frame, ghosts)
    ahead?.played(performance.now() - begun)
    if (ahead?.takes() && this.#isWhole(scene, frame)) ahead.keep(frame, canvas, this.#inked(scene, frame))
  }

  /** @param {StageScene} scene @param {readonly string[]} solo @param {number} frame @param {Ghost[]} ghosts */
  #draw(scene, solo, frame, ghosts) {
    this.#planes.begin()
    runsOf(scene, ghosts, solo).forEach(({still, steps}, i) => {
      if (still) this.#put(this.#stillImage(scene, steps, i / 2))
      else this.#run(steps, frame, ghosts)
    })
  }

  /**
   * Another frame than the one on the stage, drawn beside it, and what of it was drawn on; null where it is not whole.
   * @param {number} frame @returns {[HTMLCanvasElement, import("./sheets.js").Box]|null}
   */
  aside(frame) {
    // What the one on the stage waits for comes first.
    if (!this.#last || this.footage.lacks) return null
    const {canvas, context} = this, {scene, solo} = this.#last, {width, height} = canvas
    Object.assign(this.#aside, {width, height})
    this.context = contextOf(this.#aside)
    this.context.imageSmoothingQuality = "low"
    this.footage.begin()
    try {
      this.#draw(scene, solo, frame, [])
    } finally {
      this.context = context
    }
    return this.#isWhole(scene, frame) ? [this.#aside, this.#inked(scene, frame)] : null
  }

  /** Whether all that a frame shows is here, and nothing else stood in for it. @param {StageScene} scene @param {number} frame */
  #isWhole({layers}, frame) {
    const isHere = (/** @type {Layer} */ layer) => rowsOf(layer).every(rows => rows.has(Math.floor(frame / rows.told.block)))
    return !this.footage.lacks && layers.every(isHere) && [...this.#sprites.values()].every(sprite => sprite.loaded)
  }

  /** What of the canvas is drawn on: the scene's frame, and what sticks out. @param {StageScene} scene @param {number} frame */
  #inked({layers, settings: {width, height}}, frame) {
    const lies = this.#lies(), found = around([0, 0, width, height], 0, [1, 0, 0, 1, 0, 0], lies)
    for (const layer of drawnOf(layers)) found.push(...inkAt(layer, frame, matrixOf(layer, frame), lies))
    for (const layer of layers) found.push(...crowdInk(layer, frame, lies))
    return common(found, this.canvas, 0)
  }

  /** Has the frames of footage ready that come next, as they come. @param {StageScene} scene @param {number} frame */
  #expect({layers, settings: {length}}, frame) {
    for (const layer of drawnOf(layers).filter(each => each.faces.list.some(({picture}) => picture && this.footage.has(picture[0]))))
      for (let i = 1; i <= AHEAD; i++) {
        const {picture, mix} = faceOf(layer, (frame + i) % length)
        if (!picture) continue
        this.footage.expect(...picture)
        if (mix) this.footage.expect(picture[0], mix[0])
      }
  }

  #redrawWell() {
    if (this.#last) this.#last.brief = false
    this.redraw()
  }

  /** @param {HTMLCanvasElement} image of the canvas's size */
  #put(image) {
    this.context.setTransform(1, 0, 0, 1, 0, 0)
    this.context.globalAlpha = 1
    this.context.drawImage(image, 0, 0)
  }

  /** @param {string} asset */
  #sprite(asset) {
    const known = this.#sprites.get(asset)
    if (known) return known
    const arrived = () => {
      this.#still = []
      this.ahead?.clear()
      this.redraw()
    }
    const failed = () => this.say(tr`A picture could not be loaded; reload the page to try again.`, true)
    const found = new Sprite(this.assets + asset, arrived, failed)
    this.#sprites.set(asset, found)
    return found
  }

  /** How the scene lies on the canvas: its scale, and where its corner is, px of the canvas. @returns {[number, number, number]} */
  #lies() {
    const {scale, left, top} = this.view
    return [scale * devicePixelRatio, left * devicePixelRatio, top * devicePixelRatio]
  }

  /**
   * @param {CanvasRenderingContext2D} on @param {Layer} layer @param {number} frame @param {number} [strength]
   * @param {Float32Array} [matrix] @param {ArrayLike<number>|null} [tint] what lies over it, in perspective
   */
  #layer(on, layer, frame, strength = 1, matrix = matrixOf(layer, frame), tint = null) {
    const seen = onCanvas(matrix, this.#lies()), strong = strength * opacityOf(layer, frame) * (layer.guide ? GUIDE : 1)
    // A canvas cannot multiply colours, in perspective or not.
    if (isDeep(seen) || isWash(tint)) return this.#inDepth(on, layer, frame, fullOf(seen), strong, tint)
    this.#planes.flush()
    const [a, b, c, d, e, f] = sixOf(seen)
    on.setTransform(a, b, c, d, e, f)
    on.globalAlpha = strong
    this.#look(on, layer, frame, Math.max(Math.hypot(a, b), Math.hypot(c, d)))
  }

  /**
   * Lays a layer on in perspective: what it looks like is drawn flat first, as large as it is seen at most.
   * @param {CanvasRenderingContext2D} on @param {Layer} layer @param {number} frame @param {import("./types.js").Matrix} seen @param {number} strength
   * @param {ArrayLike<number>|null} [tint]
   */
  #inDepth(on, layer, frame, seen, strength, tint = null) {
    const face = faceOf(layer, frame), {picture} = face
    const moves = Boolean(layer.paints || (picture && this.footage.has(picture[0])))
    if (picture && !moves && !this.#sprite(picture[0]).loaded) return
    if (!picture && !face.outlines.length) return
    const [left, top, wide, high] = inkBox(layer, frame), finest = FINEST / Math.max(wide, high, 1), outlines = outlinesOf(layer, frame)
    if (!picture && areFills(outlines, seen, [left, top, wide, high], strength)) {
      this.#planes.flush()
      return fillThrough(on, outlines, seen, strength, tint)
    }
    const scales = /** @type {const} */ ([[0, 0], [1, 0], [1, 1], [0, 1], [0.5, 0.5]]).map(([x, y]) => stretch(seen, [left + x * wide, top + y * high]))
    const draw = (/** @type {number} */ size) => {
      const look = drawn(layer, frame, size, this.#look)
      return {image: look.image, box: [look.left, look.top, look.width, look.height]}
    }
    this.#planes.lay(on, seen, [left, top, wide, high], strength, tint, {key: moves ? null : face, size: Math.max(...scales), most: finest, draw})
  }

  /** @param {CanvasRenderingContext2D} on @param {Layer} layer @param {number} frame */
  #crowd(on, layer, frame) {
    const lies = this.#lies(), found = crowdAt(layer, frame)
    if (!found.length || !isDeep(found[0][0])) {
      this.#planes.flush()
      return this.#crowds.draw(on, layer, frame, lies, this.#look)
    }
    for (const [matrix, strength, look] of found) this.#inDepth(on, look, frame, onCanvas(matrix, lies), strength * (layer.guide ? GUIDE : 1))
  }

  /**
   * Draws what a layer looks like, in its own px, a px of which is so many px of the canvas.
   * @type {import("./crowds.js").DrawLook}
   */
  #look = (on, layer, frame, stretched) => {
    const {picture, mix, box} = faceOf(layer, frame)
    if (picture && this.footage.has(picture[0])) this.#film(on, /** @type {import("./types.js").Face} */ ({picture, mix, box}))
    else if (picture) {
      const sprite = this.#sprite(picture[0])
      if (!sprite.loaded) return
      on.drawImage(sprite.at(stretched * box[2] / sprite.image.naturalWidth), box[0], box[1], box[2], box[3])
    }
    for (const outline of outlinesOf(layer, frame)) drawOutline(on, outline)
  }

  /**
   * A frame of footage and, where it fades into another one, that over it.
   * @param {CanvasRenderingContext2D} on @param {import("./types.js").Face} face
   */
  #film(on, {picture, mix, box}) {
    const [asset, index] = /** @type {[string, number]} */ (picture)
    const lay = (/** @type {number} */ number) => {
      const frame = this.footage.at(asset, number)
      if (frame) on.drawImage(frame, ...box)
    }
    const strength = on.globalAlpha
    lay(index)
    if (!mix) return
    on.globalAlpha = strength * mix[1]
    lay(mix[0])
    on.globalAlpha = strength
  }

  /**
   * Runs steps of the program; what is drawn apart goes onto a canvas of its own first.
   * @param {Step[]} steps @param {number} frame @param {Ghost[]} ghosts
   */
  #run(steps, frame, ghosts) {
    const stack = [this.context], ordered = inOrder(steps, frame)
    for (let i = 0; i < ordered.length; i++) {
      const {kind, layer} = ordered[i]
      if (kind === "push" && !ghosts.length && isOnlyTinted(ordered, i, frame)) {
        // One thing under a tint is laid on as it is: there is nothing to be drawn apart.
        const {layer: alone} = ordered[i + 1], strong = layer.can.hold ? opacityOf(layer, frame) : 1
        this.#layer(stack[stack.length - 1], alone, frame, strong, matrixOf(alone, frame), layer.tint?.at(frame) ?? null)
        i += 2
        continue
      }
      const top = stack[stack.length - 1]
      if (kind !== "item" && kind !== "crowd") this.#planes.flush()
      if (kind === "push") stack.push(this.#apart(stack.length, ordered.slice(i), frame, ghosts))
      else if (kind === "through") {
        this.#endThrough(stack)
        stack.push(this.#through(stack.length, layer))
      } else if (kind === "pop") {
        this.#endThrough(stack)
        stack.pop()
        this.#layOn(stack[stack.length - 1], this.#sheets[stack.length], layer, frame)
      } else if (kind === "crowd") this.#crowd(top, layer, frame)
      else {
        for (const [pale, at, strength, matrix] of ghosts) if (pale.id === layer.id) this.#layer(top, pale, at, strength, matrix)
        this.#layer(top, layer, frame)
      }
    }
    this.#planes.flush()
  }

  /**
   * A canvas, clear where anything comes to lie, for what is drawn apart.
   * @param {number} depth @param {Step[]} steps from its push on @param {number} frame @param {Ghost[]} ghosts
   */
  #apart(depth, steps, frame, ghosts) {
    const sheet = (this.#sheets[depth] ??= new Sheet()), lies = this.#lies(), [{layer}] = steps
    const touched = common(inkOf(steps, frame, ghosts, lies), this.canvas, REACH * (layer.soft ?? 0) * lies[0])
    const seen = layer.cover && shownBy(layer.cover, frame, lies, this.canvas)
    const on = sheet.open(this.canvas, seen ? overlap(touched, seen) : touched)
    on.imageSmoothingQuality = this.context.imageSmoothingQuality
    return on
  }

  /** A canvas for what shows of the one below what lies where it is. @param {number} depth @param {Layer} layer */
  #through(depth, layer) {
    const sheet = (this.#sheets[depth] ??= new Sheet())
    this.#stencils.set(depth, layer)
    return sheet.open(this.canvas, this.#sheets[depth - 1].box)
  }

  /** Takes away what a stencil that is drawn by now does not show. @param {CanvasRenderingContext2D[]} stack */
  #endThrough(stack) {
    const depth = stack.length - 1, layer = this.#stencils.get(depth)
    if (!layer) return
    this.#stencils.delete(depth)
    stack.pop()
    const sheet = this.#sheets[depth], under = stack[depth - 1]
    sheet.close()
    under.setTransform(1, 0, 0, 1, 0, 0)
    under.globalAlpha = 1
    under.globalCompositeOperation = layer.stencilInverted ? "destination-out" : "destination-in"
    if (layer.stencil === "brightness") under.filter = "url(#brightness)"
    under.drawImage(sheet.canvas, 0, 0)
    under.filter = "none"
    under.globalCompositeOperation = "source-over"
  }

  /** What was drawn apart with what lies over its colours. @param {Sheet} sheet @param {Float32Array} tint */
  #tint(sheet, tint) {
    if (!isWash(tint)) return tintOn(sheet, tint)
    // A canvas cannot multiply colours and leave what is seen through as it is.
    this.#planes.wash(sheet.on, sheet.box, tint)
  }

  /**
   * Lays what was drawn apart on what lies beneath: masked, blended, as faint as it is.
   * @param {CanvasRenderingContext2D} under @param {Sheet} sheet @param {Layer} layer @param {number} frame
   */
  #layOn(under, sheet, layer, frame) {
    const [left, top, width, height] = sheet.box
    if (layer.cover && width) this.#covers.cutOut(sheet.on, layer.cover, frame, this.#lies(), Boolean(this.#last?.stays))
    if (layer.tint && width) this.#tint(sheet, layer.tint.at(frame))
    sheet.close()
    if (!width) return
    under.setTransform(1, 0, 0, 1, 0, 0)
    // A layer alone is as faint as it is already.
    under.globalAlpha = layer.can.hold ? opacityOf(layer, frame) : 1
    under.globalCompositeOperation = layer.blend === "normal" ? "source-over" : /** @type {GlobalCompositeOperation} */ (layer.blend)
    under.save()
    if (layer.soft) {
      // Without a clip all of the canvas would be filtered.
      under.beginPath()
      under.rect(left, top, width, height)
      under.clip()
      under.filter = `blur(${layer.soft * this.#lies()[0]}px)`
    }
    under.drawImage(sheet.canvas, left, top, width, height, left, top, width, height)
    under.restore()
    under.globalCompositeOperation = "source-over"
  }

  /**
   * Still layers in a row, drawn once; the first ones on the background.
   * @param {StageScene} scene @param {Step[]} steps @param {number} index which of the still runs
   */
  #stillImage({settings: {width, height, background}}, steps, index) {
    const ground = index === 0 ? [background, width, height] : []
    const key = [...ground, this.canvas.width, this.canvas.height, ...this.#lies(), ...steps.map(({layer}) => layer)]
    const known = this.#still[index]
    if (known && key.length === known.key.length && key.every((part, i) => part === known.key[i])) return known.image
    const image = document.createElement("canvas"), [s, left, top] = this.#lies()
    image.width = this.canvas.width
    image.height = this.canvas.height
    const on = contextOf(image)
    on.imageSmoothingQuality = "high"
    if (index === 0 && background) {
      on.fillStyle = background
      on.fillRect(left, top, width * s, height * s)
    }
    for (const {layer} of steps) this.#layer(on, layer, 0)
    this.#planes.flush()
    this.#still[index] = {key, image}
    return image
  }
}

/**
 * Whether what is drawn apart from a step on is one thing in perspective, laid on plainly but for a tint.
 * @param {Step[]} steps @param {number} i @param {number} frame
 */
function isOnlyTinted(steps, i, frame) {
  const {layer} = steps[i], item = steps[i + 1], isOne = item?.kind === "item" && steps[i + 2]?.kind === "pop"
  return isOne && !layer.cover && !layer.soft && layer.blend === "normal" && (isDeep(matrixOf(item.layer, frame)) || isWash(layer.tint?.at(frame) ?? null))
}

/** Whether what lies over colours multiplies each by its own factor. @param {ArrayLike<number>|null} tint */
const isWash = tint => tint?.length === 6

/** Lays a colour over what was drawn on a sheet, within its shape. @param {Sheet} sheet @param {Float32Array} tint */
function tintOn({on, box}, [red, green, blue, alpha]) {
  on.setTransform(1, 0, 0, 1, 0, 0)
  on.globalAlpha = alpha
  on.globalCompositeOperation = "source-atop"
  on.fillStyle = `rgb(${[red, green, blue].map(level => Math.round(255 * level)).join()})`
  on.fillRect(...box)
  on.globalCompositeOperation = "source-over"
  on.globalAlpha = 1
}

/** @param {HTMLCanvasElement} canvas */
const contextOf = canvas => /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"))

/**
 * Corners round all that is drawn up to the pop of what is drawn apart, px of the canvas.
 * @param {Step[]} steps from its push on @param {number} frame @param {Ghost[]} ghosts @param {[number, number, number]} lies
 */
function inkOf(steps, frame, ghosts, lies) {
  const found = /** @type {import("./types.js").Point[]} */ ([])
  let depth = 0
  for (const {kind, layer} of steps) {
    depth += DEEPER[kind]
    if (!depth) break
    if (kind === "crowd") found.push(...crowdInk(layer, frame, lies))
    if (kind !== "item") continue
    found.push(...inkAt(layer, frame, matrixOf(layer, frame), lies))
    for (const [pale, at, , matrix] of ghosts) if (pale.id === layer.id) found.push(...inkAt(pale, at, matrix ?? matrixOf(pale, at), lies))
  }
  return found
}

/** @param {Layer} layer @param {number} frame @param {ArrayLike<number>} matrix @param {[number, number, number]} lies */
const inkAt = (layer, frame, matrix, lies) => inkBoxes(layer, frame).flatMap(([box, room]) => around(box, room, matrix, lies))

/** Boxes of all that a layer draws, in its px, and how far beyond them it reaches. @param {Layer} layer @param {number} frame @returns {[readonly number[], number][]} */
function inkBoxes(layer, frame) {
  const {picture, box} = faceOf(layer, frame)
  const drawn = outlinesOf(layer, frame).map(({figure, stroke, width, join, miter, side}) => {
    // Beyond the edge lies all of it, or half.
    const reach = width * (join === "miter" ? miter / 2 : 0.75) * (side === "outside" ? 2 : 1)
    return /** @type {[readonly number[], number]} */ ([boundsOf(figure), stroke ? reach : 0])
  })
  return picture ? [...drawn, [box, 0]] : drawn
}

/** The box round all that a layer draws, in its px. @param {Layer} layer @param {number} frame @returns {[number, number, number, number]} */
function inkBox(layer, frame) {
  const edges = inkBoxes(layer, frame).map(([[x, y, w, h], room]) => [x - room, y - room, x + w + room, y + h + room])
  const [left, top] = [0, 1].map(i => Math.min(...edges.map(edge => edge[i]))), [right, bottom] = [2, 3].map(i => Math.max(...edges.map(edge => edge[i])))
  return [left, top, right - left, bottom - top]
}

/** @param {Layer} layer @param {number} frame @param {[number, number, number]} lies */
const crowdInk = (layer, frame, lies) => crowdAt(layer, frame).flatMap(([matrix, , look]) => inkAt(look, frame, matrix, lies))

/**
 * Pale copies of what is chosen, while nothing plays: some frames before and after, at the end of its ride and,
 * while a change is looked at, as it was.
 * @param {State} state @returns {Ghost[]}
 */
function ghostsOf(state) {
  const layer = chosenLayer(state) ?? tellingRider(state), {frame} = state
  if (!layer || state.playing || !isMoved(layer)) return []
  const plain = [...unturnedOf(layer, state), ...alongOf(layer, state)]
  if (!state.prefs.ghosts) return plain
  // While something is dragged every picture counts: only what it was before is shown beside it.
  const kept = state.look && state.scene?.layers.find(each => each.id === layer.id)
  if (state.look) return kept && kept !== layer ? [...plain, [kept, frame, BEFORE]] : plain
  const {length = 1, fps = 30} = shown(state)?.settings ?? {}
  const step = Math.max(2, Math.round(fps / 5)), end = layer.ride ? Math.min(Math.round(layer.ride.end), length - 1) : length - 1
  /** @type {[number, number][]} */
  const around = [[end, END], [frame - 2 * step, FAR], [frame + 2 * step, FAR], [frame - step, NEAR], [frame + step, NEAR]]
  const there = around.filter(([at]) => at >= 0 && at < length)
  return [...plain, ...there.map(([at, strength]) => /** @type {Ghost} */ ([layer, at, strength]))]
}

/**
 * A rider elsewhere on its way, within the loop range if there is one: evenly in time, or in distance.
 * @param {Layer} layer @param {State} state @returns {Ghost[]}
 */
function alongOf(layer, {prefs, range, look}) {
  if (!layer.ride || prefs.along === "none" || look) return []
  const {start, end, rows} = layer.ride, [from, to] = range ?? [start, end]
  const first = Math.max(Math.ceil(from), 0), last = Math.min(Math.floor(to), rows.told.length)
  const share = (/** @type {number} */ i) => i / (ALONG - 1)
  const frames = prefs.along === "time" ? Array.from({length: ALONG}, (_, i) => Math.round(first + (last - first) * share(i))) : evenly(rows, first, last)
  return [...new Set(frames)].map(frame => /** @type {Ghost} */ ([layer, frame, ON_WAY]))
}

/**
 * The frames in which a rider has come so far, evenly.
 * @param {import("./rows.js").Rows} rows @param {number} first @param {number} last
 */
function evenly(rows, first, last) {
  const known = rows.frames(first, last), far = known.map(frame => rows.at(frame)[TRAVELLED])
  if (!known.length) return []
  const step = (far[far.length - 1] - far[0]) / (ALONG - 1)
  return Array.from({length: ALONG}, (_, i) => known[far.findIndex(each => Math.abs(each - far[0]) >= Math.abs(step) * i - 1e-3)] ?? last)
}

/**
 * A rider as it would stand without its facing, if that is wanted.
 * @param {Layer} layer @param {State} state @returns {Ghost[]}
 */
function unturnedOf(layer, {prefs, frame}) {
  if (!layer.ride || !prefs.unturned) return []
  const [a, b, c, d, e, f] = layer.ride.unturned, [x, y] = spotOf(layer, frame)
  return [[layer, frame, UNTURNED, new Float32Array([a, b, c, d, e + x, f + y])]]
}
