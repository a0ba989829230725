/** Pictures laid px by px, against what they are by hand and by plain numbers. */

import assert from "node:assert/strict"
import {test} from "node:test"
import {inverse} from "../../src/studio/static/studio/js/matrices.js"
import {Patch, bytesOf, sheetOf, washed} from "../../src/studio/static/studio/js/patch.js"

/** A sheet of px [r, g, b, a], with a clear edge round them. */
function sheet(rows) {
  const width = rows[0].length + 2, height = rows.length + 2, data = new Uint8ClampedArray(4 * width * height)
  rows.forEach((row, y) => row.forEach((px, x) => data.set(px, 4 * ((y + 1) * width + x + 1))))
  return sheetOf({data, width, height})
}

const RED = [255, 0, 0, 255], BLUE = [0, 0, 255, 255], FAINT = [200, 100, 40, 128]
const px = ({words, width}, x, y) => [...bytesOf(words.slice(y * width + x, y * width + x + 1))]
const near = (found, wanted, most = 3) => found.forEach((byte, i) => assert.ok(Math.abs(byte - wanted[i]) <= most, `${found} is not ${wanted}`))

test("where px lie on px they are as they were, wherever that is", () => {
  const patch = new Patch(6, 5)
  patch.lay(sheet([[RED, BLUE], [FAINT, RED]]), [1, 0, 0, 1, 1, 1], 1)
  near(px(patch, 2, 2), RED, 0)
  near(px(patch, 3, 2), BLUE, 0)
  near(px(patch, 2, 3), FAINT, 2)
  near(px(patch, 0, 0), [0, 0, 0, 0], 0)
})

test("what is turned goes round, and what is mirrored lies the other way", () => {
  const turned = new Patch(4, 4), mirrored = new Patch(4, 4)
  turned.lay(sheet([[RED, BLUE]]), [0, 1, -1, 0, 3, 0], 1)
  near(px(turned, 1, 1), RED, 1)
  near(px(turned, 1, 2), BLUE, 1)
  mirrored.lay(sheet([[RED, BLUE]]), [-1, 0, 0, 1, 4, 0], 1)
  near(px(mirrored, 1, 1), BLUE, 1)
  near(px(mirrored, 2, 1), RED, 1)
})

test("between px they are mixed, faint ones show what is under them", () => {
  const patch = new Patch(6, 4)
  patch.lay(sheet([[BLUE, BLUE, BLUE]]), [1, 0, 0, 1, 0, 0], 1)
  patch.lay(sheet([[RED, RED, RED]]), [1, 0, 0, 1, 0.5, 0], 0.5)
  near(px(patch, 2, 1), [128, 0, 128, 255])
  near(px(patch, 4, 1), [255, 0, 0, 64])
})

test("nothing is laid of what has no area or no strength, or lies beside the patch", () => {
  const patch = new Patch(4, 4)
  patch.lay(sheet([[RED]]), [0, 0, 0, 0, 2, 2], 1)
  patch.lay(sheet([[RED]]), [1, 0, 0, 1, 0, 0], 0)
  for (const [x, y] of [[-9, 0], [9, 0], [0, -9], [0, 9]]) patch.lay(sheet([[RED]]), [1, 0, 0, 1, x, y], 1)
  assert.ok(patch.words.every(word => word === 0))
})

test("any map gives what plain numbers give", () => {
  let seed = 7
  const chance = () => (seed = (seed * 16807) % 2147483647) / 2147483647
  const rows = Array.from({length: 5}, () => Array.from({length: 6}, () => [0, 1, 2].map(() => 255 * chance() | 0).concat(255 * chance() | 0)))
  const from = sheet(rows)
  const at = (x, y, byte) => x < 0 || y < 0 || x >= from.width || y >= from.height ? 0 : from.words[y * from.width + x] >>> byte & 255
  for (let round = 0; round < 60; round++) {
    const angle = 7 * chance(), s = 0.5 + 2 * chance(), strength = chance()
    const m = [s * Math.cos(angle), s * Math.sin(angle), -s * Math.sin(angle), s * Math.cos(angle), 24 * chance(), 24 * chance()]
    const patch = new Patch(24, 24), area = s * s
    patch.lay(from, m, strength)
    for (let y = 0; y < 24; y++) for (let x = 0; x < 24; x++) {
      const dx = x + 0.5 - m[4], dy = y + 0.5 - m[5]
      const u = (m[3] * dx - m[2] * dy) / area - 0.5, v = (m[0] * dy - m[1] * dx) / area - 0.5
      const [i, j] = [Math.floor(u), Math.floor(v)], [p, q] = [u - i, v - j]
      for (const byte of [0, 8, 16, 24]) {
        const mixed = (1 - q) * ((1 - p) * at(i, j, byte) + p * at(i + 1, j, byte)) + q * ((1 - p) * at(i, j + 1, byte) + p * at(i + 1, j + 1, byte))
        const found = patch.words[y * 24 + x] >>> byte & 255
        assert.ok(Math.abs(found - strength * mixed) < 5, `${found} is not ${strength * mixed} at ${x}, ${y}`)
      }
    }
  }
})

test("in perspective any map gives what plain numbers give, and nothing that is too near is laid", () => {
  let seed = 11
  const chance = () => (seed = (seed * 16807) % 2147483647) / 2147483647
  const from = sheet(Array.from({length: 14}, () => Array.from({length: 18}, () => [0, 1, 2, 3].map(() => 255 * chance() | 0))))
  const at = (x, y, byte) => x < 0 || y < 0 || x >= from.width || y >= from.height ? 0 : from.words[y * from.width + x] >>> byte & 255
  let most = 0, laid = 0
  for (let round = 0; round < 60; round++) {
    const angle = 7 * chance(), s = 0.7 + 2 * chance(), strength = round % 2 ? 1 : chance()
    const [g, h] = [0.05 * (chance() - 0.5), 0.05 * (chance() - 0.5)]
    const m = [s * Math.cos(angle), s * Math.sin(angle), -s * Math.sin(angle), s * Math.cos(angle), 40 * chance(), 40 * chance(), g, h, 1]
    const patch = new Patch(48, 48), back = inverse(m)
    patch.layDeep(from, m, strength, [4, 4, 40, 36])
    for (let y = 0; y < 48; y++) for (let x = 0; x < 48; x++) {
      const w = back[6] * (x + 0.5) + back[7] * (y + 0.5) + back[8], isIn = x >= 4 && x < 44 && y >= 4 && y < 40 && w > 0 && w < 1 / 0.02
      const u = (back[0] * (x + 0.5) + back[2] * (y + 0.5) + back[4]) / w - 0.5, v = (back[1] * (x + 0.5) + back[3] * (y + 0.5) + back[5]) / w - 0.5
      const [i, j] = [Math.floor(u), Math.floor(v)], [p, q] = [u - i, v - j]
      for (const byte of [0, 8, 16, 24]) {
        const mixed = isIn ? (1 - q) * ((1 - p) * at(i, j, byte) + p * at(i + 1, j, byte)) + q * ((1 - p) * at(i, j + 1, byte) + p * at(i + 1, j + 1, byte)) : 0
        const found = patch.words[y * 48 + x] >>> byte & 255
        laid += Number(found > 0)
        most = Math.max(most, Math.abs(found - strength * mixed))
      }
    }
  }
  assert.ok(laid > 20000, `${laid}`)
  assert.ok(most < 8, `${most}`)
})

test("what lies across the viewer is laid as far as it is before them", () => {
  const patch = new Patch(40, 40), from = sheet(Array.from({length: 30}, () => Array.from({length: 30}, () => RED)))
  // Its right half is behind the viewer.
  patch.layDeep(from, [1, 0, 0, 1, 0, 0, -1 / 16, 0, 1], 1, [0, 0, 40, 40])
  near(px(patch, 30, 39), RED, 1)
  const away = new Patch(40, 40)
  away.layDeep(from, [1, 0, 0, 1, 0, 0, 0, 0, -1], 1, [0, 0, 40, 40])
  assert.ok(away.words.every(word => word === 0))
})

test("washed colours are each times a factor, with as much added as there is, and no more than that", () => {
  const {words} = washed(sheet([[RED, FAINT]]), [0.5, 2, 1, 0, 0.25, 0.5])
  near([...bytesOf(words.slice(5, 7))], [128, 64, 128, 255, 100, 255, 168, 128], 2)
})

test("within a box px are made what a canvas takes, and only there", () => {
  const patch = new Patch(4, 3)
  for (const x of [0, 2]) patch.lay(sheet([[FAINT]]), [1, 0, 0, 1, x - 1, 0], 1)
  const {words} = patch, laid = words.slice()
  patch.given([0, 1, 2, 1])
  near([...new Uint8Array(words.buffer).slice(16, 24)], [...FAINT, 0, 0, 0, 0], 2)
  assert.deepEqual(words.slice(6, 8), laid.slice(6, 8))
})
