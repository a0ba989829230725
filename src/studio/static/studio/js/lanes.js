/** A lane a rider: its ride as a bar over the time it takes, its pegs as pills. Bars slide and stretch. */

import {shown} from "./store.js"

/** @import {Layer, Ride, State, View} from "./types.js" */

const EDGE = 9

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits}} tools
 * @returns {View & {cancel: () => boolean}}
 */
export function createLanes(root, {store, edits}) {
  /** @type {{layer: string, ride: Ride, part: "start"|"end"|"all"|"peg", peg: string, x: number, pointer: number, moved: boolean}|null} */
  let drag = null

  /** @param {Layer} layer @param {State} state */
  function lane(layer, state) {
    const scene = shown(state), ride = layer.ride
    if (!scene || !ride) return []
    const chosen = state.chosen?.id === layer.id || (state.chosen?.kind === "path" && state.chosen.id === ride.path)
    const length = scene.settings.length
    const row = document.createElement("div")
    row.className = "lane"
    const bar = document.createElement("button")
    bar.className = `bar${chosen ? " chosen" : ""}`
    bar.dataset.layer = layer.id
    const start = Math.max(ride.start, 0), end = Math.min(Math.max(ride.end, start), length)
    bar.style.left = `${(start / length) * 100}%`
    bar.style.width = `${((end - start) / length) * 100}%`
    bar.textContent = `${layer.name} · ${scene.paths.find(p => p.id === ride.path)?.name ?? ""}`
    const seconds = (/** @type {number} */ frames) => (frames / scene.settings.fps).toFixed(2)
    bar.title = `${layer.name}: ${seconds(ride.start)} to ${seconds(ride.end)} s. Drag to slide, drag an end to stretch.`
    row.append(bar)
    for (const peg of ride.pegs) {
      const pill = document.createElement("button")
      pill.className = `pill${chosen ? " chosen" : ""}${state.peg === peg.id && state.chosen?.id === layer.id ? " picked" : ""}`
      pill.dataset.peg = peg.id
      pill.dataset.of = layer.id
      pill.title = `Peg at ${seconds(peg.time)} s. Drag to another time.`
      pill.setAttribute("aria-label", `Peg of ${layer.name} at ${seconds(peg.time)} s`)
      pill.style.left = `clamp(4px, ${(peg.time / length) * 100}%, 100% - 4px)`
      row.append(pill)
    }
    return [row]
  }

  /** @param {State} state */
  function draw(state) {
    const rows = [...(shown(state)?.layers ?? [])].reverse().flatMap(layer => lane(layer, state))
    if (!rows.length) {
      const empty = document.createElement("p")
      empty.className = "empty mt-2"
      empty.textContent = "Put a layer on a path, and the time it takes shows here."
      rows.push(empty)
    }
    const focus = /** @type {HTMLElement|null} */ (document.activeElement)?.dataset.layer
    root.replaceChildren(...rows)
    if (focus) /** @type {HTMLElement|null} */ (root.querySelector(`[data-layer="${CSS.escape(focus)}"]`))?.focus()
  }

  /** @param {PointerEvent} event @returns {import("./types.js").Edit|null} */
  function edit(event) {
    const scene = store.state.scene
    if (!drag || !scene) return null
    const shift = Math.round(((event.clientX - drag.x) / root.clientWidth) * scene.settings.length)
    const {start, end, pegs} = drag.ride
    if (drag.part === "peg") {
      const {peg} = drag, index = pegs.findIndex(other => other.id === peg)
      const low = index ? Math.floor(pegs[index - 1].time) + 1 : -Infinity
      const high = index + 1 < pegs.length ? Math.ceil(pegs[index + 1].time) - 1 : Infinity
      const time = Math.min(Math.max(Math.round(pegs[index].time) + shift, low), high)
      return {form: "peg-pace", fields: {layer: drag.layer, peg, time_f: String(time)}}
    }
    const fields = {layer: drag.layer}
    if (drag.part === "all") return {form: "time", fields: {...fields, start_f: String(start + shift)}}
    if (drag.part === "end") return {form: "time", fields: {...fields, lasts_f: String(Math.max(end - start + shift, 1))}}
    const begin = Math.min(start + shift, end - 1)
    return {form: "time", fields: {...fields, start_f: String(begin), lasts_f: String(end - begin)}}
  }

  root.addEventListener("pointerdown", event => {
    if (event.button !== 0) return
    const pill = /** @type {Element} */ (event.target).closest(".pill")
    const rider = pill instanceof HTMLElement && store.state.scene?.layers.find(l => l.id === pill.dataset.of)
    if (pill instanceof HTMLElement && rider && rider.ride) {
      // The first and the last peg are the bar's ends: they stretch the ride, pegs between go along.
      const at = rider.ride.pegs.findIndex(peg => peg.id === pill.dataset.peg)
      const part = at === 0 ? "start" : at === rider.ride.pegs.length - 1 ? "end" : "peg"
      drag = {layer: rider.id, ride: rider.ride, part, peg: pill.dataset.peg ?? "", x: event.clientX, pointer: event.pointerId, moved: false}
      root.setPointerCapture(event.pointerId)
      return
    }
    const bar = /** @type {Element} */ (event.target).closest(".bar")
    if (!(bar instanceof HTMLElement)) return
    const layer = store.state.scene?.layers.find(l => l.id === bar.dataset.layer)
    if (!layer?.ride) return
    const box = bar.getBoundingClientRect()
    const part = event.clientX - box.left < EDGE ? "start" : box.right - event.clientX < EDGE ? "end" : "all"
    drag = {layer: layer.id, ride: layer.ride, part, peg: "", x: event.clientX, pointer: event.pointerId, moved: false}
    root.setPointerCapture(event.pointerId)
  })
  root.addEventListener("pointermove", event => {
    if (!drag || event.pointerId !== drag.pointer || (!drag.moved && Math.abs(event.clientX - drag.x) < 3)) return
    drag.moved = true
    const wanted = edit(event)
    if (wanted) edits.look(wanted)
  })
  root.addEventListener("pointerup", event => {
    const done = drag, wanted = done?.moved ? edit(event) : null
    drag = null
    if (done) store.set({chosen: {kind: "layer", id: done.layer}, peg: done.peg})
    if (wanted) void edits.commit(wanted)
  })
  root.addEventListener("pointercancel", () => cancel())
  root.addEventListener("click", event => {
    const pill = /** @type {Element} */ (event.target).closest(".pill")
    if (pill instanceof HTMLElement && event.detail === 0)
      store.set({chosen: {kind: "layer", id: pill.dataset.of ?? ""}, peg: pill.dataset.peg ?? ""})
    const bar = /** @type {Element} */ (event.target).closest(".bar")
    if (bar instanceof HTMLElement && event.detail === 0) store.set({chosen: {kind: "layer", id: bar.dataset.layer ?? ""}})
  })

  function cancel() {
    if (!drag) return false
    drag = null
    edits.lookAway()
    return true
  }

  /** All that the lanes show, as text: while a path is shaped, none of it changes. @param {State} state */
  function shows(state) {
    const scene = shown(state)
    const rides = scene?.layers.map(({id, name, ride}) => ride && [id, name, ride.path, ride.start, ride.end, ride.pegs.map(peg => peg.time)])
    return JSON.stringify([rides, scene?.paths.map(path => path.name), scene?.settings.length, scene?.settings.fps])
  }
  let drawn = ""

  return {
    cancel,
    update({state, previous}) {
      const other = state.chosen !== previous.chosen || state.peg !== previous.peg
      if (shown(state) === shown(previous) && !other) return
      const now = shows(state)
      if (now !== drawn || other) draw(state)
      drawn = now
    },
  }
}
