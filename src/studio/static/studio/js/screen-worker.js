/**
 * Keeps all that a screen needs, so that it begins again without the studio: after a power cut perhaps, before that is
 * back. Whatever the studio answers is what is shown, and kept anew; only where it does not answer is what was kept.
 */

const worker = /** @type {any} */ (self)
/** Each screen keeps its own. */
const KEPT_IN = `coaster-screen ${new URL(worker.registration.scope).pathname}`

worker.addEventListener("install", () => worker.skipWaiting())
worker.addEventListener("activate", (/** @type {any} */ event) => event.waitUntil(worker.clients.claim()))
worker.addEventListener("fetch", (/** @type {any} */ event) => {
  if (event.request.method === "GET") event.respondWith(answer(event.request))
})

/** @param {Request} request @returns {Promise<Response>} */
async function answer(request) {
  const store = await caches.open(KEPT_IN)
  try {
    const found = await fetch(request)
    // A page to sign in is none to begin with; a part of a file is no file.
    if (found.status === 200 && !found.redirected) await store.put(request, found.clone()).catch(() => undefined)
    // What was withdrawn is not to come back by itself.
    if (found.status === 404) await store.delete(request)
    return found
  } catch (error) {
    const kept = await store.match(request, {ignoreVary: true})
    if (kept) return kept
    throw error
  }
}
