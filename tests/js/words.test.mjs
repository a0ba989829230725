import assert from "node:assert/strict"
import {afterEach, test} from "node:test"

import {small, tr, word} from "../../src/studio/static/studio/js/words.js"

afterEach(() => {
  delete globalThis.gettext
  delete globalThis.document
})

test("without a catalogue texts are as they are, with their values", () => {
  assert.equal(tr`Only ${"Manta"} is shown`, "Only Manta is shown")
  assert.equal(tr`All kept`, "All kept")
  assert.equal(word("wave"), "wave")
})

test("a catalogue has texts with the places of their values, in any order", () => {
  const texts = {"{0} into {1}": "in {1}: {0}", wave: "Welle"}
  globalThis.gettext = text => texts[text] ?? text
  assert.equal(tr`${"Fish"} into ${"{0}"}`, "in {0}: Fish", "a value is not looked into")
  assert.equal(tr`${3} of ${4}`, "3 of 4", "a text that is not there is as it is")
  assert.equal(word("wave"), "Welle")
})

test("what stands alone is small within a sentence, where a language has it so", () => {
  globalThis.document = {documentElement: {lang: "en"}}
  assert.equal(small("From above"), "from above")
  globalThis.document = {documentElement: {lang: "de"}}
  assert.equal(small("Deckkraft"), "Deckkraft")
})
