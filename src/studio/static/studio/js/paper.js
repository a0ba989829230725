/** What is drawn in the second view: the picture by its edge, what is seen of it, layers by their outlines, paths. */

import {draftOf} from "./drafts.js"
import {nodesOf, ringsOf, trailOf} from "./held.js"
import {copiesOf} from "./insets.js"
import {cornersOf} from "./layerframe.js"
import {cameraOf, inside} from "./layers.js"
import {createRails} from "./rails.js"
import {chosenIds, chosenLayer, shown, tellingRider} from "./store.js"
import {layersOn, placeOn, sightOf, wayOn} from "./plan.js"
import {around, element, put, twice} from "./svg.js"
import {inSpace, tiesOf} from "./ties.js"

/** @import {Layer, Point, State, StageScene} from "./types.js" */

/** Px of the bench by which the handle of a plane is off the edge. */
const EDGE = 26
/** Properties whose keys move a layer about in space. */
const PLACES = ["x", "y", "z"]

/**
 * @param {SVGSVGElement} root @param {import("./pane.js").Pane} view @param {import("./pane.js").Pane} stage
 * @returns {{draw: (state: State) => void}}
 */
export function createPaper(root, view, stage) {
  const [ground, layers, railsRoot, ties, marks, stops, chosen, plane, draft] = ["ground-lines", "outlines", "rails", "ties", "marks", "stops", "chosen", "plane", "draft"].map(name => {
    const group = root.appendChild(element("g", {class: name}))
    if (name !== "rails" && name !== "plane") group.setAttribute("pointer-events", "none")
    return group
  })
  const rails = createRails(railsRoot, view)
  const line = (/** @type {Point[]} */ points) => `M${points.map(([x, y]) => `${view.x(x).toFixed(1)} ${view.y(y).toFixed(1)}`).join("L")}`

  /** @param {State} state @param {StageScene} scene */
  function drawLayers(state, scene) {
    const ids = new Set(chosenIds(state).flatMap(id => [id, ...inside(scene, id).map(each => each.id)]))
    const outlines = layersOn(scene).map(layer => ({layer, d: outlineOf(layer, state)}))
    const rest = outlines.filter(({layer}) => !ids.has(layer.id)).map(({d}) => d).join("")
    put(layers, rest ? twice("outline", rest) : [])
    const picked = outlines.filter(({layer}) => ids.has(layer.id)).map(({d}) => d).join("")
    put(chosen, picked && !state.playing ? twice("chosen-box", picked) : picked ? twice("outline", picked) : [])
  }

  /** The edges of a layer and of its copies. @param {Layer} layer @param {number} frame */
  const edgesOf = (layer, frame) => [layer, ...copiesOf(layer)].map(each => `${line(cornersOf(each, frame))}Z`).join("")

  /** A dot at its anchor shows what is seen by its edge, and small. @param {Layer} layer @param {State} state */
  function outlineOf(layer, state) {
    const {side} = /** @type {StageScene} */ (shown(state)), [x, y] = side ? layer.spots?.at(state.frame) ?? [0, 0] : [0, 0]
    const dot = side ? around(view.x(x), view.y(y), layer.can.view || layer.can.light ? 5 : 2) : ""
    return layer.can.view || layer.can.light ? dot : edgesOf(layer, state.frame) + dot
  }

  /** What the ties were drawn of last. @type {unknown[]} */
  let tied = []

  /** The ties of the rider whose speed is told, and the way of a layer that keys place. @param {State} state @param {StageScene} scene */
  function drawWays(state, scene) {
    const rider = state.prefs.rails ? tellingRider(state) : undefined, layer = chosenLayer(state)
    const own = layer && !layer.ride ? scene.whole?.layers.find(each => each.id === layer.id) : undefined
    // What stays where it is while the scene plays is not drawn anew for every picture.
    const carried = scene.paths.some(path => path.id === rider?.ride?.path && scene.whole?.paths.find(each => each.id === path.id)?.parent)
    const made = [scene.whole, scene.side, rider?.id, own?.id, state.arrived, state.picked, view.scale, view.left, view.top, carried && state.frame]
    if (made.every((each, i) => each === tied[i])) return
    tied = made
    const going = rider?.ride && inSpace(wayOn(scene, rider, state.frame))
    put(ties, rider && going ? tiesOf(rider, going, view, Boolean(state.look)) : [])
    const rings = rider ? ringsOf(state, rider, view, at => placeOn(scene, rider, state.frame, at)) : []
    const times = own?.keys.filter(track => PLACES.includes(track.property)).flatMap(track => track.keys.map(key => key[1])) ?? []
    put(stops, [...rings, ...(own && own.space && times.length ? trailOf(own.space, times, view, wayOn(scene, own, state.frame)) : [])])
  }

  /** The picture by its edge, and what lies between the lines that go on behind it. @param {StageScene} scene */
  function drawSight(scene) {
    const {width, height} = scene.settings, camera = cameraOf({...scene, side: undefined})
    const reach = 2 * (view.width + view.height) / view.scale
    const [[eye, left], [, right]] = sightOf(scene, camera, reach), sight = `${line([left, eye, right])}`
    const edge = line(scene.side === "above" ? [[0, 0], [width, 0]] : [[0, 0], [0, height]])
    put(ground, [element("path", {class: "sight", d: sight}), ...twice("picture-edge", edge)])
  }

  /** The plane in which the stage draws, by its line. @param {State} state @param {StageScene} scene */
  function drawPlane({planes: {front}, tool}, {side}) {
    const above = side === "above", at = above ? view.y(-front) : view.x(front)
    const d = above ? `M0 ${at}H${view.width}` : `M${at} 0V${view.height}`
    const tab = above ? `M${view.width - EDGE} ${at}l8 -6v12Z` : `M${at} ${view.height - EDGE - 20}l-6 8h12Z`
    const strong = tool === "pen" || front ? " strong" : ""
    put(plane, [
      element("path", {class: `plane-line${strong}`, d}), element("path", {class: "plane-tab", d: tab}),
      element("path", {class: "plane-hit", "data-plane": "", d: above ? `M${view.width - 2 * EDGE} ${at}H${view.width}` : `M${at} ${view.height - 2 * EDGE - 20}V${view.height}`}),
    ])
  }

  /** The frame, and what of all that the stage shows. @param {StageScene} scene */
  function drawFrame({settings: {width, height}}) {
    const box = (/** @type {number} */ x, /** @type {number} */ y, /** @type {number} */ w, /** @type {number} */ h) => `${line([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])}Z`
    put(ground, [element("path", {class: "frame-edge", d: box(0, 0, width, height)})])
    const [x, y] = [-stage.left / stage.scale, -stage.top / stage.scale]
    put(plane, twice("window-edge", box(x, y, stage.width / stage.scale, stage.height / stage.scale)))
  }

  return {
    draw(state) {
      const scene = shown(state)
      if (!scene) return
      if (scene.side) {
        drawSight(scene)
        drawPlane(state, scene)
      } else drawFrame(scene)
      drawLayers(state, scene)
      rails.draw(state)
      if (scene.side) drawWays(state, scene)
      else {
        tied = []
        for (const group of [ties, stops]) put(group, [])
      }
      put(marks, scene.side && state.prefs.rails ? nodesOf(state, view) : [])
      put(draft, scene.side ? draftOf(state, view) : [])
    },
  }
}
