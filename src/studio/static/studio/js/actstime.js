/** Commands of time: playing, stepping, what plays, the Pin. */

import {nextTime} from "./stops.js"
import {chosenLayer, shown, tellingRider} from "./store.js"
import {tr} from "./words.js"

/** @import {State} from "./types.js" */
/** @import {ActList, Tools} from "./acttools.js" */

/** @param {Tools} tools @returns {ActList} */
export function timeActs({store, edits, player, say}) {
  /** The playhead to the next peg or key, or the one before. @param {1|-1} way */
  const toStop = way => () => {
    const time = nextTime(store.state, way, chosenLayer(store.state) ?? tellingRider(store.state))
    if (Number.isNaN(time)) return say(way > 0 ? tr`No peg or key comes after this.` : tr`No peg or key comes before this.`)
    if (store.state.playing) player.pause()
    player.go(time)
  }

  /**
   * The part that plays; where it would be the whole, or nothing, all plays.
   * @param {(state: State) => [number, number]} make
   */
  const setRange = make => () => {
    const length = shown(store.state)?.settings.length ?? 1
    const [begin, end] = make(store.state)
    /** @type {[number, number]} */
    const range = [Math.max(begin, 0), Math.min(end, length)]
    const none = range[1] - range[0] < 2 || (range[0] === 0 && range[1] === length)
    store.set({range: none ? null : range})
    if (none) say(tr`All of the scene plays.`)
  }

  function pin() {
    const on = !store.state.pin
    store.set({pin: on})
    if (on) say(tr`Pin is on: drag a layer to place it at this time, go to another time, drag it again. N ends it.`)
  }

  return {
    play: () => player.toggle(),
    "play-from-start": () => player.play(true),
    back: () => player.step(-1),
    on: () => player.step(1),
    "back-ten": () => player.step(-10),
    "on-ten": () => player.step(10),
    "start-of-scene": () => player.go(0),
    "end-of-scene": () => player.go(Infinity),
    "previous-stop": toStop(-1),
    "next-stop": toStop(1),
    loop: () => store.set({loop: !store.state.loop}),
    pin,
    "draw-pace": () => store.set({draws: !store.state.draws, graph: "speed"}),
    "fit-time": () => store.set({span: null}),
    "range-from": setRange(state => [state.frame, state.range?.[1] ?? Infinity]),
    "range-to": setRange(state => [state.range?.[0] ?? 0, state.frame + 1]),
    "delete-picked": () => void edits.commit({form: "keys-delete", fields: {items: store.state.picked.join(" ")}}),
  }
}
