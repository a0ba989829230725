/** The colours of speed: dark and cool for slow, warm for fast; told apart by lightness as well. */

const STOPS = [[47, 60, 143], [42, 130, 168], [60, 179, 139], [217, 196, 76], [240, 127, 60]]

/** @param {number} share 0 slow .. 1 fast */
export function rampColour(share) {
  const at = Math.min(Math.max(share, 0), 1) * (STOPS.length - 1)
  const low = Math.min(Math.floor(at), STOPS.length - 2)
  const mixed = STOPS[low].map((value, i) => Math.round(value + (STOPS[low + 1][i] - value) * (at - low)))
  return `rgb(${mixed.join(" ")})`
}
