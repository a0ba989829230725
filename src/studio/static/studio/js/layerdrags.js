/** Drags of what is on the stage: layers, one or several; places that keys give; pins; what a rider looks at. */

import {Offer} from "./offer.js"
import {layersIn} from "./hits.js"
import {canStand, isOnItsPath, spotOf} from "./layers.js"
import {moved} from "./pathdrags.js"
import {straight} from "./snap.js"
import {px, StageDrags} from "./stagedrags.js"
import {stopsOf} from "./stops.js"
import {chosenIds, layersChosen, shown} from "./store.js"
import {tr} from "./words.js"

/** @import {At, Drag, Layer, Point} from "./types.js" */

const SAME_TIME = 1e-6
/** Px after which a press was meant to carry something somewhere. */
const REALLY_DRAGGED = 12
/** Px from which on a press beside everything is a band. */
const BAND_PX = 4

export class LayerDrags extends StageDrags {
  /** @param {At} at @param {Layer} layer */
  layer(at, layer) {
    this.#choose(layer.id, at.event.shiftKey)
    if (!canStand(layer)) return null
    if (this.store.state.pin) return this.#pin(at, layer)
    const layers = chosenIds(this.store.state), together = layers.length > 1
    if (isOnItsPath(layer) && !together) return this.#onItsAnchor(at, layer) ? this.refusing(at, this.#whyItStays(layer)) : this.#shift(at, layer)
    const from = this.#spot(layer), frame = String(this.store.state.frame)
    const place = this.#followed(at, layer, from)
    return this.#orRides(at, together ? null : layer, this.dragging(at, now => {
      const [x, y] = place(now)
      /** @type {Record<string, string>} */
      const where = together
        ? {layers: layers.join(" "), dx: px(x - from[0]), dy: px(y - from[1])}
        : {to_x: px(x), to_y: px(y)}
      return {form: "place", fields: {layer: layer.id, frame, ...where}}
    }, () => {
      if (together && !at.event.shiftKey) this.store.set({chosen: {kind: "layer", id: layer.id}})
    }))
  }

  /**
   * A layer that is dragged, and held still over a rail, is to ride it; one that is only pressed for long is not.
   * @param {At} begun @param {Layer|null} layer @param {Drag} drag @returns {Drag}
   */
  #orRides({event: from}, layer, drag) {
    if (!layer) return drag
    let dragged = false
    const offer = new Offer(path => ({
      words: tr`${layer.name} will ride ${path.name}`,
      edit: {form: "attach", fields: {layer: layer.id, path: path.id}},
    }), this)
    return {
      ...drag,
      move: at => {
        dragged ||= Math.hypot(at.event.clientX - from.clientX, at.event.clientY - from.clientY) > REALLY_DRAGGED
        if (dragged) offer.over(at)
        if (!offer.edit) drag.move(at)
      },
      drop: at => {
        const {edit} = offer
        offer.end()
        if (edit) void this.edits.commit(edit)
        else drag.drop(at)
      },
      cancel: () => {
        offer.end()
        drag.cancel()
      },
    }
  }

  /**
   * A part of the frame round a layer goes as the hand does; what that makes of the layer, the core works out.
   * @param {At} at @param {Layer} layer @param {string} part
   */
  frame(at, layer, part) {
    const {frame, pin} = this.store.state, isCorner = part.length === 2
    const begun = {layer: layer.id, frame: String(frame), part, ...(pin ? {pin: "true"} : {}), from_x: px(at.point[0]), from_y: px(at.point[1])}
    return this.dragging(at, ({point: [x, y], event: {shiftKey, altKey, ctrlKey}}) => {
      const held = {
        even: String(isCorner !== shiftKey), about_anchor: String(altKey), steps: String(shiftKey),
        slants: String(ctrlKey && part.length === 1), near: ctrlKey ? "0" : px(at.near),
      }
      return {form: "layer-frame", fields: {...begun, to_x: px(x), to_y: px(y), ...held}}
    })
  }

  /** With Shift one more, else this alone unless it is one of those chosen. @param {string} id @param {boolean} adds */
  #choose(id, adds) {
    const several = chosenIds(this.store.state)
    if (several.includes(id)) return
    this.store.set({chosen: adds && several.length ? layersChosen([...several, id]) : {kind: "layer", id}})
  }

  /** @param {At} at @param {Layer} layer */
  #onItsAnchor(at, layer) {
    const [x, y] = this.#spot(layer)
    return Math.hypot(x - at.point[0], y - at.point[1]) < at.near
  }

  /** @param {Layer} layer */
  #whyItStays(layer) {
    const path = this.store.state.scene?.paths.find(each => each.id === layer.ride?.path)
    return tr`${layer.name} rides ${path?.name}; its place is set by the ride. Turn on Pin (N) to place it at this time.`
  }

  /** A rider that is dragged is shifted off its path, in its own axes: where along it is, its ride says. @param {At} at @param {Layer} layer */
  #shift(at, layer) {
    const path = this.store.state.scene?.paths.find(each => each.id === layer.ride?.path), begun = at.event
    let said = false, far = false
    if (shown(this.store.state)?.side) return this.refusing(at, this.#whyItStays(layer))
    const from = {layer: layer.id, frame: String(this.store.state.frame), part: "shift", from_x: px(at.point[0]), from_y: px(at.point[1])}
    return this.dragging(at, ({point: [x, y], event}) => {
      // What is pressed in passing stays: a shift is seldom what was wanted.
      far ||= Math.hypot(event.clientX - begun.clientX, event.clientY - begun.clientY) > REALLY_DRAGGED
      if (!far) return null
      if (!said) this.say(tr`Shifts ${layer.name} off ${path?.name}; Pin (N) places it at this time instead.`)
      said = true
      return {form: "layer-frame", fields: {...from, to_x: px(x), to_y: px(y)}}
    })
  }

  /** A band round layers chooses those that lie in it or touch it; with Shift besides those that are. @param {At} at */
  band(at) {
    const {store} = this, before = at.event.shiftKey ? chosenIds(store.state) : []
    const within = (/** @type {At} */ now) => layersIn(store.state, at.point, now.point)
    const end = () => store.set({draft: null})
    return {
      move: (/** @type {At} */ now) => store.set({draft: {band: [at.point, now.point]}}),
      drop: (/** @type {At} */ now) => {
        end()
        const moved = Math.hypot(now.event.clientX - at.event.clientX, now.event.clientY - at.event.clientY) > BAND_PX
        store.set({chosen: layersChosen([...new Set([...before, ...(moved ? within(now) : [])])])})
      },
      cancel: end,
    }
  }

  /** @param {Layer} layer @returns {Point} */
  #spot(layer) {
    const [x, y] = spotOf(layer, this.store.state.frame)
    return [x, y]
  }

  /**
   * Where a layer comes to that is dragged: straight with Shift, else to what is near.
   * @param {At} at @param {Layer} layer @param {Point} from
   */
  #followed(at, layer, from) {
    const pull = this.snap.magnets({layer: layer.id})
    return (/** @type {At} */ now) => {
      const wanted = moved(from, at, now)
      return now.event.shiftKey ? straight(from, wanted) : this.snap.snap(wanted, pull, now.event)
    }
  }

  /**
   * With Pin on, a layer is placed at this time: a node in its path and a peg on it.
   * @param {At} at @param {Layer} layer
   */
  #pin(at, layer) {
    const place = this.#followed(at, layer, this.#spot(layer)), frame = String(this.store.state.frame)
    return this.dragging(at, now => {
      const [x, y] = place(now)
      return {form: "pin", fields: {layer: layer.id, frame, x: x.toFixed(2), y: y.toFixed(2)}}
    })
  }

  /** The point a rider looks at. @param {At} at @param {Layer} rider */
  lookedAt(at, rider) {
    return this.dragging(at, now => {
      const [x, y] = this.snap.snap(now.point, this.snap.magnets({layer: rider.id}), now.event)
      return {form: "facing", fields: {layer: rider.id, spot_x: px(x), spot_y: px(y), ...this.seen()}}
    })
  }

  /**
   * A place that keys give a layer at their time; only what has a key there moves.
   * @param {At} at @param {Layer} layer @param {number} time
   */
  keyed(at, layer, time) {
    const [fx, fy] = spotOf(layer, Math.round(time))
    const stops = stopsOf(layer).filter(stop => Math.abs(stop.time - time) < SAME_TIME && "xy".includes(stop.property))
    const has = (/** @type {string} */ name) => stops.some(stop => stop.property === name)
    return this.dragging(at, now => {
      const [x, y] = moved([fx, fy], at, now)
      const only = has("x") ? (has("y") ? "" : "x") : "y"
      return {form: "place", fields: {layer: layer.id, frame: String(time), to_x: px(x), to_y: px(y), only}}
    }, () => this.store.set({picked: stops.map(stop => stop.item)}))
  }
}
