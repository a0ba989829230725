/** Commands of the view: zoom, and what is shown while working. */

import {chosenPlaces} from "./hits.js"
import {chosenPath} from "./store.js"
import {tr} from "./words.js"

/** @import {ActList, Tools} from "./acttools.js" */

/** Px round a node that is shown alone. */
const AROUND = 100

/** @param {Tools} tools @returns {ActList} */
export function viewActs({store, view, say, setPrefs}) {
  function fitChosen() {
    const path = chosenPath(store.state), places = chosenPlaces(store.state)
    const xs = places.map(place => place[0]), ys = places.map(place => place[1])
    const left = Math.min(...xs), top = Math.min(...ys)
    if (places.length > 1) view.fitBox([left, top, Math.max(...xs) - left, Math.max(...ys) - top])
    else if (places.length) view.fitBox([left - AROUND, top - AROUND, 2 * AROUND, 2 * AROUND])
    else if (path) view.fitBox(path.box)
    else view.fit()
  }

  /** @param {"ghosts"|"compare"|"unturned"|"rails"|"snap"} name @param {(on: boolean) => string} words */
  const toggle = (name, words) => () => {
    const on = !store.state.prefs[name]
    setPrefs({[name]: on})
    say(words(on))
  }
  const shownOr = (/** @type {string} */ what) => (/** @type {boolean} */ on) => (on ? tr`${what}: shown.` : tr`${what}: hidden.`)

  return {
    fit: () => view.fit(),
    actual: () => view.zoom(1 / view.scale),
    "fit-chosen": fitChosen,
    in: () => view.zoom(1.25),
    out: () => view.zoom(0.8),
    ghosts: toggle("ghosts", shownOr(tr`Ghosts of the rider`)),
    unturned: toggle("unturned", shownOr(tr`A pale copy without facing`)),
    compare: toggle("compare", shownOr(tr`All riders in the graph`)),
    rails: toggle("rails", on => (on ? tr`Rails are shown.` : tr`Rails are hidden; Q shows them. Riders go on.`)),
    snap: toggle("snap", on => (on ? tr`Snapping is on.` : tr`Snapping is off.`)),
  }
}
