/** Talks to the studio. Refusals come back as `Refused`, with one sentence for the person. */

import {tr} from "./words.js"

export class Refused extends Error {
  /** @param {string} words @param {number} status */
  constructor(words, status) {
    super(words)
    this.status = status
  }
}

/** The studio does not answer, or cannot keep anything now and says why; whether it heard is not known. */
export class Away extends Error {
  /** @param {string} words @param {boolean} [told] whether these are its own */
  constructor(words, told = false) {
    super(words)
    this.told = told
  }
}

/** @param {HTMLElement} root the editor; its data carry the addresses and the token */
export function createServer(root) {
  const base = root.dataset.base ?? ""
  const headers = {"X-CSRFToken": root.dataset.csrf ?? ""}

  /** @param {() => Promise<Response>} asked */
  async function ask(asked) {
    let response
    try {
      response = await asked()
    } catch (error) {
      if (error instanceof DOMException && error.name === "AbortError") throw error
      throw new Away(tr`The studio does not answer; try this again when it is there.`)
    }
    if (response.ok) return response
    const words = await wordsOf(response)
    throw response.status === 503 ? new Away(words, true) : new Refused(words, response.status)
  }

  return {
    /**
     * Send a file, and hear which share of it is on the other side.
     * @param {string} name @param {FormData} form @param {(share: number) => void} told
     */
    send(name, form, told) {
      return ask(() => sentBy(base + name, form, headers, told))
    },
    /** @param {string} name @param {Record<string, string>} fields @param {AbortSignal} [signal] */
    post(name, fields, signal) {
      const body = new URLSearchParams(fields)
      return ask(() => fetch(base + name, {method: "POST", body, headers, signal}))
    },
    /** @param {string} address @param {Record<string, string>} fields */
    postTo(address, fields) {
      return ask(() => fetch(address, {method: "POST", body: new URLSearchParams(fields), headers: {...headers, Accept: "application/json"}}))
    },
    /** @param {string} name */
    get: name => ask(() => fetch(base + name)),
    base,
  }
}

/** @typedef {ReturnType<typeof createServer>} Server */

/**
 * As fetch does, which says nothing while it sends.
 * @param {string} address @param {FormData} form @param {Record<string, string>} headers @param {(share: number) => void} told
 * @returns {Promise<Response>}
 */
function sentBy(address, form, headers, told) {
  return new Promise((answer, fail) => {
    const request = new XMLHttpRequest()
    request.open("POST", address)
    request.responseType = "arraybuffer"
    for (const [name, value] of Object.entries(headers)) request.setRequestHeader(name, value)
    request.upload.addEventListener("progress", ({loaded, total}) => told(loaded / total))
    request.addEventListener("load", () => {
      const type = request.getResponseHeader("Content-Type") ?? ""
      answer(new Response(request.response, {status: request.status, headers: {"Content-Type": type}}))
    })
    request.addEventListener("error", () => fail(new TypeError(tr`nobody answers`)))
    request.send(form)
  })
}

/** @param {Response} response */
async function wordsOf(response) {
  try {
    return (await response.json()).words
  } catch {
    return response.status === 404
      ? tr`This scene is not there any more.`
      : tr`Something broke on the server (${response.status}). What was kept before is safe.`
  }
}
