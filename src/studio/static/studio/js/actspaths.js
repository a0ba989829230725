/** Commands of the chosen path and its nodes. */

import {children} from "./layers.js"
import {chosenPath, layersChosen, tellingRider} from "./store.js"
import {tr} from "./words.js"

/** @import {Edit, Path, Point} from "./types.js" */
/** @import {ActList, Tools} from "./acttools.js" */

/** What one word does to nodes; the core knows them by the same names. */
const CHANGES = ["corner", "smooth", "even", "auto", "break", "round", "lock", "unlock", "disable", "enable"]

/**
 * Makes acts of edits of the chosen path.
 * @param {Tools} tools
 * @returns {(make: (path: Path, where?: Point) => Edit|null) => (where?: Point) => void}
 */
const onPathOf = ({store, edits}) => make => where => {
  const path = chosenPath(store.state)
  const edit = path && make(path, where)
  if (edit) void edits.commit(edit)
}

/** @param {Tools} tools @returns {ActList} */
export function pathActs(tools) {
  const {store} = tools, onPath = onPathOf(tools)

  /** @param {string} form @param {Record<string, string>} [more] */
  const whole = (form, more = {}) => onPath(path => ({form, fields: {path: path.id, ...more}}))

  const frame = () => String(store.state.frame)

  return {
    "paths-unused": () => void tools.edits.commit({form: "paths-unused", fields: {}}),
    reverse: whole("path-arrange", {to: "reverse"}),
    close: whole("path-arrange", {to: "close"}),
    open: whole("path-arrange", {to: "open"}),
    "smooth-all": whole("path-arrange", {to: "smooth"}),
    "lock-path": whole("rail", {locked: "true"}),
    "unlock-path": whole("rail", {locked: "false"}),
    insert: onPath((path, where) => {
      if (!where) return null
      const [x, y] = where.map(value => value.toFixed(3))
      return {form: "node-insert", fields: {path: path.id, x, y, seen_at: frame()}}
    }),
    "insert-here": onPath(path => {
      const rider = tellingRider(store.state)
      return rider ? {form: "node-insert", fields: {path: path.id, layer: rider.id, frame: frame()}} : null
    }),
    example: () => void tools.edits.commit({form: "example", fields: {}}),
    "copy-data": () => void document.execCommand("copy"),
  }
}

/** @param {Tools} tools @returns {ActList} */
export function nodeActs(tools) {
  const {store} = tools, onPath = onPathOf(tools)

  /** @param {string} form @param {Record<string, string>} [more] */
  const onNodes = (form, more = {}) => onPath(path => {
    const {nodes} = store.state
    return nodes.length ? {form, fields: {path: path.id, nodes: nodes.join(" "), ...more}} : null
  })

  /** @param {(at: number, count: number) => number} where */
  const step = where => () => {
    const path = chosenPath(store.state)
    if (!path) return
    const at = path.ids.indexOf(store.state.nodes.at(-1) ?? "")
    store.set({chosen: {kind: "path", id: path.id}, nodes: [path.ids[where(at, path.ids.length)]]})
  }

  return {
    ...Object.fromEntries(CHANGES.map(to => [to, onNodes("node-change", {to})])),
    "delete-nodes": onNodes("node-delete"),
    start: onNodes("node-cut", {to: "start"}),
    split: onNodes("node-cut", {to: "split"}),
    join: onNodes("node-cut", {to: "join"}),
    previous: step((at, count) => (at <= 0 ? count - 1 : at - 1)),
    next: step((at, count) => (at + 1) % count),
    first: step(() => 0),
    last: step((_, count) => count - 1),
    jump: () => void jump(tools),
    all: () => chooseAll(tools),
  }
}

/** To when the rider first comes to the chosen node. @param {Tools} tools */
async function jump({store, edits, player, say}) {
  const {state} = store, path = chosenPath(state), rider = tellingRider(state)
  const index = path?.ids.indexOf(state.nodes[0] ?? "") ?? -1
  if (!path || index < 0) return
  if (!rider?.ride) return say(tr`Nothing rides ${path.name} yet, so nothing comes by here.`)
  const frame = await edits.passed(rider.id, path.ids[index])
  if (frame === null) return say(tr`${rider.name} never comes to this node.`)
  player.go(frame)
}

/** All nodes of the path that is chosen itself; else all layers, of the group that is open. @param {Tools} tools */
function chooseAll({store}) {
  const {scene, inside, chosen} = store.state, path = chosen?.kind === "path" ? chosenPath(store.state) : undefined
  if (path) store.set({chosen: {kind: "path", id: path.id}, nodes: [...path.ids]})
  else if (scene) store.set({chosen: layersChosen(children(scene, inside).map(layer => layer.id))})
}
