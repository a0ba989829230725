/** The shelf: choosing, small switches, and carrying a layer onto a path or a path onto a layer. */

/** @import {Chosen, State, View} from "./types.js" */

/** @param {string} text @returns {Chosen|null} */
export function chosenFrom(text) {
  const [kind, id] = text.split(":")
  return (kind === "layer" || kind === "path") && id ? {kind, id} : null
}

/**
 * @param {HTMLElement} root
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, stage: HTMLElement}} tools
 * @returns {View & {swapped: () => void, cancel: () => boolean}}
 */
export function createShelf(root, {store, edits, stage}) {
  /** @type {{item: HTMLElement, x: number, y: number, pointer: number, label: HTMLElement|null, onto: HTMLElement|null}|null} */
  let carry = null
  let carried = false

  document.addEventListener("click", event => {
    const target = /** @type {Element} */ (event.target)
    const choose = target.closest("[data-choose]"), commands = target.closest("[data-commands]")
    if (carried) {
      carried = false
      event.preventDefault()
    } else if (commands instanceof HTMLElement) void edits.commit({commands: JSON.parse(commands.dataset.commands ?? "[]")})
    else if (choose instanceof HTMLElement) store.set({chosen: chosenFrom(choose.dataset.choose ?? "")})
  })
  root.addEventListener("click", event => {
    const add = /** @type {Element} */ (event.target).closest("[data-add]")
    if (add instanceof HTMLElement) void addLayer(add.dataset.add ?? "")
  })

  /** @param {string} what */
  async function addLayer(what) {
    const before = new Set(store.state.scene?.layers.map(layer => layer.id))
    await edits.commit({form: "add", fields: {what}})
    const made = store.state.scene?.layers.find(layer => !before.has(layer.id))
    if (made) store.set({chosen: {kind: "layer", id: made.id}})
  }

  /** What a carried thing may be dropped on: always one layer and one path, whichever is carried. */
  function targetAt(/** @type {PointerEvent} */ event) {
    if (!carry) return null
    const wants = carry.item.dataset.carries === "layer" ? "path" : "layer"
    for (const under of document.elementsFromPoint(event.clientX, event.clientY)) {
      const item = under.closest(`#shelf [data-carries="${wants}"]:not([data-line])`)
      if (item instanceof HTMLElement) return item
      const rail = wants === "path" ? under.closest("[data-rail]") : null
      if (rail instanceof SVGElement && stage.contains(rail))
        return /** @type {HTMLElement|null} */ (root.querySelector(`[data-path="${CSS.escape(rail.dataset.rail ?? "")}"]`))
    }
    return null
  }

  /** @param {HTMLElement} a @param {HTMLElement} b */
  const pair = (a, b) => (a.dataset.carries === "layer" ? {layer: a, path: b} : {layer: b, path: a})

  root.addEventListener("pointerdown", event => {
    const item = /** @type {Element} */ (event.target).closest("[data-carries]:not([data-line])")
    if (!(item instanceof HTMLElement) || event.button !== 0 || !(/** @type {Element} */ (event.target).closest("[data-choose]"))) return
    carried = false
    carry = {item, x: event.clientX, y: event.clientY, pointer: event.pointerId, label: null, onto: null}
  })
  document.addEventListener("pointermove", event => {
    if (!carry || event.pointerId !== carry.pointer) return
    if (!carry.label) {
      if (Math.hypot(event.clientX - carry.x, event.clientY - carry.y) < 6) return
      carry.label = document.body.appendChild(document.createElement("div"))
      carry.label.className = "carried"
    }
    const onto = targetAt(event)
    if (onto !== carry.onto) {
      mark(carry.onto, false)
      mark(onto, true)
      carry.onto = onto
    }
    const names = onto && pair(carry.item, onto)
    carry.label.textContent = names ? `${names.layer.dataset.name} will ride ${names.path.dataset.name}`
      : carry.item.dataset.carries === "layer" ? `Drop ${carry.item.dataset.name} on a path` : `Drop ${carry.item.dataset.name} on a layer`
    carry.label.style.transform = `translate(${event.clientX + 12}px, ${event.clientY + 10}px)`
  })
  document.addEventListener("pointerup", event => {
    if (!carry || event.pointerId !== carry.pointer) return
    const {item, onto, label} = carry
    carried = Boolean(label)
    cancel()
    if (carried) setTimeout(() => { carried = false })
    if (!onto) return
    const {layer, path} = pair(item, onto)
    const [layerId, pathId] = [layer.dataset.layer ?? "", path.dataset.path ?? ""]
    store.set({chosen: {kind: "layer", id: layerId}})
    void edits.commit({form: "attach", fields: {layer: layerId, path: pathId}})
  })
  document.addEventListener("pointercancel", () => cancel())

  /** @param {HTMLElement|null} item @param {boolean} on */
  function mark(item, on) {
    const face = item?.dataset.carries === "path" ? item.firstElementChild : item
    face?.classList.toggle("target", on)
  }

  function cancel() {
    if (!carry) return false
    const dragging = Boolean(carry.label)
    carry.label?.remove()
    mark(carry.onto, false)
    carry = null
    return dragging
  }

  /** @param {State} state */
  function show(state) {
    const on = state.chosen ? `${state.chosen.kind}:${state.chosen.id}` : ""
    for (const button of root.querySelectorAll("[data-choose]")) {
      const chosen = /** @type {HTMLElement} */ (button).dataset.choose === on
      button.setAttribute("aria-pressed", String(chosen))
      const face = button.classList.contains("tile") ? button : button.parentElement
      face?.classList.toggle("chosen", chosen)
    }
  }

  return {
    cancel,
    swapped: () => show(store.state),
    update({state, previous}) {
      if (state.chosen !== previous.chosen) show(state)
    },
  }
}
