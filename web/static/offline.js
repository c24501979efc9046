// Cavix without a connection: what a student has opened or fetched ahead is shown as it last was, and a page that is not
// here leaves the one that is open where it is. The server says which pages may be kept.
addEventListener("install", (ev) => {
  skipWaiting();
  ev.addRoutes?.([{ condition: { requestMethod: "POST" }, source: "network" }]); // what is sent as a page is left waits for nobody
});
addEventListener("activate", (ev) => ev.waitUntil(clients.claim()));
addEventListener("fetch", (ev) => {
  const { request: r } = ev, at = new URL(r.url);
  if (at.origin !== location.origin) return;
  if (at.pathname.startsWith("/static/")) ev.respondWith(file(r, at));
  else if (r.method === "GET" && (r.mode === "navigate" || r.headers.has("Cavix-Ahead"))) ev.respondWith(page(r, at));
});

// file is one that never changes under its address; those of an earlier version go.
async function file(r, at) {
  const kept = await caches.open("files"), found = await kept.match(r);
  if (found) return found;
  const answer = await fetch(r);
  if (!answer.ok) return answer;
  const version = at.pathname.split("/", 3).join("/");
  for (const old of await kept.keys()) if (!new URL(old.url).pathname.startsWith(version)) kept.delete(old);
  kept.put(r, answer.clone());
  return answer;
}

async function page(r, at) {
  const kept = await caches.open("pages");
  try {
    const answer = await fetch(r);
    if (answer.ok && answer.headers.has("Cavix-Keep")) {
      kept.put(at.pathname, answer.clone());
      for (const old of (await kept.keys()).slice(0, -200)) kept.delete(old);
    }
    return answer;
  } catch (err) {
    const found = await kept.match(at.pathname === "/" ? "/my" : at.pathname, { ignoreVary: true });
    if (found) return new Response(found.body, { headers: { ...Object.fromEntries(found.headers), "Server-Timing": "kept" } });
    const open = await clients.matchAll({ type: "window" });
    if (!open.length) throw err;
    for (const c of open) c.postMessage("noPage");
    return new Response(null, { status: 204 });
  }
}
