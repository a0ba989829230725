/** A file that the studio makes, kept where the browser keeps such; why it could not be made is said. */

import {Away, Refused} from "./server.js"
import {tr} from "./words.js"

/**
 * @param {import("./server.js").Server} server @param {string} name the address within the scene
 * @param {(words: string, bad?: boolean) => void} say
 */
export async function keepFile(server, name, say) {
  try {
    const answer = await server.get(name), told = /filename="([^"]+)"/.exec(answer.headers.get("Content-Disposition") ?? "")
    const address = URL.createObjectURL(await answer.blob())
    Object.assign(document.createElement("a"), {href: address, download: told?.[1] ?? ""}).click()
    setTimeout(() => URL.revokeObjectURL(address), 60_000)
    say(tr`${told?.[1] ?? tr`It`} is with the other downloads.`)
  } catch (error) {
    if (!(error instanceof Refused || error instanceof Away)) throw error
    say(error.message, true)
  }
}
