/**
 * Every command of the editor, said once: its name, words, other words for it, keys, and when it can be done.
 * Menus, titles of buttons, the keyboard and its sheet are made from this list. What a command does is in acts*.js.
 */

import {canStand} from "./layers.js"
import {chosenIds, chosenLayer, chosenPath, groupBeside, shown} from "./store.js"
import {tr, word} from "./words.js"

/** @import {Point, State} from "./types.js" */

/**
 * @typedef {"time"|"layers"|"paths"|"nodes"|"view"|"tools"|"scene"} Area
 * @typedef {"node"|"rail"|"layer"|"stage"} Menu
 * @typedef {{name: string, words: string, area: Area, also?: string, keys?: string[], icon?: string, menus?: Menu[],
 *   when?: (state: State, where?: Point) => unknown, held?: boolean, anywhere?: boolean}} Command without ``when`` it can always
 *   be done; a held one lasts while its key is down; the key of one for ``anywhere`` is meant in the middle of typing, too
 */

/** The marks of the chosen nodes. @param {State} state */
function marksOf(state) {
  const path = chosenPath(state)
  return path ? state.nodes.map(id => path.marks[path.ids.indexOf(id)] ?? "") : []
}

/** @param {string} letter @returns {(state: State) => boolean} */
const someNode = letter => state => marksOf(state).some(mark => mark.includes(letter))
/** @param {string} letter @returns {(state: State) => boolean} */
const someNodeWithout = letter => state => marksOf(state).some(mark => !mark.includes(letter))
/** @param {State} state */
const isOpen = state => chosenPath(state)?.runs.some(([, closed]) => !closed) ?? false
/** @param {State} state */
const isRound = state => Boolean(chosenPath(state)) && !isOpen(state)
/** @param {State} state */
const oneNode = state => marksOf(state).length === 1
/** @param {State} state */
const isShared = state => {
  const path = chosenLayer(state)?.ride?.path
  return path && (shown(state)?.layers ?? []).filter(layer => layer.ride?.path === path).length > 1
}

/** @type {Command[]} */
export const COMMANDS = [
  {name: "play", words: tr`Play and pause`, area: "time", also: tr`start stop run preview`, keys: ["Space", "P"]},
  {name: "play-from-start", words: tr`Play from the start`, area: "time", also: tr`rewind restart`, keys: ["Shift+Space"]},
  {name: "back", words: tr`One frame back`, area: "time", keys: ["ArrowLeft"], also: tr`previous step`},
  {name: "on", words: tr`One frame on`, area: "time", keys: ["ArrowRight"], also: tr`next step`},
  {name: "back-ten", words: tr`Ten frames back`, area: "time", also: tr`jump previous`, keys: ["Shift+ArrowLeft"]},
  {name: "on-ten", words: tr`Ten frames on`, area: "time", also: tr`jump next skip`, keys: ["Shift+ArrowRight"]},
  {name: "start-of-scene", words: tr`To the start`, area: "time", also: tr`first frame rewind begin`, keys: ["Home"]},
  {name: "end-of-scene", words: tr`To the end`, area: "time", also: tr`last frame finish`, keys: ["End"]},
  {name: "previous-stop", words: tr`To the peg or key before`, area: "time", also: tr`keyframe back`, keys: [","]},
  {name: "next-stop", words: tr`To the next peg or key`, area: "time", also: tr`keyframe forward`, keys: ["."]},
  {name: "range-from", words: tr`Play from here`, area: "time", also: tr`in point range begin`, keys: ["<"]},
  {name: "range-to", words: tr`Play to here`, area: "time", also: tr`out point range end`, keys: [">"]},
  {name: "loop", words: tr`Loop on and off`, area: "time", keys: ["L"], also: tr`repeat`},
  {name: "pin", words: tr`Pin: place a layer here at this time, then there`, area: "time", keys: ["N"], also: tr`keyframe record`},
  {name: "draw-pace", words: tr`Draw the speed in the graph`, area: "time", also: tr`velocity easing curve sketch`},
  {name: "fit-time", words: tr`Show all of the time`, area: "time", also: tr`zoom whole timeline`},
  {name: "delete-picked", words: tr`Delete what is picked in the strip`, area: "time", also: tr`remove keyframes pegs`, when: state => state.picked.length},

  {name: "tool-pick", words: tr`Pick and move`, area: "tools", keys: ["1"], also: tr`select`},
  {name: "tool-pen", words: tr`Draw a path`, area: "tools", also: tr`bezier curve line`, keys: ["2"]},
  {name: "tool-figure", words: tr`A figure as a path`, area: "tools", also: tr`circle rectangle star spiral`, keys: ["3"]},
  {name: "tool-text", words: tr`Place a text`, area: "tools", also: tr`title type letters words`, keys: ["4"]},
  {name: "tool-shape", words: tr`Place a shape`, area: "tools", also: tr`rectangle ellipse star polygon`, keys: ["5"]},
  {name: "tool-hand", words: tr`Move about`, area: "tools", keys: ["6"], also: tr`pan`},
  {name: "tool-record", words: tr`Record a take`, area: "tools", keys: ["7"], also: tr`sketch freehand`},
  {name: "tool-follow", words: tr`Follow a spot in footage`, area: "tools", also: tr`track motion tracking point trace stick`, menus: ["layer"], when: state => chosenLayer(state)?.kind === "footage"},
  {name: "upload", words: tr`Bring in a picture, a drawing or footage`, area: "tools", keys: ["I"], also: tr`import file video gif svg font sequence upload`},

  {name: "undo", words: tr`Undo`, area: "scene", also: tr`take back revert`, keys: ["Ctrl+Z"]},
  {name: "redo", words: tr`Redo`, area: "scene", also: tr`again repeat`, keys: ["Ctrl+Shift+Z", "Ctrl+Y"]},
  {name: "delete", words: tr`Delete what is selected`, area: "scene", keys: ["Delete", "Backspace"], menus: ["node"], also: tr`remove`},
  {name: "duplicate", words: tr`Duplicate; picked keys go on with themselves`, area: "scene", keys: ["Ctrl+D"], menus: ["rail", "layer"], also: tr`copy`},
  {name: "example", words: tr`An example: a shape that rides round`, area: "scene", also: tr`demo sample show start`},
  {name: "first-steps", words: tr`First steps: four, over the stage`, area: "scene", also: tr`tutorial hints begin onboarding guide tour`},
  {name: "series", words: tr`A series: a film for each row of a table`, area: "scene", also: tr`batch csv rows template fields variables data spreadsheet`},
  {name: "renders", words: tr`Renders`, area: "scene", keys: ["R"], also: tr`video export`},
  {name: "frame-picture", words: tr`This frame as a picture`, area: "scene", also: tr`still png snapshot export save image playhead poster`},
  {name: "history", words: tr`History: every edit, and the scene as it was then`, area: "scene", keys: ["V"], also: tr`versions undo list past earlier restore snapshots`},
  {name: "find", words: tr`Find a command, a layer, a path, a scene, or help`, area: "scene", keys: ["Ctrl+K"], anywhere: true, also: tr`search everything`},
  {name: "keys", words: tr`Help`, area: "scene", keys: ["?"], also: tr`shortcuts keys`},

  {name: "rename", words: tr`Rename what is selected`, area: "scene", also: tr`name title call`, keys: ["F2"], menus: ["layer", "rail"]},
  {name: "save", words: tr`Nothing to be saved: all is kept as you work`, area: "scene", also: tr`keep store write`, keys: ["Ctrl+S"]},

  {name: "group", words: tr`Group the chosen layers`, area: "layers", also: tr`join combine together folder`, keys: ["Ctrl+G"], menus: ["layer"], when: state => chosenIds(state).length},
  {name: "ungroup", words: tr`Dissolve the group, or make a scene one`, area: "layers", also: tr`split release apart`, keys: ["Ctrl+Shift+G"], menus: ["layer"], when: state => {
    const layer = chosenLayer(state)
    return layer?.can.hold || layer?.can.show
  }},
  {name: "group-scene", words: tr`Make the group a scene of its own`, area: "layers", also: tr`nest inner own reuse`, menus: ["layer"], when: state => chosenLayer(state)?.can.hold},
  {name: "show-scene", words: tr`Show another scene in this one`, area: "layers", also: tr`nest embed insert inner`},
  {name: "open-scene", words: tr`Open the scene that it shows`, area: "layers", also: tr`enter inner go into`, menus: ["layer"], when: state => chosenLayer(state)?.shows},
  {name: "leave-group", words: tr`Out of the group`, area: "layers", also: tr`up close parent`, when: state => state.inside},
  {name: "starter", words: tr`Give it a starter path`, area: "layers", also: tr`attach motion new path`, menus: ["layer"], when: state => {
    const layer = chosenLayer(state)
    return layer && !layer.ride && canStand(layer)
  }},
  {name: "outline", words: tr`Make a path of its outline`, area: "layers", also: tr`convert trace vector`, menus: ["layer"], when: state => chosenLayer(state)?.can.trace},
  {name: "choose-riders", words: tr`Choose all that ride its path`, area: "layers", menus: ["layer"], when: isShared, also: tr`select same`},
  {name: "choose-kind", words: tr`Choose all of its kind`, area: "layers", menus: ["layer"], also: tr`select same type`, when: state => chosenLayer(state)},
  {name: "choose-none", words: tr`Choose nothing`, area: "layers", also: tr`select none deselect`, when: state => state.chosen},
  {name: "solo", words: tr`Show these alone while working, or all again`, area: "layers", keys: ["Y"], menus: ["layer"], also: tr`solo isolate only`, when: state => chosenIds(state).length},
  {name: "show-all", words: tr`Show all layers again`, area: "layers", also: tr`unsolo end alone`, when: state => state.solo.length},
  {name: "order-up", words: tr`One forward`, area: "layers", keys: ["Ctrl+ArrowUp"], also: tr`order raise`, when: state => chosenLayer(state)},
  {name: "order-down", words: tr`One back`, area: "layers", keys: ["Ctrl+ArrowDown"], also: tr`order lower`, when: state => chosenLayer(state)},
  {name: "order-front", words: tr`In front of everything`, area: "layers", keys: ["Ctrl+Shift+ArrowUp"], menus: ["layer"], also: tr`order top`, when: state => chosenLayer(state)},
  {name: "order-back", words: tr`Behind everything`, area: "layers", keys: ["Ctrl+Shift+ArrowDown"], menus: ["layer"], also: tr`order bottom`, when: state => chosenLayer(state)},
  {name: "into-group", words: tr`Into the group beside it`, area: "layers", keys: ["Ctrl+ArrowRight"], also: tr`nest`, when: state => groupBeside(state)},
  {name: "out-of-group", words: tr`Out of its group`, area: "layers", keys: ["Ctrl+ArrowLeft"], menus: ["layer"], also: tr`unnest`, when: state => chosenLayer(state)?.parent},
  {name: "choose-others", words: tr`Choose all layers but these`, area: "layers", keys: ["Ctrl+Shift+A"], menus: ["layer"], also: tr`select invert`, when: state => chosenIds(state).length},
  {name: "light", words: tr`Add a light`, area: "layers", also: tr`lamp shade shading shine spot glow`},
  {name: "camera", words: tr`Add a camera`, area: "layers", also: tr`view lens perspective depth zoom pan angle`},
  {name: "wake", words: tr`Leave bubbles behind it`, area: "layers", also: tr`wake particles emitter dust sparks trail smoke`, when: state => chosenLayer(state)?.can.stand},
  {name: "tail", words: tr`Leave a tail behind it`, area: "layers", also: tr`trail comet stroke fade streak`, when: state => chosenLayer(state)?.ride},
  {name: "trace", words: tr`Draw its path as it goes`, area: "layers", also: tr`write-on trace line reveal trim stroke`, when: state => chosenLayer(state)?.ride},
  {name: "unlink", words: tr`Unlink: a path of its own`, area: "layers", also: tr`separate copy private path`, menus: ["layer"], when: isShared},

  {name: "previous", words: tr`Previous node`, area: "nodes", also: tr`point before`, keys: ["["]},
  {name: "next", words: tr`Next node`, area: "nodes", also: tr`point after`, keys: ["]"]},
  {name: "first", words: tr`First node`, area: "nodes", also: tr`point begin`, keys: ["{"]},
  {name: "last", words: tr`Last node`, area: "nodes", also: tr`point finish`, keys: ["}"]},
  {name: "corner", words: tr`Corner`, area: "nodes", also: tr`sharp point node`, menus: ["node"]},
  {name: "round", words: tr`Smooth, with new handles`, area: "nodes", also: tr`curve smooth node`, menus: ["node"]},
  {name: "even", words: tr`Even handles`, area: "nodes", also: tr`symmetric equal`, menus: ["node"]},
  {name: "auto", words: tr`Auto handles`, area: "nodes", also: tr`automatic`, menus: ["node"]},
  {name: "break", words: tr`Part the handles`, area: "nodes", also: tr`split handles asymmetric`, menus: ["node"], when: state => marksOf(state).some(mark => !/^[cb]/.test(mark))},
  {name: "smooth", words: tr`Rejoin the handles`, area: "nodes", also: tr`join handles aligned`, menus: ["node"], when: someNode("b")},
  {name: "lock", words: tr`Lock`, area: "nodes", also: tr`protect node`, menus: ["node"], when: someNodeWithout("l")},
  {name: "unlock", words: tr`Unlock`, area: "nodes", also: tr`free node`, menus: ["node"], when: someNode("l")},
  {name: "disable", words: tr`Disable`, area: "nodes", also: tr`skip off node`, menus: ["node"], when: someNodeWithout("d")},
  {name: "enable", words: tr`Enable`, area: "nodes", also: tr`use on node`, menus: ["node"], when: someNode("d")},
  {name: "start", words: tr`Start here`, area: "nodes", also: tr`first begin origin`, menus: ["node"], when: state => oneNode(state) && isRound(state)},
  {name: "split", words: tr`Cut here`, area: "nodes", also: tr`divide scissors`, menus: ["node"], when: oneNode},
  {name: "join", words: tr`Join the two ends`, area: "nodes", also: tr`connect weld`, menus: ["node"], when: state => marksOf(state).length === 2 && isOpen(state)},
  {name: "jump", words: tr`Playhead to when the rider is here`, area: "nodes", also: tr`go when time`, keys: ["J"], menus: ["node"], when: oneNode},
  {name: "insert", words: tr`Put a node in here`, area: "nodes", also: tr`add point`, menus: ["rail"], when: (_, where) => where},
  {name: "insert-here", words: tr`Put a node in where the rider is`, area: "nodes", also: tr`add point playhead`},
  {name: "all", words: tr`Select all nodes; without a path all layers`, area: "nodes", also: tr`select everything`, keys: ["Ctrl+A"], menus: ["rail"]},

  {name: "reverse", words: tr`Reverse`, area: "paths", also: tr`direction backwards flip`, menus: ["rail"]},
  {name: "close", words: tr`Close`, area: "paths", also: tr`loop connect ends`, menus: ["rail"], when: isOpen},
  {name: "open", words: tr`Open`, area: "paths", also: tr`break loop`, menus: ["rail"], when: isRound},
  {name: "smooth-all", words: tr`Smooth all nodes`, area: "paths", also: tr`round curve`, menus: ["rail"]},
  {name: "lock-path", words: tr`Lock the path`, area: "paths", also: tr`protect`, menus: ["rail"], when: state => chosenPath(state) && !chosenPath(state)?.locked},
  {name: "unlock-path", words: tr`Unlock the path`, area: "paths", also: tr`free`, menus: ["rail"], when: state => chosenPath(state)?.locked},
  {name: "paths-unused", words: tr`Remove the paths that nothing uses`, area: "paths", also: tr`clean tidy orphan delete idle`},
  {name: "copy-data", words: tr`Copy as path data`, area: "paths", also: tr`svg d clipboard`, menus: ["rail"]},

  {name: "fit", words: tr`Fit the frame`, area: "view", also: tr`zoom whole stage`, keys: ["F"], menus: ["stage"]},
  {name: "fit-chosen", words: tr`Fit the selection`, area: "view", also: tr`zoom selected`, keys: ["G"], menus: ["stage"], when: state => chosenPath(state)},
  {name: "actual", words: "100 %", area: "view", also: tr`zoom full size pixels`, keys: ["0"], menus: ["stage"]},
  {name: "in", words: tr`Nearer`, area: "view", keys: ["+", "="], also: tr`zoom in`},
  {name: "out", words: tr`Further off`, area: "view", keys: ["-"], also: tr`zoom out`},
  {name: "rails", words: tr`Show or hide rails and nodes`, area: "view", also: tr`guides paths hide overlay`, keys: ["Q"], menus: ["stage"]},
  {name: "snap", words: tr`Snapping on and off`, area: "view", also: tr`magnet align grid`, keys: ["S"]},
  {name: "ghosts", words: tr`Ghosts of the rider`, area: "view", also: tr`onion skin before after`, keys: ["O"]},
  {name: "unturned", words: tr`A pale copy of the rider without its facing`, area: "view", also: tr`orientation original`, keys: ["U"]},
  {name: "compare", words: tr`All riders in the graph`, area: "view", also: tr`all speeds curves`, keys: ["C"]},
  {name: "second", words: tr`Second view: from above, from the side, or all of it`, area: "view", keys: ["D"], menus: ["stage"], also: tr`depth top plan two views layout`},
  {name: "second-above", words: tr`The scene from above`, area: "view", also: tr`top plan second view depth floor`},
  {name: "second-side", words: tr`The scene from its side`, area: "view", also: tr`left second view depth profile`},
  {name: "second-all", words: tr`All of the scene, to move about in`, area: "view", also: tr`overview map navigator second view`},
  {name: "stage-alone", words: tr`Only the stage, and back`, area: "view", keys: ["W"], menus: ["stage"], also: tr`wide full hide panels`},
  {name: "hold-hand", words: tr`Held: move about; as the middle button, or Space held`, area: "view", keys: ["H"], held: true},
  {name: "hold-raw", words: tr`Held: the raw line of a take alone`, area: "view", keys: ["B"], held: true},
]

/**
 * What the pointer and other keys do, for the sheet: nothing runs by these.
 * @type {{words: string, area: Area, keys: string[]}[]}
 */
export const GESTURES = [
  {area: "scene", keys: ["Escape"], words: tr`Break off a drag, end a drawing, put the tool down, leave a group, select nothing`},
  {area: "scene", keys: ["Ctrl+C"], words: tr`Copy picked keys, layers with their rides, or the path as path data; Ctrl V puts them in, with Shift in place`},
  {area: "scene", keys: ["Ctrl+X"], words: tr`Cut layers; pasted, here or in another scene, they come back as they were`},
  {area: "scene", keys: ["Menu"], words: tr`What can be done here, as the right button`},
  {area: "layers", keys: ["Alt+arrows"], words: tr`Move the selected layer 1 px; with Shift 10`},
  {area: "layers", keys: ["Drag"], words: tr`A corner scales in proportion, a side one way; Shift the other of the two, Alt about the anchor, Ctrl slants by a side; the knob turns, with Shift by 15°`},
  {area: "layers", keys: ["Alt+drag"], words: tr`The anchor, without moving the picture; to corners, edges and the middle, with Ctrl anywhere`},
  {area: "layers", keys: ["Double click"], words: tr`In the list: rename; on a group: into it; on a text: write there; on a label in the card: back to what is usual`},
  {area: "layers", keys: ["Drag"], words: tr`In the list: another order, into a group, onto a path; by touch held by its picture. A rider: shifted off its path. Beside everything: a band`},
  {area: "layers", keys: ["Alt+click"], words: tr`On the ring beside a value: clear all its keys`},
  {area: "layers", keys: ["Shift+click"], words: tr`One more layer; in the list all layers up to it`},
  {area: "layers", keys: ["Ctrl+click"], words: tr`In the list one layer more, or one less`},
  {area: "nodes", keys: ["arrows"], words: tr`Selected nodes: 1 px; with Shift 10, with Alt 0.1`},
  {area: "view", keys: ["arrows"], words: tr`With the pointer over the second view, nodes and layers move as they lie there`},
  {area: "nodes", keys: ["Shift"], words: tr`Level, upright or slanted; regular figures; more nodes`},
  {area: "nodes", keys: ["Ctrl"], words: tr`While dragging: no snapping`},
  {area: "nodes", keys: ["Alt"], words: tr`Drag a handle: part it. A node: pull handles out. The curve: put a node in. A figure or frame: from the middle`},
  {area: "tools", keys: ["arrows"], words: tr`With a tool that draws: a cursor over the stage, 10 px; with Shift 50, with Alt 1`},
  {area: "tools", keys: ["Enter"], words: tr`Press there; a figure or a take goes on to the next Enter. Without the cursor: end a drawing`},
  {area: "tools", keys: ["Backspace"], words: tr`Take back the last node drawn`},
  {area: "time", keys: ["arrows"], words: tr`On a peg: earlier or later by a frame, faster or slower by 10 px/s; with Shift ten times that`},
  {area: "time", keys: ["Alt"], words: tr`In the strip: a bar's end trims; picked keys stretch; a peg's sides part`},
]

/** @type {Record<Area, string>} */
export const AREAS = {
  time: tr`Time`, tools: tr`Tools`, scene: tr`Scene`, layers: tr`Layers`, paths: tr`Paths`, nodes: tr`Nodes`, view: tr`View`,
}

const byName = new Map(COMMANDS.map(command => [command.name, command]))
const byKey = new Map(COMMANDS.flatMap(command => (command.keys ?? []).map(key => [key, command])))

/** @param {string} name */
export const commandOf = name => byName.get(name)

/**
 * Whether a command makes sense for what is chosen, and where.
 * @param {string} name @param {State} state @param {Point} [where]
 */
export function fits(name, state, where) {
  const when = commandOf(name)?.when
  return when ? Boolean(when(state, where)) : true
}

/** How the list writes a key that was pressed: Ctrl+Shift+Z, Shift+ArrowLeft, [. @param {KeyboardEvent} event */
export function keyOf(event) {
  const plain = event.key === " " ? "Space" : event.key.length === 1 ? event.key.toUpperCase() : event.key
  const ctrl = event.ctrlKey || event.metaKey
  // Of a key that makes a sign Shift is a part already.
  const shift = event.shiftKey && (event.key.length > 1 || event.key === " " || ctrl)
  return `${ctrl ? "Ctrl+" : ""}${shift ? "Shift+" : ""}${plain}`
}

/** The command of a key. @param {KeyboardEvent} event */
export const commandFor = event => byKey.get(keyOf(event))

/** What may be done in a menu now. @param {Menu} menu @param {State} state @param {Point} [where] */
export const commandsOf = (menu, state, where) => COMMANDS.filter(command => command.menus?.includes(menu) && fits(command.name, state, where))

const SIGNS = /** @type {Record<string, string>} */ ({ArrowLeft: "\u2190", ArrowRight: "\u2192", Escape: "Esc", "-": "\u2212"})

/** A key as it is shown. @param {string} key */
export const shownKey = key => (key.length > 1 ? key.split("+").filter(Boolean).map(part => SIGNS[part] ?? word(part)).join(" ") : SIGNS[key] ?? key)
