// A worker beside the field page: what was loaded once is shown again when the server is out of reach.
const CACHE = "welotrope-field";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  const ours = url.origin === location.origin && (url.pathname === "/field" || url.pathname === "/field/script.js" || url.pathname.startsWith("/static/"));
  if (event.request.method === "GET" && ours) event.respondWith(fresh(event.request, url.pathname === "/field"));
});

async function fresh(request, page) {
  const cache = await caches.open(CACHE);
  try {
    const answer = await fetch(request);
    if (answer.ok) await cache.put(page ? "/field" : request, answer.clone());
    return answer;
  } catch (error) {
    const kept = await cache.match(page ? "/field" : request);
    if (kept) return kept;
    throw error;
  }
}
