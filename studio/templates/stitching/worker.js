// Keeps what stands at the machine on the device: its page, its plan, its scripts. Nothing else is kept.
const NAME = "chorograph-stitch-1";
const SHELL = [{% for each in shell %}"{{ each|escapejs }}"{% if not forloop.last %}, {% endif %}{% endfor %}];
const PAGES = /^\/jobs\/[0-9a-f-]{36}\/(stitch\/(plan\/)?|plan\/steps\/)$/;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(NAME).then((cache) => cache.addAll(SHELL)).then(() => self.skipWaiting()));
});
self.addEventListener("activate", (event) => {
  event.waitUntil(caches.keys()
    .then((names) => Promise.all(names.filter((name) => name.startsWith("chorograph-stitch") && name !== NAME).map((name) => caches.delete(name))))
    .then(() => self.clients.claim()));
});
self.addEventListener("fetch", (event) => {
  const { request } = event, address = new URL(request.url);
  if (request.method !== "GET" || address.origin !== location.origin) return;
  if (address.pathname.startsWith("/static/")) event.respondWith(kept(request));
  else if (PAGES.test(address.pathname)) event.respondWith(fresh(request));
});

// What is there under its name stays the same: first from the device.
async function kept(request) {
  const cache = await caches.open(NAME), found = await cache.match(request);
  const asked = fetch(request).then((answer) => { if (answer.ok) cache.put(request, answer.clone()); return answer; });
  if (!found) return asked;
  asked.catch(() => {});
  return found;
}

// What may have changed: first from the server, from the device where there is no line.
async function fresh(request) {
  const cache = await caches.open(NAME);
  try {
    const answer = await fetch(request, { signal: AbortSignal.timeout(8000) });
    if (answer.ok && !answer.redirected) cache.put(request, answer.clone());
    return answer;
  } catch (error) {
    const found = await cache.match(request);
    if (!found) throw error;
    // The page is told that this is from the device.
    const headers = new Headers(found.headers);
    headers.set("X-Kept", "1");
    return new Response(found.body, { status: found.status, headers });
  }
}
