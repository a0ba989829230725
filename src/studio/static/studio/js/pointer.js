/**
 * The pointer on the stage: hands what it does to the tool that is up, pans and zooms, and makes sure
 * that nothing is left half done when a drag breaks off.
 */

import {Hold} from "./hold.js"

/** @import {At, Drag, Tool} from "./types.js" */

const NEAR_PX = 9, NEAR_TOUCH_PX = 20
const DOUBLE_MS = 400

/**
 * @param {HTMLElement} bench
 * @param {{store: import("./store.js").Store, view: import("./view.js").StageView, tools: Record<string, Tool>}} parts
 */
export function wirePointer(bench, {store, view, tools}) {
  const hint = /** @type {HTMLElement} */ (bench.querySelector("[data-hint]"))
  const words = /** @type {HTMLElement} */ (bench.querySelector("[data-hint-words]"))
  const done = /** @type {HTMLElement} */ (bench.querySelector("[data-done]"))
  const hold = new Hold(bench)
  /** @type {Map<number, PointerEvent>} */
  const touches = new Map()
  /** @type {{x: number, y: number, apart: number}|null} */
  let pinch = null
  let hand = false
  let lastPress = {time: -1e9, x: 0, y: 0}

  const tool = () => tools[store.state.tool] ?? tools.pick

  /** @param {PointerEvent} event @returns {At} */
  const at = event => ({
    event, target: /** @type {Element} */ (event.target), point: view.point(event),
    reach: (event.pointerType === "touch" ? NEAR_TOUCH_PX : NEAR_PX) / view.scale,
  })

  function tell() {
    const said = tool().hint()
    hint.hidden = !said
    words.textContent = said
    done.hidden = store.state.tool !== "pen"
    bench.style.cursor = hand || store.state.tool === "hand" ? "grab" : tool().cursor
    for (const button of bench.querySelectorAll("[data-tool]"))
      button.setAttribute("aria-pressed", String(/** @type {HTMLElement} */ (button).dataset.tool === store.state.tool))
  }

  /** @param {string} name */
  function pickTool(name) {
    if (!(name in tools)) return
    breakOff()
    if (name !== store.state.tool) tool().leave?.()
    store.set({tool: name, draft: null, guides: []})
    tell()
  }

  /** @returns {Drag} */
  function panning(/** @type {PointerEvent} */ from) {
    let {clientX, clientY} = from
    bench.style.cursor = "grabbing"
    return {
      move({event}) {
        view.pan(event.clientX - clientX, event.clientY - clientY)
        clientX = event.clientX
        clientY = event.clientY
      },
      drop: tell,
      cancel: tell,
    }
  }

  const breakOff = () => hold.cancel()

  /** Two fingers move and scale the view. @param {PointerEvent} event */
  function spread(event) {
    touches.set(event.pointerId, event)
    const [a, b] = [...touches.values()]
    const now = {x: (a.clientX + b.clientX) / 2, y: (a.clientY + b.clientY) / 2, apart: Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY)}
    if (pinch) {
      view.pan(now.x - pinch.x, now.y - pinch.y)
      if (pinch.apart > 0) view.zoom(now.apart / pinch.apart, /** @type {any} */ ({clientX: now.x, clientY: now.y}))
    }
    pinch = now
  }

  bench.addEventListener("pointerdown", event => {
    const target = /** @type {Element} */ (event.target)
    if (target.closest("button, a, input, label, .menu, .badge, .toolbox")) return
    if (event.pointerType === "touch") touches.set(event.pointerId, event)
    if (touches.size === 2) {
      breakOff()
      pinch = null
      return
    }
    if (hold.busy) return
    const pans = event.button === 1 || (event.button === 0 && (hand || store.state.tool === "hand"))
    if (event.button !== 0 && !pans) return
    event.preventDefault()
    const focused = /** @type {HTMLElement|null} */ (document.activeElement)
    if (focused && focused !== document.body) focused.blur()
    const work = pans ? panning(event) : tool().press(at(event))
    if (!work) return tell()
    hold.begin(event, {
      eager: work.eager,
      move: moved => work.move(at(moved)),
      cancel: () => work.cancel(),
      drop(dropped) {
        work.drop(at(dropped))
        tell()
        again(dropped)
      },
    })
  })

  /** A second press at the same place, soon after the first, is a double one. @param {PointerEvent} event */
  function again(event) {
    const near = Math.hypot(event.clientX - lastPress.x, event.clientY - lastPress.y) < 4
    if (near && event.timeStamp - lastPress.time < DOUBLE_MS) {
      lastPress.time = -1e9
      tool().double?.(at(event))
    } else lastPress = {time: event.timeStamp, x: event.clientX, y: event.clientY}
  }

  bench.addEventListener("pointermove", event => {
    if (touches.size === 2 && touches.has(event.pointerId)) return spread(event)
    if (hold.busy) return
    if (hand || store.state.tool === "hand" || event.target !== bench && !/** @type {Element} */ (event.target).closest(".overlay, .ground, canvas")) return
    const cursor = tool().hover?.(at(event))
    if (typeof cursor === "string") bench.style.cursor = cursor
  })

  bench.addEventListener("pointerup", event => {
    touches.delete(event.pointerId)
    pinch = null
  })
  for (const name of /** @type {const} */ (["pointercancel", "lostpointercapture"]))
    bench.addEventListener(name, event => touches.delete(event.pointerId))

  bench.addEventListener("wheel", event => {
    if (/** @type {Element} */ (event.target).closest(".menu")) return
    event.preventDefault()
    const lines = event.deltaMode === 1 ? 16 : 1
    if (event.shiftKey) view.pan(-(event.deltaX || event.deltaY) * lines, 0)
    else view.zoom(Math.exp(-Math.max(-300, Math.min(300, event.deltaY * lines)) * (event.ctrlKey ? 0.01 : 0.0018)), event)
  }, {passive: false})

  bench.addEventListener("change", event => {
    const {name, value, dataset} = /** @type {HTMLInputElement} */ (event.target)
    if ("figureOption" in dataset) store.set({options: {...store.state.options, [name]: value}})
  })
  document.addEventListener("click", event => {
    const target = /** @type {Element} */ (event.target)
    const button = target.closest("[data-tool]")
    if (button instanceof HTMLElement) {
      const {figure, shape} = button.dataset
      store.set({...(figure ? {figure} : {}), ...(shape ? {shape} : {})})
      pickTool(button.dataset.tool ?? "pick")
    }
    if (target.closest("[data-done]")) pickTool("pick")
  })
  tell()

  return {
    pickTool,
    tell,
    cancel: breakOff,
    /** The hand, while its key is held. @param {boolean} on */
    handHeld(on) {
      if (hand === on) return
      hand = on
      tell()
    },
    /** Keys go to the tool first. @param {KeyboardEvent} event */
    key: event => tool().key?.(event) ?? false,
  }
}

/** @typedef {ReturnType<typeof wirePointer>} Pointer */
