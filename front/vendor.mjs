// Copies what the pages need from the packages in node_modules into the application, so that
// running it needs neither npm nor a network. Run with `npm run vendor` after changing a version.
import {copyFileSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync} from "node:fs"

const ICONS = `arrow-clockwise arrow-counter-clockwise arrow-u-up-left arrow-u-up-right arrows-in-line-vertical
  bezier-curve broom crosshair-simple frame-corners hand hexagon link-simple magnet-straight pen-nib prohibit scissors
  selection-all selection-slash shapes spiral swap wave-sine caret-line-left caret-line-right
  caret-double-down caret-double-up caret-down caret-left caret-right caret-up check circle copy cursor dots-three download-simple eye eye-slash
  film-strip flip-horizontal flip-vertical folder-open folder-simple-plus image infinity keyboard line-segments
  link-break lock-simple lock-simple-open minus path pause play plus plus-circle push-pin question repeat
  skip-back skip-forward sparkle sliders-horizontal star square stack-simple text-aa text-t trash upload-simple
  warning-circle x record ghost compass scribble-loop export books arrow-bend-up-left`.split(/\s+/)
const modules = "node_modules", studio = "src/studio", vendor = `${studio}/static/studio/vendor`

rmSync(`${studio}/icons`, {recursive: true, force: true})
mkdirSync(`${studio}/icons`, {recursive: true})
for (const name of ICONS) {
  const svg = readFileSync(`${modules}/@phosphor-icons/core/assets/regular/${name}.svg`, "utf8")
  writeFileSync(`${studio}/icons/${name}.svg`, svg.replace(/^<svg[^>]*>|<\/svg>\s*$/g, "") + "\n")
}
copyFileSync(`${modules}/@phosphor-icons/core/LICENSE`, `${studio}/icons/LICENSE`)

mkdirSync(vendor, {recursive: true})
copyFileSync(`${modules}/idiomorph/dist/idiomorph-ext.min.js`, `${vendor}/idiomorph-ext.min.js`)
copyFileSync(`${modules}/idiomorph/LICENSE`, `${vendor}/idiomorph-LICENSE`)

const fonts = `${studio}/static/studio/fonts`
mkdirSync(fonts, {recursive: true})
for (const family of ["figtree", "bricolage-grotesque"]) {
  const files = `${modules}/@fontsource-variable/${family}/files`
  for (const part of ["latin", "latin-ext"]) {
    const name = readdirSync(files).find(f => f === `${family}-${part}-wght-normal.woff2`)
    copyFileSync(`${files}/${name}`, `${fonts}/${family}-${part}.woff2`)
  }
  copyFileSync(`${modules}/@fontsource-variable/${family}/LICENSE`, `${fonts}/${family}-LICENSE`)
}
