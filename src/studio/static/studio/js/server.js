/** Talks to the studio. Refusals come back as `Refused`, with one sentence for the person. */

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

  /** @param {string} address @param {RequestInit} [options] */
  async function ask(address, options) {
    let response
    try {
      response = await fetch(address, options)
    } catch (error) {
      if (error instanceof DOMException && error.name === "AbortError") throw error
      throw new Away("The studio does not answer; try this again when it is there.")
    }
    if (response.ok) return response
    const words = await wordsOf(response)
    throw response.status === 503 ? new Away(words, true) : new Refused(words, response.status)
  }

  return {
    /** @param {string} name @param {Record<string, string>|FormData} fields @param {AbortSignal} [signal] */
    post(name, fields, signal) {
      const body = fields instanceof FormData ? fields : new URLSearchParams(fields)
      return ask(base + name, {method: "POST", body, headers, signal})
    },
    /** @param {string} address @param {Record<string, string>} fields */
    postTo(address, fields) {
      return ask(address, {method: "POST", body: new URLSearchParams(fields), headers: {...headers, Accept: "application/json"}})
    },
    /** @param {string} name */
    get: name => ask(base + name),
    base,
  }
}

/** @typedef {ReturnType<typeof createServer>} Server */

/** @param {Response} response */
async function wordsOf(response) {
  try {
    return (await response.json()).words
  } catch {
    return response.status === 404
      ? "This scene is not there any more."
      : `Something broke on the server (${response.status}). What was kept before is safe.`
  }
}
