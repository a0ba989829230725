/** Carrying a row of the shelf: a layer onto a path or a path onto a layer rides; a layer among layers is put there. */

import {Hold} from "./hold.js"
import {groupsOf, layerOf} from "./layers.js"
import {chosenIds} from "./store.js"
import {tr} from "./words.js"

/** @import {Edit} from "./types.js" */
/** @import {Store} from "./store.js" */

/** Px before a press is a drag. */
const SLACK = 6
/** The share of a group's row, from its top, in which a drop is in front of it; as much below is behind it. */
const RIM = 0.3

/**
 * @typedef {{rows: HTMLElement[], where: "onto"|"before"|"after"|"into", words: string, edit: Edit, choose: string}} Drop rows that
 *   show where, and what a drop there does
 */

export class Carry {
  /** @type {{item: HTMLElement, label: HTMLElement|null, drop: Drop|null}|null} */
  held = null
  /** A click that ends a drag chooses nothing. */
  ended = false

  /**
   * @param {HTMLElement} root
   * @param {{store: Store, stage: HTMLElement, layerOn: (event: PointerEvent) => string|null, carryOut: (edit: Edit, choose: string) => void}} tools
   *   with which layer is on the stage under the pointer
   */
  constructor(root, {store, stage, layerOn, carryOut}) {
    this.layerOn = layerOn
    this.root = root
    this.store = store
    this.stage = stage
    this.carryOut = carryOut
    // The pointer stays with what it is over: a press that is no drag is to choose the row.
    this.hold = new Hold(root, {free: true})
    root.addEventListener("pointerdown", event => this.press(event))
  }

  /** @param {PointerEvent} event */
  press(event) {
    const target = /** @type {Element} */ (event.target), item = target.closest("[data-carries]")
    if (!(item instanceof HTMLElement) || event.button !== 0 || !target.closest("[data-choose]")) return
    this.ended = false
    this.held = {item, label: null, drop: null}
    this.hold.begin(event, {
      slack: SLACK,
      move: moved => this.move(moved),
      drop: () => this.drop(),
      cancel: () => this.putBack(),
      click: () => this.putBack(),
    })
  }

  /** @param {PointerEvent} event */
  move(event) {
    const {held} = this
    if (!held) return
    if (!held.label) {
      held.label = document.body.appendChild(document.createElement("div"))
      held.label.className = "carried"
    }
    this.mark(false)
    held.drop = this.dropAt(event)
    this.mark(true)
    held.label.textContent = held.drop?.words ?? this.help(held.item)
    held.label.style.transform = `translate(${event.clientX + 12}px, ${event.clientY + 10}px)`
  }

  /** @param {HTMLElement} item */
  help(item) {
    if (item.dataset.carries === "path") return tr`Drop ${item.dataset.name} on a layer`
    return "line" in item.dataset ? tr`Drop ${item.dataset.name} among the layers` : tr`Drop ${item.dataset.name} on a path, or among the layers`
  }

  drop() {
    const drop = this.held?.drop
    this.putBack()
    this.ended = true
    setTimeout(() => { this.ended = false })
    if (drop) this.carryOut(drop.edit, drop.choose)
  }

  cancel() {
    const dragging = Boolean(this.held?.label)
    this.hold.cancel()
    return dragging
  }

  putBack() {
    this.held?.label?.remove()
    this.mark(false)
    this.held = null
  }

  /** @param {boolean} on */
  mark(on) {
    const drop = this.held?.drop
    for (const row of drop?.rows ?? []) {
      const face = row.dataset.carries === "path" ? row.firstElementChild : row
      face?.classList.toggle(drop?.where === "onto" || drop?.where === "into" ? "target" : `drop-${drop?.where}`, on)
    }
  }

  /** @param {PointerEvent} event @returns {Drop|null} */
  dropAt(event) {
    const item = this.held?.item
    if (!item) return null
    const under = document.elementsFromPoint(event.clientX, event.clientY)
    const row = under.map(each => each.closest("#shelf [data-carries]")).find(each => each instanceof HTMLElement)
    const rail = under.map(each => each.closest("[data-rail]")).find(each => each instanceof SVGElement && this.stage.contains(each))
    const railRow = rail instanceof SVGElement ? this.root.querySelector(`[data-path="${CSS.escape(rail.dataset.rail ?? "")}"]`) : null
    const layer = item.dataset.carries === "path" && !row ? this.layerOn(event) : null
    const layerRow = layer && this.root.querySelector(`[data-layer="${CSS.escape(layer)}"]`)
    const onto = row ?? layerRow ?? railRow
    if (!(onto instanceof HTMLElement) || onto === item) return null
    if (item.dataset.carries === "layer" && onto.dataset.carries === "layer") return this.among(item, onto, event.clientY)
    return item.dataset.carries === onto.dataset.carries ? null : this.riding(item, onto)
  }

  /** @param {HTMLElement} item @param {HTMLElement} onto @returns {Drop|null} */
  riding(item, onto) {
    const [layer, path] = item.dataset.carries === "layer" ? [item, onto] : [onto, item]
    if ("line" in layer.dataset) return null
    const [id, rail] = [layer.dataset.layer ?? "", path.dataset.path ?? ""]
    const words = tr`${layer.dataset.name} will ride ${path.dataset.name}`
    return {rows: [onto], where: "onto", words, edit: {form: "attach", fields: {layer: id, path: rail}}, choose: id}
  }

  /**
   * A layer, or all chosen ones, before or behind another, or into a group.
   * @param {HTMLElement} item @param {HTMLElement} onto @param {number} y @returns {Drop|null}
   */
  among(item, onto, y) {
    const {scene} = this.store.state, id = item.dataset.layer ?? "", target = layerOf(scene, onto.dataset.layer)
    const chosen = chosenIds(this.store.state), ids = chosen.includes(id) ? chosen : [id]
    if (!scene || !target || ids.includes(target.id) || groupsOf(scene, target).some(group => ids.includes(group.id))) return null
    const box = onto.getBoundingClientRect(), share = (y - box.top) / box.height
    const into = target.can.hold && share >= RIM && share <= 1 - RIM
    const where = into ? "into" : share < 0.5 ? "before" : "after"
    const parent = into ? target.id : target.parent
    const staying = scene.layers.filter(layer => layer.parent === parent && !ids.includes(layer.id))
    const place = into ? staying.length : staying.indexOf(target) + (where === "before" ? 1 : 0)
    const what = ids.length > 1 ? tr`${ids.length} layers` : item.dataset.name
    const words = {
      into: tr`${what} into ${target.name}`, before: tr`${what} in front of ${target.name}`, after: tr`${what} behind ${target.name}`,
    }[where]
    const fields = {layers: ids.join(" "), parent: parent ?? "", place: String(place), frame: String(this.store.state.frame)}
    return {rows: [onto], where, words, edit: {form: "put", fields}, choose: ""}
  }
}
