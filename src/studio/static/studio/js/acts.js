/** What can be done by name to what is chosen: by a key, a menu, or a button of the card (`data-do`). */

import {chosenPlaces} from "./hits.js"
import {nextTime, pickedStops} from "./stops.js"
import {canStand} from "./layers.js"
import {chosenIds, chosenLayer, chosenPath, shown, tellingRider} from "./store.js"

/** @import {Edit, Path, Point} from "./types.js" */

const CHANGES = ["corner", "smooth", "even", "auto", "break", "round", "lock", "unlock", "disable", "enable"]

/**
 * @param {{store: import("./store.js").Store, edits: import("./edits.js").Edits, view: import("./view.js").StageView,
 *   player: import("./player.js").Player, say: (words: string) => void, setPrefs: (change: object) => void}} tools
 */
export function createActs({store, edits, view, player, say, setPrefs}) {
  const nodes = () => store.state.nodes.join(" ")

  /** @param {(path: Path) => Edit|null} make an edit of the chosen path @returns {() => void} */
  const onPath = make => () => {
    const path = chosenPath(store.state)
    const edit = path && make(path)
    if (edit) void edits.commit(edit)
  }

  /** @param {string} form @param {Record<string, string>} [more] */
  const onNodes = (form, more = {}) => onPath(path => (store.state.nodes.length ? {form, fields: {path: path.id, nodes: nodes(), ...more}} : null))

  /** @param {string} form @param {Record<string, string>} [more] */
  const whole = (form, more = {}) => onPath(path => ({form, fields: {path: path.id, ...more}}))

  /** @param {string} form @param {Record<string, string>} [more] */
  const onLayer = (form, more = {}) => () => {
    const layer = chosenLayer(store.state)
    if (layer) void edits.commit({form, fields: {layer: layer.id, frame: String(store.state.frame), ...more}})
  }

  /** @param {(at: number, count: number) => number} where */
  const step = where => () => {
    const path = chosenPath(store.state)
    if (!path) return
    const at = path.ids.indexOf(store.state.nodes.at(-1) ?? "")
    const id = path.ids[where(at, path.ids.length)]
    store.set({chosen: {kind: "path", id: path.id}, nodes: [id]})
  }

  /** To when the rider first comes to the chosen node. */
  function jump() {
    const {state} = store, path = chosenPath(state), rider = tellingRider(state)
    const index = path?.ids.indexOf(state.nodes[0] ?? "") ?? -1
    if (!path || index < 0) return
    if (!rider?.ride) return say(`Nothing rides ${path.name} yet, so nothing comes by here.`)
    const frame = rider.ride.passes[index]
    if (Number.isNaN(frame)) return say(`${rider.name} never comes to this node.`)
    player.go(frame)
  }

  function all() {
    const path = chosenPath(store.state)
    if (path) store.set({chosen: {kind: "path", id: path.id}, nodes: [...path.ids]})
  }

  function fitChosen() {
    const {state} = store, path = chosenPath(state), places = chosenPlaces(state)
    if (places.length > 1) {
      const xs = places.map(p => p[0]), ys = places.map(p => p[1])
      view.fitBox([Math.min(...xs), Math.min(...ys), Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)])
    } else if (places.length) view.fitBox([places[0][0] - 100, places[0][1] - 100, 200, 200])
    else if (path) view.fitBox(path.box)
    else view.fit()
  }

  function duplicate() {
    const {chosen} = store.state
    const {picked} = store.state
    if (picked.length) void edits.commit({form: "keys-repeat", fields: {items: picked.join(" "), times: "2"}})
    else if (chosen) void edits.commit({form: "copy", fields: {[chosen.kind]: chosen.id}})
  }

  /** The playhead to the next peg or key, or the one before. @param {1|-1} way */
  const toStop = way => () => {
    const time = nextTime(store.state, way, chosenLayer(store.state) ?? tellingRider(store.state))
    if (Number.isNaN(time)) return say(way > 0 ? "No peg or key comes after this." : "No peg or key comes before this.")
    if (store.state.playing) player.pause()
    player.go(time)
  }

  /** The part that plays; where it would be the whole, or nothing, all plays. @param {(state: import("./types.js").State) => [number, number]} make */
  function setRange(make) {
    const length = shown(store.state)?.settings.length ?? 1
    const [begin, end] = make(store.state), range = /** @type {[number, number]} */ ([Math.max(begin, 0), Math.min(end, length)])
    const none = range[1] - range[0] < 2 || (range[0] === 0 && range[1] === length)
    store.set({range: none ? null : range})
    if (none) say("All of the scene plays.")
  }

  /** @param {"ghosts"|"compare"|"unturned"} name @param {string} words */
  const toggle = (name, words) => () => {
    const on = !store.state.prefs[name]
    setPrefs({[name]: on})
    say(`${words}: ${on ? "shown" : "hidden"}.`)
  }

  /** @type {Record<string, (where?: Point) => void>} */
  const acts = {
    ...Object.fromEntries(CHANGES.map(to => [to, onNodes("node-change", {to})])),
    delete: () => (store.state.picked.length ? acts["delete-picked"]() : onNodes("node-delete")()),
    start: onNodes("node-cut", {to: "start"}),
    split: onNodes("node-cut", {to: "split"}),
    join: onNodes("node-cut", {to: "join"}),
    reverse: whole("path-arrange", {to: "reverse"}),
    close: whole("path-arrange", {to: "close"}),
    open: whole("path-arrange", {to: "open"}),
    "smooth-all": whole("path-arrange", {to: "smooth"}),
    "lock-path": whole("rail", {locked: "true"}),
    "unlock-path": whole("rail", {locked: "false"}),
    starter: onLayer("starter"),
    outline: onLayer("outline"),
    unlink: onLayer("copy", {unlink: "true"}),
    group: () => {
      const ids = chosenIds(store.state)
      if (!ids.length) return say("Choose the layers to be grouped first: Shift adds one.")
      void edits.commit({form: "group", fields: {layers: ids.join(" "), frame: String(store.state.frame)}})
    },
    ungroup: () => {
      const layer = chosenLayer(store.state)
      if (!layer?.can.hold) return say("Choose a group to dissolve.")
      void edits.commit({form: "ungroup", fields: {layer: layer.id, frame: String(store.state.frame)}})
    },
    insert: where => {
      const path = chosenPath(store.state)
      if (path && where) void edits.commit({form: "node-insert", fields: {path: path.id, x: where[0].toFixed(3), y: where[1].toFixed(3), seen_at: String(store.state.frame)}})
    },
    "insert-here": onPath(path => {
      const rider = tellingRider(store.state)
      return rider ? {form: "node-insert", fields: {path: path.id, layer: rider.id, frame: String(store.state.frame)}} : null
    }),
    previous: step((at, count) => (at <= 0 ? count - 1 : at - 1)),
    next: step((at, count) => (at + 1) % count),
    first: step(() => 0),
    last: step((_, count) => count - 1),
    jump, all, duplicate,
    pin: () => {
      const pin = !store.state.pin
      store.set({pin})
      if (pin) say("Pin is on: drag a layer to place it at this time, go to another time, drag it again. N ends it.")
    },
    "previous-stop": toStop(-1),
    "next-stop": toStop(1),
    "draw-pace": () => store.set({draws: !store.state.draws, graph: "speed"}),
    "fit-time": () => store.set({span: null}),
    "range-from": () => setRange(state => [state.frame, state.range?.[1] ?? Infinity]),
    "range-to": () => setRange(state => [state.range?.[0] ?? 0, state.frame + 1]),
    "delete-picked": () => void edits.commit({form: "keys-delete", fields: {items: store.state.picked.join(" ")}}),
    ghosts: toggle("ghosts", "Ghosts of the rider"),
    unturned: toggle("unturned", "A pale copy without facing"),
    compare: toggle("compare", "All riders in the graph"),
    "copy-data": () => void document.execCommand("copy"),
    fit: view.fit,
    actual: () => view.zoom(1 / view.scale),
    "fit-chosen": fitChosen,
    in: () => view.zoom(1.25),
    out: () => view.zoom(0.8),
    rails: () => {
      const rails = !store.state.prefs.rails
      setPrefs({rails})
      say(rails ? "Rails are shown." : "Rails are hidden; Q shows them. Riders go on.")
    },
    snap: () => {
      const snap = !store.state.prefs.snap
      setPrefs({snap})
      say(snap ? "Snapping is on." : "Snapping is off.")
    },
  }

  /** Moves the chosen nodes by arrows, px of the scene. @param {number} dx @param {number} dy */
  function nudge(dx, dy) {
    const path = chosenPath(store.state)
    if (!path || !store.state.nodes.length) return false
    void edits.commit({form: "node-move", fields: {path: path.id, nodes: nodes(), dx: String(dx), dy: String(dy), seen_at: String(store.state.frame), nudge: "true"}})
    return true
  }

  /** The picked keys as text: by property, with all that shapes their sections. */
  function copiedKeys() {
    /** @type {Record<string, object[]>} */
    const found = {}
    for (const {layer, property, id} of pickedStops(store.state)) {
      const track = store.state.scene?.layers.find(l => l.id === layer)?.keys.find(t => t.property === property)
      const at = track?.keys.findIndex(key => key[0] === id) ?? -1
      if (!track || at < 0) continue
      const [, time, value] = track.keys[at], reaches = [...track.reaches.subarray(at * 4, at * 4 + 4)].map(v => +v.toFixed(6))
      ;(found[property] ??= []).push({time, value: track.hex?.[at] ?? value, arrive: reaches.slice(0, 2), leave: reaches.slice(2), step: track.steps[at]})
    }
    return Object.keys(found).length ? JSON.stringify({"coaster-keys": found}) : ""
  }

  document.addEventListener("copy", event => {
    const keys = typing() || String(document.getSelection()) ? "" : copiedKeys()
    if (keys) {
      event.clipboardData?.setData("text/plain", keys)
      event.preventDefault()
      return say("The keys are copied. Go to another time, or choose another layer, and paste them.")
    }
    const path = store.state.chosen?.kind === "path" ? chosenPath(store.state) : undefined
    if (!path || typing() || String(document.getSelection())) return
    event.clipboardData?.setData("text/plain", path.d)
    event.preventDefault()
    say(`${path.name} is copied as path data.`)
  })
  document.addEventListener("paste", event => {
    if (typing() || document.querySelector("dialog[open]")) return
    const data = event.clipboardData?.getData("text/plain").trim() ?? ""
    if (!data) return
    event.preventDefault()
    if (data.startsWith('{"coaster-keys"')) {
      const layer = chosenLayer(store.state)
      if (!layer) return say("Choose the layer the keys are to be pasted to.")
      return void edits.commit({form: "keys-paste", fields: {layer: layer.id, frame: String(store.state.frame), data}})
    }
    void edits.commit({form: "path-data", fields: {data}})
  })

  return {
    nudge,
    names: Object.keys(acts),
    /** @param {string} name @param {Point} [where] in scene px */
    run: (name, where) => acts[name]?.(where),
    /** Whether a name makes sense for what is chosen, and where. @param {string} name @param {Point} [where] */
    fits(name, where) {
      const {state} = store, path = chosenPath(state), layer = chosenLayer(state)
      const marks = path ? state.nodes.map(id => path.marks[path.ids.indexOf(id)] ?? "") : []
      const one = marks.length === 1
      const is = (/** @type {string} */ letter) => marks.some(mark => mark.includes(letter))
      const open = path?.runs.some(([, closed]) => !closed)
      /** @type {Record<string, unknown>} */
      const when = {
        lock: marks.some(mark => !mark.includes("l")), unlock: is("l"), disable: marks.some(mark => !mark.includes("d")), enable: is("d"),
        start: one && path && !open, split: one, join: marks.length === 2 && open, jump: one,
        break: marks.some(mark => !/^[cb]/.test(mark)), smooth: is("b"), close: open, open: path && !open,
        "lock-path": path && !path.locked, "unlock-path": path?.locked,
        starter: layer && !layer.ride && canStand(layer), outline: layer?.can.trace,
        ungroup: layer?.can.hold, group: chosenIds(state).length,
        unlink: layer?.ride && (shown(state)?.layers ?? []).filter(l => l.ride?.path === layer.ride?.path).length > 1,
        "fit-chosen": path, insert: where,
      }
      return name in when ? Boolean(when[name]) : true
    },
  }
}

/** @typedef {ReturnType<typeof createActs>} Acts */

function typing() {
  const active = document.activeElement
  return active instanceof HTMLTextAreaElement || (active instanceof HTMLInputElement && !["range", "checkbox", "radio", "color"].includes(active.type))
}
