// Keeps on a paired device what it may need without a connection: the shell, the shoot cards, and the pages it looked
// at last. The network comes first; what is kept is shown only while Morphe's computer does not answer, and says so.
// The server writes `self.MORPHE` above this: version, statics, the page for what was not kept, the list of what to keep.
const SHELL = `shell-${self.MORPHE.version}`;
const PAGES = "pages", PICTURES = "pictures";
const MOST = { [PAGES]: 40, [PICTURES]: 200 };
const PATIENCE_MS = 8000; // a network that never answers is none
const AGAIN_MS = 5 * 60 * 1000; // between two rounds of keeping
const HASHED = /\.[0-9a-f]{12}\.\w+$/;
let keptAt = 0;

self.addEventListener("install", (event) => {
  self.skipWaiting();
  event.waitUntil(caches.open(SHELL).then((shell) => shell.addAll([...self.MORPHE.statics, self.MORPHE.offline])));
});
self.addEventListener("activate", (event) => event.waitUntil(begin()));

async function begin() {
  for (const name of await caches.keys()) if (name.startsWith("shell-") && name !== SHELL) await caches.delete(name);
  await self.clients.claim();
  await keepAll();
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin) return;
  if (request.mode === "navigate") event.respondWith(page(event));
  else if (url.pathname.startsWith(self.MORPHE.static)) event.respondWith(part(request, HASHED.test(url.pathname)));
  else if (request.destination === "image") event.respondWith(pictureOf(event));
});

async function page(event) {
  const { request } = event;
  const kept = await caches.match(request, { cacheName: PAGES });
  try {
    const answer = await fetch(request, kept ? { signal: AbortSignal.timeout(PATIENCE_MS) } : {});
    if (answer.headers.has("Clear-Site-Data")) await forgetAll(); // sent away: nothing of the outing stays here
    else event.waitUntil(Promise.all([store(PAGES, request, answer.clone()), keepSoon()]));
    return answer;
  } catch {
    const found = kept ?? (await caches.match(request, { cacheName: PAGES, ignoreSearch: true })) ?? (await latestBelow(request));
    return found ? marked(found) : caches.match(self.MORPHE.offline, { cacheName: SHELL });
  }
}

// Of an address that leads on to another, like that of the Bench: the page below it that was looked at last.
async function latestBelow(request) {
  const [room, { pathname }] = [await caches.open(PAGES), new URL(request.url)];
  const below = (await room.keys()).filter((one) => pathname !== "/" && new URL(one.url).pathname.startsWith(pathname));
  return below.length ? room.match(below.at(-1)) : undefined;
}

// A page as it was kept, which knows when that was.
async function marked(answer) {
  const text = (await answer.text()).replace("<html ", `<html data-kept="${answer.headers.get("X-Kept")}" `);
  return new Response(text, { headers: answer.headers });
}

// A part of the shell: one whose name tells its content is never asked for twice.
async function part(request, isSure) {
  const kept = await caches.match(request, { cacheName: SHELL });
  if (kept && isSure) return kept;
  try {
    return await fetch(request);
  } catch (error) {
    if (kept) return kept;
    throw error;
  }
}

async function pictureOf(event) {
  try {
    const answer = await fetch(event.request);
    event.waitUntil(store(PICTURES, event.request, answer.clone()));
    return answer;
  } catch {
    return (await caches.match(event.request, { cacheName: PICTURES })) ?? Response.error();
  }
}

async function store(name, request, answer) {
  if (!answer.ok || answer.redirected) return;
  const headers = new Headers(answer.headers);
  headers.set("X-Kept", new Date().toISOString());
  const room = await caches.open(name);
  await room.delete(request); // so that the latest stands last
  await room.put(request, new Response(await answer.blob(), { headers }));
  const all = await room.keys();
  for (const old of all.slice(0, Math.max(all.length - MOST[name], 0))) await room.delete(old);
}

const keepSoon = async () => { if (Date.now() - keptAt > AGAIN_MS) await keepAll(); };

// The pages that a shoot needs, whether they were looked at or not.
async function keepAll() {
  keptAt = Date.now();
  try {
    const wanted = await (await fetch(self.MORPHE.wanted)).json();
    for (const url of wanted.pages) await store(PAGES, new Request(url), await fetch(url));
  } catch { /* no connection, or no longer paired: at the next page */ }
}

async function forgetAll() {
  for (const name of [PAGES, PICTURES]) await caches.delete(name);
}
