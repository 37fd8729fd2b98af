// Shows a device its last state while the desk sleeps: pages and answers are taken from the desk where it answers,
// and from what it said last where it does not. What is changed meanwhile the page keeps itself.
const KEPT = "slatebell-1";
const MOST = 400;
const PATIENCE_MS = 2500;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (e) => e.waitUntil(self.clients.claim()));

/** Answers to GET that are not kept: what streams, what is large, and who comes in. */
const fleeting = /\/events$|\/watch$|^\/api\/(join|room|recordings|backup|progress)/;
/** What the program computes from what the request itself says: the same is answered the same. */
const computed = /^\/api\/(wiring|wiring\/first-light|wiring\/figures|runs|plan|plan\/scan|plan\/printout|screens\/transition)$/;

async function put(key, response) {
  const cache = await caches.open(KEPT);
  await cache.put(key, response);
  const all = await cache.keys();
  for (const old of all.slice(0, Math.max(all.length - MOST, 0))) await cache.delete(old);
}

/** Under what an answer is kept: a page under one name, whichever view its address names; what is computed under what was said. */
async function keyOf(request, url) {
  if (request.mode === "navigate") return new Request(`${url.origin}/`);
  if (request.method === "GET") return request;
  const sum = await crypto.subtle.digest("SHA-256", await request.clone().arrayBuffer());
  const hex = [...new Uint8Array(sum)].map((b) => b.toString(16).padStart(2, "0")).join("");
  return new Request(`${url.href}?said=${hex}`);
}

/** The answer to a request, and what is still to be done when it was given. */
async function begin(request, url) {
  const key = await keyOf(request, url);
  const kept = await caches.match(key);
  if (kept && url.pathname.startsWith("/assets/")) return { answer: kept }; // its name carries a hash
  const fetched = fetch(request);
  const done = fetched.then(async (response) => {
    if (response.status === 403) await caches.delete(KEPT); // it is not let in any more
    if (response.ok) await put(key, response.clone());
  });
  const answer = fetched.then((response) => response.clone());
  if (!kept) return { answer, done };
  const patience = new Promise((settle) => setTimeout(() => settle(kept), PATIENCE_MS));
  return { answer: Promise.race([answer, patience]).catch(() => kept), done };
}

self.addEventListener("fetch", (e) => {
  const url = new URL(e.request.url);
  const keeps = e.request.method === "GET" ? !fleeting.test(url.pathname) : computed.test(url.pathname);
  if (url.origin !== self.location.origin || !keeps) return;
  const begun = begin(e.request, url);
  e.respondWith(begun.then(({ answer }) => answer));
  e.waitUntil(begun.then(({ done }) => done).catch(() => undefined)); // there may be no room, or no desk
});
