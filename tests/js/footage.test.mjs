import assert from "node:assert/strict"
import test from "node:test"

import {Footage, Kept, unpackBlock} from "../../src/studio/static/studio/js/footage.js"
import {inSeries} from "../../src/studio/static/studio/js/uploads.js"

test("numbered pictures of one name are taken together, in the order of their numbers; all else by itself", () => {
  const names = list => inSeries(list.map(name => ({name}))).map(some => some.map(file => file.name))
  assert.deepEqual(names(["b10.png", "b9.png", "a.png", "b8.png", "c1.png", "c2.png", "take 1.csv"]),
    [["b8.png", "b9.png", "b10.png"], ["a.png"], ["c1.png"], ["c2.png"], ["take 1.csv"]])
  assert.deepEqual(names(["x1.png", "x2.jpg", "x3.png"]), [["x1.png"], ["x3.png"], ["x2.jpg"]])
})

const SMALL = {address: "/f/", endings: [".mp4", ".apng", ".awebp", ".zip"], perBlock: 16}

/** @param {string[]} frames */
function packed(frames) {
  const bytes = frames.map(each => new TextEncoder().encode(each))
  const buffer = new ArrayBuffer(4 + 4 * frames.length + bytes.reduce((sum, each) => sum + each.length, 0))
  const view = new DataView(buffer)
  view.setUint32(0, frames.length, true)
  bytes.forEach((each, i) => view.setUint32(4 + 4 * i, each.length, true))
  let at = 4 + 4 * frames.length
  for (const each of bytes) {
    new Uint8Array(buffer).set(each, at)
    at += each.length
  }
  return buffer
}

test("a block is taken apart as it was packed", async () => {
  const {frames} = unpackBlock(packed(["one", "", "three"]))
  assert.deepEqual(await Promise.all(frames.map(each => each.text())), ["one", "", "three"])
})

test("what is not asked for the longest goes first, and is told", () => {
  const gone = []
  const kept = new Kept(10, thing => gone.push(thing))
  kept.put("a", "A", 4)
  kept.put("b", "B", 4)
  assert.equal(kept.get("a"), "A")
  kept.put("c", "C", 4)
  assert.deepEqual(gone, ["B"])
  assert.equal(kept.has("b"), false)
  kept.put("d", "D", 40)
  assert.deepEqual(gone, ["B", "A", "C"])
  assert.equal(kept.get("d"), "D")
})

test("only moving pictures are footage", () => {
  const footage = new Footage(SMALL, {arrived() {}, failed() {}})
  assert.deepEqual(["a.mp4", "a.png", "a.apng", "a.webp", "a.awebp", "a.zip"].map(each => footage.has(each)), [true, false, true, false, true, true])
})

test("frames are asked for by blocks, each once, and the picture is drawn again when one is there", async context => {
  const asked = [], arrived = []
  context.mock.method(globalThis, "fetch", async address => {
    asked.push(address)
    return {ok: true, arrayBuffer: async () => packed(Array.from({length: 16}, (_, i) => `frame ${i}`))}
  })
  globalThis.createImageBitmap = async blob => ({width: 4, height: 2, words: await blob.text(), close() {}})
  const footage = new Footage(SMALL, {arrived: () => arrived.push(1), failed() {}})
  footage.begin()
  assert.equal(footage.at("a.mp4", 17), null)
  assert.equal(footage.at("a.mp4", 18), null)
  for (let i = 0; i < 20 && arrived.length < 2; i++) await new Promise(done => setTimeout(done))
  assert.deepEqual(asked, ["/f/a.mp4/1.frames"])
  assert.equal(arrived.length, 2)
  footage.begin()
  assert.equal(footage.at("a.mp4", 17)?.words, "frame 1")
  // While the next is on its way, the last one stays.
  assert.equal(footage.at("a.mp4", 40)?.words, "frame 1")
})
