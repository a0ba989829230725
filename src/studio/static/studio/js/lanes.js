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
  /** @type {{layer: string, ride: Ride, part: "start"|"end"|"all", x: number, pointer: number, moved: boolean}|null} */
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
      const pill = document.createElement("span")
      pill.className = `pill${chosen ? " chosen" : ""}`
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

  /** @param {PointerEvent} event */
  function edit(event) {
    const scene = store.state.scene
    if (!drag || !scene) return null
    const shift = Math.round(((event.clientX - drag.x) / root.clientWidth) * scene.settings.length)
    const {start, end} = drag.ride
    const fields = {layer: drag.layer}
    if (drag.part === "all") return {form: "time", fields: {...fields, start_f: String(start + shift)}}
    if (drag.part === "end") return {form: "time", fields: {...fields, lasts_f: String(Math.max(end - start + shift, 1))}}
    const begin = Math.min(start + shift, end - 1)
    return {form: "time", fields: {...fields, start_f: String(begin), lasts_f: String(end - begin)}}
  }

  root.addEventListener("pointerdown", event => {
    const bar = /** @type {Element} */ (event.target).closest(".bar")
    if (!(bar instanceof HTMLElement) || event.button !== 0) return
    const layer = store.state.scene?.layers.find(l => l.id === bar.dataset.layer)
    if (!layer?.ride) return
    const box = bar.getBoundingClientRect()
    const part = event.clientX - box.left < EDGE ? "start" : box.right - event.clientX < EDGE ? "end" : "all"
    drag = {layer: layer.id, ride: layer.ride, part, x: event.clientX, pointer: event.pointerId, moved: false}
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
    if (done) store.set({chosen: {kind: "layer", id: done.layer}})
    if (wanted) void edits.commit(wanted)
  })
  root.addEventListener("pointercancel", () => cancel())
  root.addEventListener("click", event => {
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
      if (shown(state) === shown(previous) && state.chosen === previous.chosen) return
      const now = shows(state)
      if (now !== drawn || state.chosen !== previous.chosen) draw(state)
      drawn = now
    },
  }
}
