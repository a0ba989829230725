/** The pointer on the stage: picks what is there, drags what stands still, places new things. */

import {course, matrixOf} from "./picture.js"
import {shown} from "./store.js"

/** @import {Layer, State} from "./types.js" */

const HINTS = {
  text: "Click where the text is to stand",
  rectangle: "Click where the rectangle is to stand",
  ellipse: "Click where the ellipse is to stand",
  star: "Click where the star is to stand",
}

const probe = /** @type {CanvasRenderingContext2D} */ (document.createElement("canvas").getContext("2d"))

/** @param {Layer} layer @param {number} frame @param {[number, number]} point scene px */
function hits(layer, frame, [x, y]) {
  const [a, b, c, d, e, f] = matrixOf(layer, frame)
  const own = new DOMMatrix([a, b, c, d, e, f]).inverse().transformPoint({x, y})
  const [left, top, width, height] = layer.drawable.box
  if (layer.drawable.asset || layer.type === "text")
    return own.x >= left && own.x <= left + width && own.y >= top && own.y <= top + height
  return layer.drawable.outlines.some(outline => {
    if (outline.fill && probe.isPointInPath(course(outline.d), own.x, own.y)) return true
    probe.lineWidth = Math.max(outline.width, 8)
    return Boolean(outline.stroke) && probe.isPointInStroke(course(outline.d), own.x, own.y)
  })
}

/** The frontmost layer there that may be picked; the largest still ones count as ground and come last. */
function layerAt(/** @type {State} */ state, /** @type {[number, number]} */ point) {
  const scene = shown(state)
  const found = (scene?.layers ?? []).filter(layer => layer.visible && !layer.locked && hits(layer, state.frame, point))
  const {width, height} = scene?.settings ?? {width: 0, height: 0}
  const ground = found.filter(({drawable: {box}, matrices, type}) => {
    const [a, b, c, d] = matrices
    return type === "picture" && matrices.length === 6 && box[2] * Math.hypot(a, b) >= width * 0.9 && box[3] * Math.hypot(c, d) >= height * 0.9
  })
  return found.findLast(layer => !ground.includes(layer)) ?? ground.at(-1)
}

/**
 * @param {HTMLElement} bench
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, view: import("./view.js").StageView,
 *   say: (words: string) => void}} tools
 */
export function wirePointer(bench, {store, edits, view, say}) {
  const hint = /** @type {HTMLElement} */ (bench.querySelector("[data-hint]"))
  /** @type {{layer: Layer, from: [number, number], moved: boolean, pointer: number}|null} */
  let drag = null

  /** @param {string} tool */
  function pickTool(tool) {
    store.set({tool})
    const words = HINTS[/** @type {keyof typeof HINTS} */ (tool)]
    hint.hidden = !words
    hint.textContent = words ? `${words}. Esc puts the tool down.` : ""
    bench.style.cursor = words ? "crosshair" : ""
    for (const button of bench.querySelectorAll("[data-tool]"))
      button.setAttribute("aria-pressed", String(/** @type {HTMLElement} */ (button).dataset.tool === tool))
  }

  /** @param {string} what @param {[number, number]} point */
  async function place(what, [x, y]) {
    const before = new Set(store.state.scene?.layers.map(layer => layer.id))
    await edits.commit({form: "add", fields: {what, x: x.toFixed(1), y: y.toFixed(1)}})
    pickTool("pick")
    const made = store.state.scene?.layers.find(layer => !before.has(layer.id))
    if (made) store.set({chosen: {kind: "layer", id: made.id}})
  }

  /** @param {PointerEvent} event */
  function placed(event) {
    if (!drag) return null
    const [x, y] = view.point(event)
    let dx = x - drag.from[0], dy = y - drag.from[1]
    if (event.shiftKey && Math.abs(dx) > Math.abs(dy)) dy = 0
    else if (event.shiftKey) dx = 0
    const [px, py] = drag.layer.position
    return {form: "place", fields: {layer: drag.layer.id, x: (px + dx).toFixed(2), y: (py + dy).toFixed(2)}}
  }

  bench.addEventListener("pointerdown", event => {
    const target = /** @type {Element} */ (event.target)
    const tool = target.closest("[data-tool]")
    if (tool instanceof HTMLElement) return pickTool(tool.dataset.tool ?? "pick")
    if (event.button !== 0 || target.closest("button, .badge")) return
    const point = view.point(event)
    if (store.state.tool !== "pick") return void place(store.state.tool, point)
    const layer = layerAt(store.state, point)
    const rail = target.closest("[data-rail]")
    const onChosen = layer && store.state.chosen?.id === layer.id
    if (rail instanceof SVGElement && !onChosen) {
      store.set({chosen: {kind: "path", id: rail.dataset.rail ?? ""}})
      return
    }
    if (!layer) return
    store.set({chosen: {kind: "layer", id: layer.id}})
    if (layer.type === "line") return
    bench.setPointerCapture(event.pointerId)
    drag = {layer, from: point, moved: false, pointer: event.pointerId}
  })

  bench.addEventListener("pointermove", event => {
    if (!drag || event.pointerId !== drag.pointer) return
    const [x, y] = view.point(event)
    if (!drag.moved && Math.hypot(x - drag.from[0], y - drag.from[1]) * view.scale < 3) return
    if (!drag.moved && drag.layer.ride) {
      const path = store.state.scene?.paths.find(p => p.id === drag?.layer.ride?.path)
      say(`${drag.layer.name} rides ${path?.name}; its place is set by the ride.`)
      drag = null
      return
    }
    drag.moved = true
    const edit = placed(event)
    if (edit) edits.look(edit)
  })

  /** @param {PointerEvent} event */
  const release = event => {
    const edit = drag?.moved && event.pointerId === drag.pointer ? placed(event) : null
    drag = null
    if (edit) void edits.commit(edit)
  }
  bench.addEventListener("pointerup", release)
  bench.addEventListener("pointercancel", () => cancel())

  function cancel() {
    if (!drag) return false
    drag = null
    edits.lookAway()
    return true
  }

  return {cancel, pickTool}
}
