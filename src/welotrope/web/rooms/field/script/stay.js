// Where the browser allows it, the page stays when the server is gone and the tab is closed or loaded again.
const CACHE = "welotrope-field";

export async function stay() {
  if (!navigator.serviceWorker || !window.isSecureContext) return;
  try {
    await navigator.serviceWorker.register("/field/away.js", { scope: "/field" });
    const cache = await caches.open(CACHE);
    const used = performance.getEntriesByType("resource").map((entry) => entry.name);
    await cache.addAll(used.filter((name) => /^\/(static\/|field\/script\.js)/.test(new URL(name).pathname)));
    await cache.add("/field");
  } catch { // a browser that refuses shows the page as any other
  }
}
