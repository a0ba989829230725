/** Puts the editor together: one store, the views on it, and the tools that send edits. */

import {createActs} from "./acts.js"
import {Ahead} from "./ahead.js"
import {Asking} from "./asking.js"
import {createBehind} from "./behind.js"
import {calm} from "./calm.js"
import {Card} from "./card.js"
import {wireChoices} from "./choices.js"
import {wireClipboard} from "./clipboard.js"
import {Colours} from "./colours.js"
import {Compare} from "./compare.js"
import {createCrumbs} from "./crumbs.js"
import {wireDataSheet} from "./datasheet.js"
import {show as showDialog, wireDialogs} from "./dialogs.js"
import {Edits} from "./edits.js"
import {Finder} from "./finder.js"
import {FollowTool} from "./follow.js"
import {Graph} from "./graph.js"
import {History} from "./history.js"
import {layerAt} from "./hits.js"
import {wireKeys} from "./keys.js"
import {Lanes} from "./lanes.js"
import {Layout} from "./layout.js"
import {wireMenus} from "./menus.js"
import {LinkPick} from "./linkpick.js"
import {createNow, createStatus} from "./now.js"
import {createOverlay} from "./overlay.js"
import {Partials} from "./partials.js"
import {Pen} from "./pen.js"
import {Pick} from "./pick.js"
import {Picture} from "./picture.js"
import {createFigure, createPlacing} from "./placing.js"
import {Player} from "./player.js"
import {Pointer} from "./pointer.js"
import {createPrefs} from "./prefs.js"
import {createProperties} from "./properties.js"
import {createRawLine} from "./rawline.js"
import {RecordTool} from "./record.js"
import {Refusal} from "./refusal.js"
import {wireRendering} from "./rendering.js"
import {createServer} from "./server.js"
import {fillSheet, nameButtons, nameKeys, wireSearch} from "./sheet.js"
import {keepFile} from "./keeping.js"
import {wireSeam} from "./seam.js"
import {wireResets} from "./resets.js"
import {Resume} from "./resume.js"
import {createSteps} from "./steps.js"
import {SecondView} from "./second.js"
import {Shelf} from "./shelf.js"
import {Snap} from "./snap.js"
import {StageMenu} from "./stagemenu.js"
import {createStore, initialState} from "./store.js"
import {Time} from "./time.js"
import {createToasts} from "./toast.js"
import {Transport} from "./transport.js"
import {Uploads} from "./uploads.js"
import {StageView} from "./view.js"
import {Why} from "./why.js"
import {tr} from "./words.js"
import {Writing} from "./writing.js"

/** @template {Element} T @param {string} selector @returns {T} */
const find = selector => {
  const found = document.querySelector(selector)
  if (!found) throw new Error(`the page has no ${selector}`)
  return /** @type {T} */ (found)
}

const editor = /** @type {HTMLElement} */ (find("#editor"))
const stage = /** @type {HTMLElement} */ (find("#stage"))
const store = createStore(initialState())
const server = createServer(editor)
const say = createToasts(find("#toasts"))
const refusal = new Refusal(document.body)
const player = new Player(store)

const partials = new Partials(
  {store, base: server.base, shelf: find("#shelf"), card: find("#card")},
  part => {
    ;(part === "shelf" ? shelf : card).swapped()
    properties.redraw()
    refusal.redraw()
  },
)
const edits = new Edits({store, server, say, refresh: () => partials.refresh(), shown: Number(editor.dataset.shown)})
const view = new StageView(stage, () => {
  picture.redraw()
  compare.redraw()
  overlay.redraw()
  if (store.state.second === "all") second?.redraw()
  writing?.redraw()
  rawLine?.redraw()
  pointer?.cursor.redraw()
})
const seeing = {assets: editor.dataset.assets ?? "", footage: {
  address: editor.dataset.footage ?? "", endings: (editor.dataset.moving ?? "").split(" "), perBlock: Number(editor.dataset.perBlock),
}, view, say}
const picture = new Picture(find("#stage canvas"), seeing)
const compare = new Compare(stage, {store, options: seeing})
const overlay = createOverlay(find("#stage .overlay"), view)
const time = new Time(find("#time"), {store, player})
const ahead = new Ahead(find("#time .ruler"), {store, picture})
const lanes = new Lanes(find("#time .lanes"), {store, edits})
/** @param {MouseEvent} event */
const onStage = event => Boolean(document.elementFromPoint(event.clientX, event.clientY)?.closest("#stage"))
/** The layer on the stage under the pointer. @param {MouseEvent} event */
const layerOn = event => (onStage(event) && layerAt(store.state, view.point(event))?.id) || null
const shelf = new Shelf(find("#shelf"), {store, edits, stage, rename: () => card.rename(), layerOn})
const card = new Card(find("#card"), {store, edits, server, say, refusal})
new LinkPick(find("#card"), find("#now"), {store, edits, say})
const properties = createProperties(find("#card"), {store, edits})
const prefs = createPrefs(find("#view-menu"), store)
const snap = new Snap(store, view)
const TOOLS = ["pick", "pen", "figure", "text", "shape", "hand", "record", "follow"]
const asking = new Asking(find("#asking"), edits)
const acts = createActs({store, edits, view, player, say, setPrefs: prefs.set, asking}, {
  ...Object.fromEntries(TOOLS.map(tool => [`tool-${tool}`, () => pointer.pickTool(tool)])),
  upload: () => uploads.choose(),
  "show-scene": () => /** @type {HTMLElement} */ (find("[data-opens='scenes']")).click(),
  renders: () => /** @type {HTMLElement} */ (find("[data-opens='renders']")).click(),
  "frame-picture": () => void keepFile(server, `frames/${store.state.frame}.png`, say),
  keys: () => showDialog("keys"),
  find: () => finder.open(),
  history: () => past.toggle(),
  "first-steps": () => steps.callBack(),
  "ride-first": () => say(tr`Drag the layer in the shelf onto the path’s tile, or choose it and press its path under Ride in the card.`),
  series: () => location.assign(`/scenes/${editor.dataset.scene}/series`),
  "stage-alone": () => layout.alone(),
  second: () => second.toggle(),
  "second-above": () => second.show("above"),
  "second-side": () => second.show("side"),
  "second-all": () => second.show("all"),
  rename: () => card.rename(),
  save: () => say(tr`All is kept as you work; Save as a file is on the page of projects.`),
})
const finder = new Finder(find("#find"), {store, edits, acts, server, help: find("#keys"), card})
const steps = createSteps(find("#steps"), store)
const past = new History(find("#history"), {store, edits, server, compare, say, put: (place, html) => partials.put(place, html)})
const layout = new Layout(editor)
const graph = new Graph(find("#time .graph"), {store, edits, say})
const hands = {store, edits, view, snap, say}
/** @param {import("./types.js").Layer} layer */
const writeOn = layer => {
  store.set({chosen: {kind: "layer", id: layer.id}})
  writing.begin(layer.id)
}
const pen = new Pen(hands, {changed: () => pointer.tell(), done: () => toPick()})
const toPick = () => pointer.pickTool("pick")
/** What puts something new on a bench; on the stage a shape is dragged to its size. @param {import("./stagedrags.js").Hands} on @param {boolean} sized */
const placing = (on, sized) => ({
  figure: createFigure({...on, done: toPick}),
  text: createPlacing({...on, what: () => "text", done: id => {
    toPick()
    writing.begin(id)
  }}),
  shape: createPlacing({...on, what: () => store.state.shape, sized, done: toPick}),
  record: new RecordTool({...on, player, done: toPick, most: Number(editor.dataset.mostSamples)}),
})
const follow = new FollowTool(find("#follow"), {store, edits, server, player, say, done: toPick, changed: () => pointer.tell()})
/** @type {Pointer} */
const pointer = new Pointer(stage, {store, view, tools: {
  pick: new Pick(hands, writeOn),
  pen: pen.over(hands),
  ...placing(hands, true),
  follow,
  hand: {cursor: "grab", hint: () => tr`Drag to move about. The wheel zooms.`, press: () => null},
}})
/** @type {SecondView} */
const second = new SecondView(find("#second"), {...hands, stage: view, server, pen, placing: on => placing(on, false), words: writeOn, said: () => pointer.tell()})
/** @type {Writing} */
const writing = new Writing(stage, {
  store, edits, view, say, letters: editor.dataset.letters ?? "", assets: editor.dataset.assets ?? "", fallbacks: (editor.dataset.fallbacks ?? "").split(" "),
})
const colours = new Colours(find("#colours"), {store, stage, canvas: find("#stage canvas"), say})
const rawLine = createRawLine(find("#stage .overlay"), {view, server})
const menu = new StageMenu(stage, {store, view, acts, lists: [find("#shelf"), find("#time .lanes")]})
const uploads = new Uploads(editor, {store, edits, say, put: (place, html) => partials.put(place, html), placeOf: event => onStage(event) ? view.point(event) : null})

for (const part of [
  edits, createBehind(editor, {store, server}), view, ahead, picture, compare, overlay, writing, createCrumbs(find("#crumbs"), store), rawLine, time, lanes, calm(graph, () => graph.drags.busy), shelf, card, calm(properties), prefs,
  second, calm(new Transport(find(".strip"), {store, player, say, acts})), calm(createNow(find("#now"))), calm(createStatus(editor)),
  past, steps, follow, asking,
  new Why(find("#why"), {server, put: (place, html) => partials.put(place, html)}),
]) store.add(part)

wireMenus()
wireResets(find("#card"), {store, edits})
wireDialogs()
fillSheet(find("#keys [data-sheet]"))
nameKeys(find("#keys"))
wireSearch(find("#keys"))
wireSeam({button: find("#seam"), menu: find("#seam-menu"), store, edits, server, compare, put: (place, html) => partials.put(place, html)})
nameButtons(editor)
wireDataSheet({edits})
wireChoices(find("#renders"), () => store.state.frame)
wireRendering({button: find("[data-opens='renders']"), sheet: find("#renders"), say, server, put: (place, html) => partials.put(place, html)})
wireClipboard({scene: editor.dataset.scene ?? "", store, edits, say, take: files => uploads.take(files)})
wireKeys({
  store, edits, acts, pointer, player, seenFrom: () => second.under, menu: () => menu.keyboard(), alone: rawLine.alone,
  cancel: () => [asking, colours, pointer, second, lanes, graph, card, shelf].some(part => part.cancel()),
})
for (const step of /** @type {const} */ (["undo", "redo"])) find(`#${step}`).addEventListener("click", () => acts.run(step))
const resume = new Resume(editor.dataset.scene ?? "", {store, player, view, card})
window.addEventListener("focus", () => void edits.catchUp().catch(() => undefined))
window.addEventListener("beforeunload", event => {
  if (["keeping", "waiting"].includes(store.state.kept)) event.preventDefault()
})

await edits.whole().catch(error => say(error.message, true))
resume.begin()
store.add(partials)
await picture.whenReady()
editor.dataset.ready = ""
performance.mark("editor-ready")
