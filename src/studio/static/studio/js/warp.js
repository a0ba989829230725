/**
 * Planes laid by the graphics library, of which one canvas is enough. What follows one another is laid on together.
 */

import {NEAR} from "./matrices.js"
import {grown} from "./sheets.js"

/** @import {Matrix} from "./types.js" */
/** @import {Box} from "./sheets.js" */
/** @typedef {{image: HTMLCanvasElement|OffscreenCanvas, box: readonly number[]}} Flat what is drawn flat, with a clear edge, and where that is in the px of its layer */
/** @typedef {{key: object|null, size: number, most: number, draw: (size: number) => Flat|null}} Look what it is kept by, how many px a px of it is to have, and has at most, and what draws it */
/** @typedef {{texture: WebGLTexture, box: readonly number[], size: number, px: number}} Texture */

/** Textures are kept as long as they have no more px together: 4 bytes each, and a third more of smaller ones. */
const MOST_PX = 24e6
const SHAPE = `#version 300 es
in vec2 corner; uniform mat3 map; uniform vec4 box; uniform vec2 size; uniform float near; out vec2 at;
void main() {
  at = corner;
  vec3 p = map * vec3(box.xy + corner * box.zw, 1.0);
  gl_Position = vec4(2.0 * p.x / size.x - p.z, p.z - 2.0 * p.y / size.y, p.z - 2.0 * near, p.z);
}`
const PAINT = `#version 300 es
precision highp float;
in vec2 at; uniform sampler2D image; uniform float strength; uniform vec3 keep; uniform vec3 add; out vec4 colour;
void main() {
  vec4 seen = texture(image, at);
  colour = vec4(min(seen.rgb * keep + add * seen.a, vec3(seen.a)), seen.a) * strength;
}`

const PLAIN = [1, 1, 1, 0, 0, 0]

/** A tint as factors of red, green and blue, and what is added to them. @param {ArrayLike<number>|null} tint @returns {ArrayLike<number>} */
export function washOf(tint) {
  if (!tint || tint.length === PLAIN.length) return tint ?? PLAIN
  const alpha = tint[3], kept = 1 - alpha
  return [kept, kept, kept, tint[0] * alpha, tint[1] * alpha, tint[2] * alpha]
}

/** Asked once: a page has few of what it is asked by. @type {boolean|null} */
let quick = null

/** Whether there is a processor, as far as it is told: not all browsers refuse where there is none. @param {WebGL2RenderingContext|null} gl */
function isQuick(gl) {
  const told = gl?.getExtension("WEBGL_debug_renderer_info")
  return gl !== null && !/swiftshader|llvmpipe|softpipe|software/i.test(told ? gl.getParameter(told.UNMASKED_RENDERER_WEBGL) : "")
}

export class Warp {
  #canvas = document.createElement("canvas")
  /** @type {WebGL2RenderingContext|null} */
  #gl = null
  /** @type {Record<string, WebGLUniformLocation|null>} */
  #named = {}
  /** What is to be laid on next, and where all of it is. @type {{on: CanvasRenderingContext2D, box: Box}|null} */
  #waits = null
  /** @type {Map<object, Texture>} */
  #kept = new Map()
  #px = 0

  /** Whether a graphics processor does it: programs that stand in for one take twice as long as what is laid px by px. */
  get quick() { return quick ??= isQuick(document.createElement("canvas").getContext("webgl2", {failIfMajorPerformanceCaveat: true})) }

  /** Whether the browser has the library. */
  get works() { return Boolean(this.#gl ??= this.#made()) }

  /**
   * Lays what is drawn flat on a canvas; it is there after ``flush``.
   * @param {CanvasRenderingContext2D} on
   * @param {Matrix} m on the canvas @param {Box} touched what of that it may touch
   * @param {number} strength
   * @param {ArrayLike<number>|null} tint what lies over it
   * @param {Look} look
   */
  lay(on, m, touched, strength, tint, look) {
    const gl = this.#begin(on, touched)
    if (!gl) return
    const found = this.#texture(gl, look)
    if (!found) return
    gl.bindTexture(gl.TEXTURE_2D, found.texture)
    const {map, size, near, strength: faint, box: where, keep, add} = this.#named
    gl.uniformMatrix3fv(map, false, [m[0], m[1], m[6], m[2], m[3], m[7], m[4], m[5], m[8]])
    gl.uniform4f(where, found.box[0], found.box[1], found.box[2], found.box[3])
    gl.uniform2f(size, this.#canvas.width, this.#canvas.height)
    gl.uniform1f(near, NEAR)
    gl.uniform1f(faint, strength)
    const over = washOf(tint)
    gl.uniform3f(keep, over[0], over[1], over[2])
    gl.uniform3f(add, over[3], over[4], over[5])
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4)
  }

  /** Lays on what waits. */
  flush() {
    const waits = this.#waits
    if (!waits) return
    this.#waits = null
    const {on, box: [left, top, width, height]} = waits
    on.setTransform(1, 0, 0, 1, 0, 0)
    on.globalAlpha = 1
    on.drawImage(this.#canvas, left, top, width, height, left, top, width, height)
  }

  /** @param {CanvasRenderingContext2D} on @param {Box} box */
  #begin(on, box) {
    const gl = this.#gl ??= this.#made()
    if (!gl) return null
    if (this.#waits && this.#waits.on !== on) this.flush()
    if (this.#waits) {
      this.#waits.box = grown(this.#waits.box, box)
      return gl
    }
    const {width, height} = on.canvas
    if (this.#canvas.width !== width || this.#canvas.height !== height) Object.assign(this.#canvas, {width, height})
    gl.viewport(0, 0, width, height)
    gl.clearColor(0, 0, 0, 0)
    gl.clear(gl.COLOR_BUFFER_BIT)
    this.#waits = {on, box}
    return gl
  }

  #made() {
    const gl = this.#canvas.getContext("webgl2", {premultipliedAlpha: true, antialias: false, preserveDrawingBuffer: true})
    if (!gl) return null
    const program = gl.createProgram()
    for (const [kind, source] of /** @type {const} */ ([[gl.VERTEX_SHADER, SHAPE], [gl.FRAGMENT_SHADER, PAINT]])) {
      const shader = /** @type {WebGLShader} */ (gl.createShader(kind))
      gl.shaderSource(shader, source)
      gl.compileShader(shader)
      gl.attachShader(program, shader)
    }
    gl.linkProgram(program)
    gl.useProgram(program)
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer())
    gl.bufferData(gl.ARRAY_BUFFER, Float32Array.of(0, 0, 1, 0, 0, 1, 1, 1), gl.STATIC_DRAW)
    const corner = gl.getAttribLocation(program, "corner")
    gl.enableVertexAttribArray(corner)
    gl.vertexAttribPointer(corner, 2, gl.FLOAT, false, 0, 0)
    gl.enable(gl.BLEND)
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA)
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, true)
    for (const name of ["map", "box", "size", "near", "strength", "keep", "add"]) this.#named[name] = gl.getUniformLocation(program, name)
    this.#canvas.addEventListener("webglcontextlost", () => {
      this.#gl = null
      this.#kept.clear()
      this.#px = 0
      this.#canvas = document.createElement("canvas")
    })
    return gl
  }

  /** @param {WebGL2RenderingContext} gl @param {Parameters<Warp["lay"]>[5]} look @returns {Texture|null} */
  #texture(gl, {key, size, most, draw}) {
    const known = key && this.#kept.get(key), least = Math.min(size, most)
    // Kept as long as it is fine enough, and no more than four times as fine as need be.
    if (known && known.size >= least && known.size <= 4 * least) return known
    const wanted = Math.min(2 ** Math.ceil(Math.log2(Math.max(size, 1e-4))), most), flat = draw(wanted)
    if (!flat) return null
    if (known) this.#drop(gl, /** @type {object} */ (key), known)
    const texture = key ? gl.createTexture() : this.#fleeting ??= gl.createTexture()
    gl.bindTexture(gl.TEXTURE_2D, texture)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, flat.image)
    gl.generateMipmap(gl.TEXTURE_2D)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_NEAREST)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE)
    const {width, height} = /** @type {{width: number, height: number}} */ (flat.image)
    const found = {texture, box: flat.box, size: wanted, px: width * height}
    if (key) this.#keep(gl, key, found)
    return found
  }

  /** What is drawn once and not kept. @type {WebGLTexture|null} */
  #fleeting = null

  /** Keeps it, in place of those made first. @param {WebGL2RenderingContext} gl @param {object} key @param {Texture} texture */
  #keep(gl, key, texture) {
    this.#px += texture.px
    for (const [oldest, other] of this.#kept) {
      if (this.#px <= MOST_PX) break
      this.#drop(gl, oldest, other)
    }
    this.#kept.set(key, texture)
  }

  /** @param {WebGL2RenderingContext} gl @param {object} key @param {Texture} texture */
  #drop(gl, key, {texture, px}) {
    gl.deleteTexture(texture)
    this.#kept.delete(key)
    this.#px -= px
  }
}
