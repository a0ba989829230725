/**
 * Numbers a frame, as far as they have come. Of a long scene the block round the playhead comes at once, with one
 * frame in so many of the rest; the other blocks are put in as they arrive.
 */

/**
 * Which frames an answer tells: null for all of 0..length.
 * @typedef {{length: number, block: number, list: number[]|null}} Told
 */

export class Rows {
  /** @param {Float32Array} numbers @param {number} width numbers a frame @param {Told} told */
  constructor(numbers, width, told) {
    this.width = width
    this.told = told
    /** One row for all frames. */
    this.single = numbers.length <= width ? numbers : null
    /** The frames told one by one, where not all are. */
    this.samples = numbers
    /** Blocks that are here, by their numbers. @type {Float32Array[]} */
    this.blocks = []
    /** Counts what has been put in, so that what is made of it knows when it is old. */
    this.version = 0
    if (!this.single) this.#cut()
  }

  /** Takes whole blocks out of what was told. */
  #cut() {
    const {list, block, length} = this.told
    if (!list) return this.put(0, this.samples)
    for (let begin = 0; begin < list.length; begin++) {
      const size = Math.min(block, length + 1 - list[begin])
      if (list[begin] % block || list[begin + size - 1] !== list[begin] + size - 1) continue
      this.put(list[begin], this.samples.subarray(begin * this.width, (begin + size) * this.width))
    }
  }

  /** Puts in frames from the first one of a block on. @param {number} first @param {Float32Array} numbers */
  put(first, numbers) {
    const size = this.told.block * this.width
    this.version++
    for (let begin = 0, at = first / this.told.block; begin < numbers.length; begin += size, at++) this.blocks[at] = numbers.subarray(begin, begin + size)
  }

  /** Whether it tells of a block, and not only of some frames in it. @param {number} block */
  has(block) {
    return Boolean(this.single || this.blocks[block])
  }

  /** The row of a frame or, until that is here, of the nearest before it that is. @param {number} frame */
  at(frame) {
    if (this.single) return this.single
    const {block, length} = this.told, {width} = this
    const kept = Math.min(Math.max(frame, 0), length)
    const here = this.blocks[Math.floor(kept / block)]
    const row = here ? kept % block : this.#sampled(kept)
    return (here ?? this.samples).subarray(row * width, (row + 1) * width)
  }

  /** The place in the samples of the last one up to a frame. @param {number} frame */
  #sampled(frame) {
    const {list} = this.told
    if (!list) return frame
    let low = 0, high = list.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (list[middle] <= frame) low = middle
      else high = middle - 1
    }
    return low
  }

  /**
   * The frames from one to another that are known, both included; no more than so many, evenly.
   * @param {number} from @param {number} to @param {number} [most]
   */
  frames(from, to, most = Infinity) {
    const {list, block, length} = this.told
    const first = Math.max(Math.ceil(from), 0), last = Math.min(Math.floor(to), length)
    const step = Math.max(Math.ceil((last - first + 1) / most), 1)
    /** @type {number[]} */
    const found = []
    let sample = 0
    for (let frame = first; frame <= last; frame += step) {
      if (this.has(Math.floor(frame / block))) {
        found.push(frame)
        continue
      }
      // Of a block that is still to come only the samples, and on to the next block.
      const end = Math.min((Math.floor(frame / block) + 1) * block, last + 1)
      if (list) {
        while (sample < list.length && list[sample] < frame) sample++
        while (sample < list.length && list[sample] < end) found.push(list[sample++])
      }
      frame = end - step
    }
    return found
  }
}
