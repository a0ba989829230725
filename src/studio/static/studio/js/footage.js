/** Small frames of footage: asked for in blocks, decoded when they are near, forgotten when there are too many. */

import {tr} from "./words.js"

/** Bytes of decoded frames, and of blocks as they came, that are kept. */
const MOST_DECODED = 192e6, MOST_PACKED = 96e6
/** A block that could not be fetched is asked for again after so long. */
const AGAIN_MS = 3000

/** @typedef {{frames: Blob[], size: number}} Block */
/** @typedef {{address: string, endings: string[], perBlock: number}} Small where small frames are, of which files, and how many are packed together */

/** Things by name, up to so many bytes: those not asked for the longest go first. @template T */
export class Kept {
  /** @type {Map<string, {thing: T, size: number}>} */
  #kept = new Map()
  #size = 0

  /** @param {number} most @param {(thing: T) => void} [gone] */
  constructor(most, gone = () => {}) {
    this.most = most
    this.gone = gone
  }

  /** @param {string} name @returns {T|undefined} */
  get(name) {
    const found = this.#kept.get(name)
    if (!found) return undefined
    this.#kept.delete(name)
    this.#kept.set(name, found)
    return found.thing
  }

  /** @param {string} name */
  has(name) { return this.#kept.has(name) }

  /** @param {string} name @param {T} thing @param {number} size */
  put(name, thing, size) {
    this.#kept.set(name, {thing, size})
    this.#size += size
    for (const [old, {thing: first, size: bytes}] of this.#kept) {
      if (this.#size <= this.most || old === name) break
      this.#kept.delete(old)
      this.#size -= bytes
      this.gone(first)
    }
  }
}

/** The frames of a block as they are packed: how many, the length of each, and they. @param {ArrayBuffer} buffer @returns {Block} */
export function unpackBlock(buffer) {
  const view = new DataView(buffer), count = view.getUint32(0, true), frames = []
  let at = 4 + 4 * count
  for (let i = 0; i < count; i++) {
    const length = view.getUint32(4 + 4 * i, true)
    frames.push(new Blob([new Uint8Array(buffer, at, length)]))
    at += length
  }
  return {frames, size: buffer.byteLength}
}

export class Footage {
  /** @type {Kept<Block>} */
  #blocks = new Kept(MOST_PACKED)
  /** @type {Kept<ImageBitmap>} */
  #decoded = new Kept(MOST_DECODED, bitmap => bitmap.close())
  /** Blocks and frames that are under way. @type {Set<string>} */
  #busy = new Set()
  /** What was drawn last of each file, it stays while the next one is on its way. @type {Map<string, {bitmap: ImageBitmap}>} */
  #last = new Map()
  /** Frames that the picture on the stage lacks. @type {Set<string>} */
  #missing = new Set()

  /** Files of which it was said that they cannot be read: it is tried again, but said once. @type {Set<string>} */
  #said = new Set()

  /**
   * @param {Small} small @param {{arrived: () => void, failed: (words: string) => void}} told
   */
  constructor({address, endings, perBlock}, {arrived, failed}) {
    this.address = address
    this.endings = endings
    this.perBlock = perBlock
    this.arrived = arrived
    this.failed = failed
  }

  /** A picture is about to be drawn: what the one before lacked is not waited for any more. */
  begin() { this.#missing.clear() }

  /** Whether the picture that was drawn last lacks a frame. */
  get lacks() { return this.#missing.size > 0 }

  /** Whether a file is footage. @param {string} asset */
  has(asset) { return this.endings.some(ending => asset.endsWith(ending)) }

  /**
   * A frame of a file; while it is on its way the last one that was there.
   * @param {string} asset @param {number} index
   * @returns {ImageBitmap|null}
   */
  at(asset, index) {
    const found = this.#decoded.get(name(asset, index))
    if (found) this.#last.set(asset, {bitmap: found})
    else {
      this.#missing.add(name(asset, index))
      this.#want(asset, index)
    }
    return found ?? this.#lastOf(asset)
  }

  /** A frame that is shown in a moment. @param {string} asset @param {number} index */
  expect(asset, index) { this.#want(asset, index) }

  /** @param {string} asset */
  #lastOf(asset) {
    const last = this.#last.get(asset)
    // One that was forgotten meanwhile has no pixels any more.
    return last && last.bitmap.width ? last.bitmap : null
  }

  /** @param {string} asset @param {number} index */
  #want(asset, index) {
    if (this.#decoded.has(name(asset, index))) return
    const block = this.#blocks.get(name(asset, Math.floor(index / this.perBlock), "b"))
    if (block) void this.#decode(asset, index, block)
    else void this.#fetch(asset, Math.floor(index / this.perBlock))
  }

  /** The frames of a block. @param {number} number */
  #framesOf(number) { return Array.from({length: this.perBlock}, (_, i) => number * this.perBlock + i) }

  /** @param {string} asset @param {number} number */
  async #fetch(asset, number) {
    const key = name(asset, number, "b")
    if (this.#busy.has(key)) return
    this.#busy.add(key)
    const answer = await fetch(`${this.address}${asset}/${number}.frames`).catch(() => null)
    const lacking = () => this.#framesOf(number).filter(index => this.#missing.has(name(asset, index)))
    if (!answer?.ok) {
      if (lacking().length && !this.#said.has(asset)) {
        this.#said.add(asset)
        this.failed(tr`Some footage could not be read; it is tried again.`)
      }
      setTimeout(() => {
        this.#busy.delete(key)
        if (lacking().length) this.arrived()
      }, AGAIN_MS)
      return
    }
    const block = unpackBlock(await answer.arrayBuffer())
    this.#blocks.put(key, block, block.size)
    this.#busy.delete(key)
    for (const index of lacking()) void this.#decode(asset, index, block)
  }

  /** @param {string} asset @param {number} index @param {Block} block */
  async #decode(asset, index, block) {
    const key = name(asset, index), packed = block.frames[index % this.perBlock]
    if (!packed || this.#busy.has(key)) return
    this.#busy.add(key)
    const bitmap = await createImageBitmap(packed).catch(() => null)
    this.#busy.delete(key)
    if (!bitmap) return
    this.#decoded.put(key, bitmap, 4 * bitmap.width * bitmap.height)
    if (this.#missing.has(key)) this.arrived()
  }
}

/** @param {string} asset @param {number} number @param {string} [kind] */
const name = (asset, number, kind = "") => `${asset}:${kind}${number}`
