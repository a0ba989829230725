/** The figures at the playhead, the seam, and the state of keeping. */

import {opacityOf, peakOf, rideAt, spotOf} from "./layers.js"
import {chosenLayer, shown, tellingRider} from "./store.js"
import {tr} from "./words.js"

/** @import {State, StageScene, View} from "./types.js" */

const whole = new Intl.NumberFormat("en", {maximumFractionDigits: 0, useGrouping: false})

/** @param {number} value @param {number} [digits] */
const say = (value, digits = 1) => (Object.is(Math.round(value * 10 ** digits), -0) ? 0 : value).toFixed(digits)

/** @type {[string, string][]} */
const outOfSight = [[tr`Seam`, tr`out of the frame`]]

/** @param {import("./types.js").Seam} seam @returns {[string, string][]} */
const seamFigures = seam => [
  [tr`Seam: place`, `${say(seam.position)} px`],
  [tr`Seam: angle`, `${say(seam.angle)}°`],
  [tr`Seam: speed`, `${say(seam.speed, 0)} px/s`],
]

/** Of what rides in parts none: the report names the one that jumps. @param {import("./types.js").Layer} layer @returns {[string, string][]} */
const atSeam = ({seam, inParts}) => (!seam || inParts ? [] : seam.unseen ? outOfSight : seamFigures(seam))

/** @param {State} state @returns {[string, string][]} */
function figures(state) {
  const rider = tellingRider(state), ride = rider?.ride, settings = shown(state)?.settings
  const layer = chosenLayer(state)
  if (layer && !ride && layer.keys.length) {
    const [x, y] = spotOf(layer, state.frame), opacity = opacityOf(layer, state.frame)
    return [[tr`Place`, `${say(x)}, ${say(y)} px`], [tr`Opacity`, `${whole.format(opacity * 100)} %`], ...atSeam(layer)]
  }
  const now = rider && rideAt(rider, state.frame)
  if (!rider || !ride || !now || !settings) return []
  const {heading, speed, travelled} = now, peak = peakOf(ride)
  const turn = ((((heading + 180) % 360) + 360) % 360) - 180
  return [
    [tr`Speed`, `${whole.format(speed)} px/s`],
    [tr`Heading`, `${say(turn)}°`],
    [tr`Distance`, tr`${whole.format(travelled)} of ${whole.format(ride.length)} px`],
    [tr`Average`, `${whole.format(ride.average)} px/s`],
    [tr`Peak`, tr`${whole.format(peak.speed)} px/s at ${(peak.frame / settings.fps).toFixed(2)} s`],
    ...atSeam(rider),
  ]
}

/** Those of a rider's figures that another layer's may follow, by what the core calls them. @type {Record<string, string>} */
const FOLLOWED = {[tr`Speed`]: "speed", [tr`Heading`]: "heading", [tr`Distance`]: "travelled"}

/** @param {HTMLElement} root @returns {View} */
export function createNow(root) {
  /** @type {HTMLElement[]} */
  let values = []
  let labels = ""
  return {
    update({state}) {
      const rows = figures(state)
      const wanted = rows.map(([label]) => label).join()
      if (wanted !== labels || !root.childElementCount) {
        labels = wanted
        root.replaceChildren()
        if (!rows.length) {
          const className = "col-span-2 text-left! font-normal! whitespace-normal! text-faint"
          const textContent = tr`Choose a rider to see its speed and heading here.`
          root.append(Object.assign(document.createElement("dt"), {className, textContent}), document.createElement("dd"))
        }
        values = rows.map(([label]) => {
          const value = document.createElement("dd")
          if (FOLLOWED[label]) value.dataset.value = FOLLOWED[label]
          root.append(Object.assign(document.createElement("dt"), {textContent: label}), value)
          return value
        })
      }
      rows.forEach(([, value], i) => {
        if (values[i].textContent !== value) values[i].textContent = value
      })
    },
  }
}

/** Whether every visible rider comes round clean. @param {StageScene} scene */
function seamOf(scene) {
  const movers = scene.layers.filter(layer => layer.seen && layer.seam)
  const broken = movers.filter(layer => !layer.seam?.clean)
  if (!movers.length) return {kind: "none", words: tr`Nothing moves`, title: tr`No visible layer rides a path or has keys yet.`}
  if (!broken.length) return {kind: "", words: tr`Seam clean`, title: tr`Everything that moves meets its start again.`}
  const title = broken.map(layer => `${layer.name} ${layer.seam?.reasons.join(", ")}`).join("; ")
  return {kind: "unclean", words: broken.length === 1 ? tr`Seam shows` : tr`${broken.length} seams show`, title}
}

/** @param {HTMLElement} root the editor @returns {View} */
export function createStatus(root) {
  const find = (/** @type {string} */ selector) => /** @type {HTMLElement} */ (root.querySelector(selector))
  const seam = find("#seam"), kept = find("#kept"), told = find("#told"), legend = find("[data-legend]"), fast = find("[data-fast]")
  const words = {kept: tr`All kept`, keeping: tr`Keeping…`, waiting: tr`Waiting for the studio…`, failed: tr`Last change not kept`}
  return {
    update({state, previous}) {
      const scene = shown(state)
      if (!scene) return
      if (scene !== shown(previous)) {
        const found = seamOf(scene)
        seam.className = `seam ${found.kind}`
        seam.title = found.title
        find("#seam span").textContent = found.words
      }
      const ride = tellingRider(state)?.ride
      legend.hidden = !ride
      if (ride) fast.textContent = `${whole.format(peakOf(ride).speed)} px/s`
      if (state.kept !== previous.kept || state.sent !== previous.sent) {
        const bad = state.kept === "failed" || state.kept === "waiting", sending = state.kept === "keeping" && state.sent < 1
        kept.textContent = sending ? tr`Sending, ${Math.floor(100 * state.sent)} %` : words[state.kept]
        // Not read out loud at each percent.
        kept.ariaBusy = String(sending)
        kept.classList.toggle("text-bad", bad)
        kept.classList.toggle("text-good", !bad)
      }
      // Undo and redo say themselves what they did; after an edit there is nothing to redo.
      if (state.revision !== previous.revision && state.undo !== previous.undo && !state.redo) told.textContent = state.undo
      for (const step of /** @type {const} */ (["undo", "redo"])) {
        const button = /** @type {HTMLButtonElement} */ (find(`#${step}`))
        button.disabled = !state[step]
        button.title = state[step] ? `${step === "undo" ? tr`Undo` : tr`Redo`}: ${state[step]}` : step === "undo" ? tr`Nothing to undo` : tr`Nothing to redo`
      }
    },
  }
}
