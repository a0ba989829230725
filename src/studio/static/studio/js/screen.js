/** Renders over the whole window, for another screen: each looped without a gap, one after the other. */

import {tr} from "./words.js"

/** @typedef {{row: HTMLElement, address: string, isFilm: boolean, loaded: Promise<string>|null}} Item */

const main = /** @type {HTMLElement} */ (document.getElementById("screen"))
const stage = /** @type {HTMLElement} */ (document.getElementById("playing"))
const list = /** @type {HTMLElement} */ (document.querySelector(".screen-list"))
const waits = /** @type {HTMLElement} */ (document.querySelector("[data-waits]"))
/** A studio that does not answer, after a power cut perhaps, is asked again so often. */
const AGAIN_MS = 5000
/** How often a screen looks what there is now. */
const LOOK_MS = 60_000
/** What the worker beside the page keeps, and this page what was there before it. */
const STORE = `coaster-screen ${location.pathname}`
/** The list leaves when nothing was moved for so long. */
const QUIET_MS = 2500

/** @type {Item[]} */
const items = [...list.querySelectorAll("li")].map(row => ({
  row, address: row.dataset.render ?? "", isFilm: row.dataset.kind === "video", loaded: null,
}))
/** @type {Record<string, string>} */
const seconds = JSON.parse(localStorage.getItem(main.dataset.key ?? "") ?? "{}")
let at = 0, begun = 0, shown = 0

/** All of a render, kept in the window: what was loaded once needs no studio. @param {Item} item @returns {Promise<string>} */
async function all(item) {
  for (;;) {
    try {
      const answer = await fetch(item.address)
      if (answer.ok) {
        const film = await answer.blob()
        void kept(item.address, film)
        return URL.createObjectURL(film)
      }
      waits.textContent = tr`This render is not there any more.`
    } catch {
      waits.textContent = tr`The studio does not answer; it is asked again.`
    }
    waits.hidden = false
    await new Promise(go => setTimeout(go, AGAIN_MS))
  }
}

/** Keeps a film for when the studio is away; where a browser keeps nothing, it plays on until it is closed. @param {string} address @param {Blob} film */
const kept = (address, film) => window.caches?.open(STORE).then(store => store.put(address, new Response(film))).catch(() => undefined)

/** @param {number} index */
async function play(index) {
  const item = items[index], mine = ++shown
  if (!item) return
  at = index
  begun = performance.now()
  for (const each of items) each.row.ariaCurrent = each === item ? "true" : null
  const address = await (item.loaded ??= all(item))
  if (mine !== shown) return
  waits.hidden = true
  stage.dataset.loops = "0"
  stage.replaceChildren(...(item.isFilm ? loopOf(address, mine) : [Object.assign(new Image(), {src: address, alt: ""})]))
  begun = performance.now()
  // The next one is there when its turn comes.
  const next = items[(index + 1) % items.length]
  next.loaded ??= all(next)
}

/** A film that is taken away while it begins was not to play: that is no fault. @param {HTMLVideoElement} film */
const run = film => void film.play().catch(() => undefined)

/**
 * Two of the same: while one plays, the other stands at its first frame, ready to take over when that ends.
 * @param {string} address @param {number} mine
 */
function loopOf(address, mine) {
  const two = [0, 1].map(() => Object.assign(document.createElement("video"), {src: address, muted: true, playsInline: true, preload: "auto"}))
  two.forEach((film, i) => film.addEventListener("ended", () => {
    if (mine !== shown || turn()) return
    const other = two[1 - i]
    run(other)
    other.style.zIndex = "1"
    film.style.zIndex = "0"
    film.currentTime = 0
    stage.dataset.loops = String(Number(stage.dataset.loops ?? 0) + 1)
  }))
  two[0].style.zIndex = "1"
  run(two[0])
  return two
}

/** @param {Item} item */
const secondsOf = item => Number(seconds[item.address] ?? 0) || 0

/** The next one, if this one had its time; whole loops are played. @returns {boolean} */
function turn() {
  const lasts = secondsOf(items[at])
  if (!lasts || items.length < 2 || performance.now() - begun < 1000 * lasts - 20) return false
  void play((at + 1) % items.length)
  return true
}

// A moving picture tells nobody when it begins again.
setInterval(() => { if (items[at] && !items[at].isFilm && waits.hidden) turn() }, 200)

let quiet = 0
function wake() {
  main.toggleAttribute("data-awake", true)
  clearTimeout(quiet)
  quiet = setTimeout(() => main.toggleAttribute("data-awake", list.matches(":focus-within, :hover")), QUIET_MS)
}

const fill = () => document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen()

for (const [i, item] of items.entries()) {
  const field = /** @type {HTMLInputElement} */ (item.row.querySelector("input"))
  field.value = String(secondsOf(item))
  field.addEventListener("change", () => {
    const wanted = Number(field.value.replace(",", "."))
    // What is no time stays as it was, and is seen to.
    if (Number.isFinite(wanted) && wanted >= 0) seconds[item.address] = String(wanted)
    field.value = String(secondsOf(item))
    localStorage.setItem(main.dataset.key ?? "", JSON.stringify(seconds))
  })
  item.row.querySelector("button")?.addEventListener("click", () => void play(i))
}
list.querySelector("[data-fill]")?.addEventListener("click", () => void fill())
document.addEventListener("pointermove", wake)
document.addEventListener("focusin", wake)
document.addEventListener("keydown", event => {
  if (event.target instanceof HTMLInputElement || event.ctrlKey || event.metaKey || event.altKey) return
  const way = {ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1}[event.key]
  if (way) void play((at + way + items.length) % items.length)
  else if (event.key.toLowerCase() === "f") void fill()
})
/** What there is to be played, of a page. @param {ParentNode} page */
const listed = page => [...page.querySelectorAll(".screen-list [data-render]")].map(row => /** @type {HTMLElement} */ (row).dataset.render).join()

/** Looks what there is now: what was rendered anew is shown, what was withdrawn no more. */
async function look() {
  const answer = await fetch(location.pathname).catch(() => null)
  if (answer?.status === 404) {
    shown++
    await caches.delete(STORE)
    stage.replaceChildren()
    list.remove()
    waits.textContent = tr`This is not shown any more.`
    waits.hidden = false
  } else if (answer?.ok && !answer.redirected) {
    const page = new DOMParser().parseFromString(await answer.text(), "text/html")
    if (page.querySelector(".screen-list") && listed(page) !== listed(document)) location.reload()
  }
}
setInterval(() => void look(), LOOK_MS)
window.addEventListener("online", () => void look())

/** Keeps the page, and lets go of films that are not played any more. */
async function keep() {
  if (!("serviceWorker" in navigator)) return
  await navigator.serviceWorker.register(main.dataset.worker ?? "", {scope: location.pathname})
  const store = await caches.open(STORE), played = new Set(items.map(item => new URL(item.address, location.href).href))
  for (const {url} of await store.keys()) if (/\/\d+(\/file)?$/.test(url) && !played.has(url)) await store.delete(url)
  const loaded = performance.getEntriesByType("resource").map(({name}) => name)
  const needed = loaded.filter(name => name.startsWith(location.origin) && !played.has(name))
  await store.addAll([location.pathname, ...new Set(needed)])
}
keep().catch(() => undefined)

// The screen is not to go dark while something plays; where that is not allowed, it does.
const light = () => { if (!document.hidden) void navigator.wakeLock?.request("screen").catch(() => undefined) }
document.addEventListener("visibilitychange", light)
light()
wake()
void play(0)
