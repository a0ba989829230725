/**
 * Every command of the editor, said once: its name, words, other words for it, keys, and when it can be done.
 * Menus, titles of buttons, the keyboard and its sheet are made from this list. What a command does is in acts*.js.
 */

import {canStand} from "./layers.js"
import {chosenIds, chosenLayer, chosenPath, groupBeside, shown} from "./store.js"

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
  {name: "play", words: "Play and pause", area: "time", also: "start stop run preview", keys: ["Space", "P"]},
  {name: "play-from-start", words: "Play from the start", area: "time", also: "rewind restart", keys: ["Shift+Space"]},
  {name: "back", words: "One frame back", area: "time", keys: ["ArrowLeft"], also: "previous step"},
  {name: "on", words: "One frame on", area: "time", keys: ["ArrowRight"], also: "next step"},
  {name: "back-ten", words: "Ten frames back", area: "time", also: "jump previous", keys: ["Shift+ArrowLeft"]},
  {name: "on-ten", words: "Ten frames on", area: "time", also: "jump next skip", keys: ["Shift+ArrowRight"]},
  {name: "start-of-scene", words: "To the start", area: "time", also: "first frame rewind begin", keys: ["Home"]},
  {name: "end-of-scene", words: "To the end", area: "time", also: "last frame finish", keys: ["End"]},
  {name: "previous-stop", words: "To the peg or key before", area: "time", also: "keyframe back", keys: [","]},
  {name: "next-stop", words: "To the next peg or key", area: "time", also: "keyframe forward", keys: ["."]},
  {name: "range-from", words: "Play from here", area: "time", also: "in point range begin", keys: ["<"]},
  {name: "range-to", words: "Play to here", area: "time", also: "out point range end", keys: [">"]},
  {name: "loop", words: "Loop on and off", area: "time", keys: ["L"], also: "repeat"},
  {name: "pin", words: "Pin: place a layer here at this time, then there", area: "time", keys: ["N"], also: "keyframe record"},
  {name: "draw-pace", words: "Draw the speed in the graph", area: "time", also: "velocity easing curve sketch"},
  {name: "fit-time", words: "Show all of the time", area: "time", also: "zoom whole timeline"},
  {name: "delete-picked", words: "Delete what is picked in the strip", area: "time", also: "remove keyframes pegs", when: state => state.picked.length},

  {name: "tool-pick", words: "Pick and move", area: "tools", keys: ["1"], also: "select"},
  {name: "tool-pen", words: "Draw a path", area: "tools", also: "bezier curve line", keys: ["2"]},
  {name: "tool-figure", words: "A figure as a path", area: "tools", also: "circle rectangle star spiral", keys: ["3"]},
  {name: "tool-text", words: "Place a text", area: "tools", also: "title type letters words", keys: ["4"]},
  {name: "tool-shape", words: "Place a shape", area: "tools", also: "rectangle ellipse star polygon", keys: ["5"]},
  {name: "tool-hand", words: "Move about", area: "tools", keys: ["6"], also: "pan"},
  {name: "tool-record", words: "Record a take", area: "tools", keys: ["7"], also: "sketch freehand"},
  {name: "tool-follow", words: "Follow a spot in footage", area: "tools", also: "track motion tracking point trace stick", menus: ["layer"], when: state => chosenLayer(state)?.kind === "footage"},
  {name: "upload", words: "Bring in a picture, a drawing or footage", area: "tools", keys: ["I"], also: "import file video gif svg font sequence upload"},

  {name: "undo", words: "Undo", area: "scene", also: "take back revert", keys: ["Ctrl+Z"]},
  {name: "redo", words: "Redo", area: "scene", also: "again repeat", keys: ["Ctrl+Shift+Z", "Ctrl+Y"]},
  {name: "delete", words: "Delete what is selected", area: "scene", keys: ["Delete", "Backspace"], menus: ["node"], also: "remove"},
  {name: "duplicate", words: "Duplicate; picked keys go on with themselves", area: "scene", keys: ["Ctrl+D"], menus: ["rail", "layer"], also: "copy"},
  {name: "example", words: "An example: a shape that rides round", area: "scene", also: "demo sample show start"},
  {name: "first-steps", words: "First steps: four, over the stage", area: "scene", also: "tutorial hints begin onboarding guide tour"},
  {name: "series", words: "A series: a film for each row of a table", area: "scene", also: "batch csv rows template fields variables data spreadsheet"},
  {name: "renders", words: "Renders", area: "scene", keys: ["R"], also: "video export"},
  {name: "frame-picture", words: "This frame as a picture", area: "scene", also: "still png snapshot export save image playhead poster"},
  {name: "history", words: "History: every edit, and the scene as it was then", area: "scene", keys: ["V"], also: "versions undo list past earlier restore snapshots"},
  {name: "find", words: "Find a command, a layer, a path, a scene, or help", area: "scene", keys: ["Ctrl+K"], anywhere: true, also: "search everything"},
  {name: "keys", words: "Help", area: "scene", keys: ["?"], also: "shortcuts keys"},

  {name: "rename", words: "Rename what is selected", area: "scene", also: "name title call", keys: ["F2"], menus: ["layer", "rail"]},
  {name: "save", words: "Nothing to be saved: all is kept as you work", area: "scene", also: "keep store write", keys: ["Ctrl+S"]},

  {name: "group", words: "Group the chosen layers", area: "layers", also: "join combine together folder", keys: ["Ctrl+G"], menus: ["layer"], when: state => chosenIds(state).length},
  {name: "ungroup", words: "Dissolve the group, or make a scene one", area: "layers", also: "split release apart", keys: ["Ctrl+Shift+G"], menus: ["layer"], when: state => {
    const layer = chosenLayer(state)
    return layer?.can.hold || layer?.can.show
  }},
  {name: "group-scene", words: "Make the group a scene of its own", area: "layers", also: "nest inner own reuse", menus: ["layer"], when: state => chosenLayer(state)?.can.hold},
  {name: "show-scene", words: "Show another scene in this one", area: "layers", also: "nest embed insert inner"},
  {name: "open-scene", words: "Open the scene that it shows", area: "layers", also: "enter inner go into", menus: ["layer"], when: state => chosenLayer(state)?.shows},
  {name: "leave-group", words: "Out of the group", area: "layers", also: "up close parent", when: state => state.inside},
  {name: "starter", words: "Give it a starter path", area: "layers", also: "attach motion new path", menus: ["layer"], when: state => {
    const layer = chosenLayer(state)
    return layer && !layer.ride && canStand(layer)
  }},
  {name: "outline", words: "Make a path of its outline", area: "layers", also: "convert trace vector", menus: ["layer"], when: state => chosenLayer(state)?.can.trace},
  {name: "choose-riders", words: "Choose all that ride its path", area: "layers", menus: ["layer"], when: isShared, also: "select same"},
  {name: "choose-kind", words: "Choose all of its kind", area: "layers", menus: ["layer"], also: "select same type", when: state => chosenLayer(state)},
  {name: "choose-none", words: "Choose nothing", area: "layers", also: "select none deselect", when: state => state.chosen},
  {name: "solo", words: "Show these alone while working, or all again", area: "layers", keys: ["Y"], menus: ["layer"], also: "solo isolate only", when: state => chosenIds(state).length},
  {name: "show-all", words: "Show all layers again", area: "layers", also: "unsolo end alone", when: state => state.solo.length},
  {name: "order-up", words: "One forward", area: "layers", keys: ["Ctrl+ArrowUp"], also: "order raise", when: state => chosenLayer(state)},
  {name: "order-down", words: "One back", area: "layers", keys: ["Ctrl+ArrowDown"], also: "order lower", when: state => chosenLayer(state)},
  {name: "order-front", words: "In front of everything", area: "layers", keys: ["Ctrl+Shift+ArrowUp"], menus: ["layer"], also: "order top", when: state => chosenLayer(state)},
  {name: "order-back", words: "Behind everything", area: "layers", keys: ["Ctrl+Shift+ArrowDown"], menus: ["layer"], also: "order bottom", when: state => chosenLayer(state)},
  {name: "into-group", words: "Into the group beside it", area: "layers", keys: ["Ctrl+ArrowRight"], also: "nest", when: state => groupBeside(state)},
  {name: "out-of-group", words: "Out of its group", area: "layers", keys: ["Ctrl+ArrowLeft"], menus: ["layer"], also: "unnest", when: state => chosenLayer(state)?.parent},
  {name: "choose-others", words: "Choose all layers but these", area: "layers", keys: ["Ctrl+Shift+A"], menus: ["layer"], also: "select invert", when: state => chosenIds(state).length},
  {name: "light", words: "Add a light", area: "layers", also: "lamp shade shading shine spot glow"},
  {name: "camera", words: "Add a camera", area: "layers", also: "view lens perspective depth zoom pan angle"},
  {name: "wake", words: "Leave bubbles behind it", area: "layers", also: "wake particles emitter dust sparks trail smoke", when: state => chosenLayer(state)?.can.stand},
  {name: "tail", words: "Leave a tail behind it", area: "layers", also: "trail comet stroke fade streak", when: state => chosenLayer(state)?.ride},
  {name: "trace", words: "Draw its path as it goes", area: "layers", also: "write-on trace line reveal trim stroke", when: state => chosenLayer(state)?.ride},
  {name: "unlink", words: "Unlink: a path of its own", area: "layers", also: "separate copy private path", menus: ["layer"], when: isShared},

  {name: "previous", words: "Previous node", area: "nodes", also: "point before", keys: ["["]},
  {name: "next", words: "Next node", area: "nodes", also: "point after", keys: ["]"]},
  {name: "first", words: "First node", area: "nodes", also: "point begin", keys: ["{"]},
  {name: "last", words: "Last node", area: "nodes", also: "point finish", keys: ["}"]},
  {name: "corner", words: "Corner", area: "nodes", also: "sharp point node", menus: ["node"]},
  {name: "round", words: "Smooth, with new handles", area: "nodes", also: "curve smooth node", menus: ["node"]},
  {name: "even", words: "Even handles", area: "nodes", also: "symmetric equal", menus: ["node"]},
  {name: "auto", words: "Auto handles", area: "nodes", also: "automatic", menus: ["node"]},
  {name: "break", words: "Part the handles", area: "nodes", also: "split handles asymmetric", menus: ["node"], when: state => marksOf(state).some(mark => !/^[cb]/.test(mark))},
  {name: "smooth", words: "Rejoin the handles", area: "nodes", also: "join handles aligned", menus: ["node"], when: someNode("b")},
  {name: "lock", words: "Lock", area: "nodes", also: "protect node", menus: ["node"], when: someNodeWithout("l")},
  {name: "unlock", words: "Unlock", area: "nodes", also: "free node", menus: ["node"], when: someNode("l")},
  {name: "disable", words: "Disable", area: "nodes", also: "skip off node", menus: ["node"], when: someNodeWithout("d")},
  {name: "enable", words: "Enable", area: "nodes", also: "use on node", menus: ["node"], when: someNode("d")},
  {name: "start", words: "Start here", area: "nodes", also: "first begin origin", menus: ["node"], when: state => oneNode(state) && isRound(state)},
  {name: "split", words: "Cut here", area: "nodes", also: "divide scissors", menus: ["node"], when: oneNode},
  {name: "join", words: "Join the two ends", area: "nodes", also: "connect weld", menus: ["node"], when: state => marksOf(state).length === 2 && isOpen(state)},
  {name: "jump", words: "Playhead to when the rider is here", area: "nodes", also: "go when time", keys: ["J"], menus: ["node"], when: oneNode},
  {name: "insert", words: "Put a node in here", area: "nodes", also: "add point", menus: ["rail"], when: (_, where) => where},
  {name: "insert-here", words: "Put a node in where the rider is", area: "nodes", also: "add point playhead"},
  {name: "all", words: "Select all nodes; without a path all layers", area: "nodes", also: "select everything", keys: ["Ctrl+A"], menus: ["rail"]},

  {name: "reverse", words: "Reverse", area: "paths", also: "direction backwards flip", menus: ["rail"]},
  {name: "close", words: "Close", area: "paths", also: "loop connect ends", menus: ["rail"], when: isOpen},
  {name: "open", words: "Open", area: "paths", also: "break loop", menus: ["rail"], when: isRound},
  {name: "smooth-all", words: "Smooth all nodes", area: "paths", also: "round curve", menus: ["rail"]},
  {name: "lock-path", words: "Lock the path", area: "paths", also: "protect", menus: ["rail"], when: state => chosenPath(state) && !chosenPath(state)?.locked},
  {name: "unlock-path", words: "Unlock the path", area: "paths", also: "free", menus: ["rail"], when: state => chosenPath(state)?.locked},
  {name: "paths-unused", words: "Remove the paths that nothing uses", area: "paths", also: "clean tidy orphan delete idle"},
  {name: "copy-data", words: "Copy as path data", area: "paths", also: "svg d clipboard", menus: ["rail"]},

  {name: "fit", words: "Fit the frame", area: "view", also: "zoom whole stage", keys: ["F"], menus: ["stage"]},
  {name: "fit-chosen", words: "Fit the selection", area: "view", also: "zoom selected", keys: ["G"], menus: ["stage"], when: state => chosenPath(state)},
  {name: "actual", words: "100 %", area: "view", also: "zoom full size pixels", keys: ["0"], menus: ["stage"]},
  {name: "in", words: "Nearer", area: "view", keys: ["+", "="], also: "zoom in"},
  {name: "out", words: "Further off", area: "view", keys: ["-"], also: "zoom out"},
  {name: "rails", words: "Show or hide rails and nodes", area: "view", also: "guides paths hide overlay", keys: ["Q"], menus: ["stage"]},
  {name: "snap", words: "Snapping on and off", area: "view", also: "magnet align grid", keys: ["S"]},
  {name: "ghosts", words: "Ghosts of the rider", area: "view", also: "onion skin before after", keys: ["O"]},
  {name: "unturned", words: "A pale copy of the rider without its facing", area: "view", also: "orientation original", keys: ["U"]},
  {name: "compare", words: "All riders in the graph", area: "view", also: "all speeds curves", keys: ["C"]},
  {name: "second", words: "Second view: from above, from the side, or all of it", area: "view", keys: ["D"], menus: ["stage"], also: "depth top plan two views layout"},
  {name: "second-above", words: "The scene from above", area: "view", also: "top plan second view depth floor"},
  {name: "second-side", words: "The scene from its side", area: "view", also: "left second view depth profile"},
  {name: "second-all", words: "All of the scene, to move about in", area: "view", also: "overview map navigator second view"},
  {name: "stage-alone", words: "Only the stage, and back", area: "view", keys: ["W"], menus: ["stage"], also: "wide full hide panels"},
  {name: "hold-hand", words: "Held: move about; as the middle button, or Space held", area: "view", keys: ["H"], held: true},
  {name: "hold-raw", words: "Held: the raw line of a take alone", area: "view", keys: ["B"], held: true},
]

/**
 * What the pointer and other keys do, for the sheet: nothing runs by these.
 * @type {{words: string, area: Area, keys: string[]}[]}
 */
export const GESTURES = [
  {area: "scene", keys: ["Escape"], words: "Break off a drag, end a drawing, put the tool down, leave a group, select nothing"},
  {area: "scene", keys: ["Ctrl+C"], words: "Copy picked keys, layers with their rides, or the path as path data; Ctrl V puts them in, with Shift in place"},
  {area: "scene", keys: ["Ctrl+X"], words: "Cut layers; pasted, here or in another scene, they come back as they were"},
  {area: "scene", keys: ["Menu"], words: "What can be done here, as the right button"},
  {area: "layers", keys: ["Alt+arrows"], words: "Move the selected layer 1 px; with Shift 10"},
  {area: "layers", keys: ["Drag"], words: "A corner scales in proportion, a side one way; Shift the other of the two, Alt about the anchor, Ctrl slants by a side; the knob turns, with Shift by 15°"},
  {area: "layers", keys: ["Alt+drag"], words: "The anchor, without moving the picture; to corners, edges and the middle, with Ctrl anywhere"},
  {area: "layers", keys: ["Double click"], words: "In the list: rename; on a group: into it; on a text: write there; on a label in the card: back to what is usual"},
  {area: "layers", keys: ["Drag"], words: "In the list: another order, into a group, onto a path; by touch held by its picture. A rider: shifted off its path. Beside everything: a band"},
  {area: "layers", keys: ["Alt+click"], words: "On the ring beside a value: clear all its keys"},
  {area: "layers", keys: ["Shift+click"], words: "One more layer; in the list all layers up to it"},
  {area: "layers", keys: ["Ctrl+click"], words: "In the list one layer more, or one less"},
  {area: "nodes", keys: ["arrows"], words: "Selected nodes: 1 px; with Shift 10, with Alt 0.1"},
  {area: "view", keys: ["arrows"], words: "With the pointer over the second view, nodes and layers move as they lie there"},
  {area: "nodes", keys: ["Shift"], words: "Level, upright or slanted; regular figures; more nodes"},
  {area: "nodes", keys: ["Ctrl"], words: "While dragging: no snapping"},
  {area: "nodes", keys: ["Alt"], words: "Drag a handle: part it. A node: pull handles out. The curve: put a node in. A figure or frame: from the middle"},
  {area: "tools", keys: ["arrows"], words: "With a tool that draws: a cursor over the stage, 10 px; with Shift 50, with Alt 1"},
  {area: "tools", keys: ["Enter"], words: "Press there; a figure or a take goes on to the next Enter. Without the cursor: end a drawing"},
  {area: "tools", keys: ["Backspace"], words: "Take back the last node drawn"},
  {area: "time", keys: ["arrows"], words: "On a peg: earlier or later by a frame, faster or slower by 10 px/s; with Shift ten times that"},
  {area: "time", keys: ["Alt"], words: "In the strip: a bar's end trims; picked keys stretch; a peg's sides part"},
]

/** @type {Record<Area, string>} */
export const AREAS = {time: "Time", tools: "Tools", scene: "Scene", layers: "Layers", paths: "Paths", nodes: "Nodes", view: "View"}

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
export const shownKey = key => (key.length > 1 ? key.split("+").filter(Boolean).map(part => SIGNS[part] ?? part).join(" ") : SIGNS[key] ?? key)
