// Poor connections: what is said, what stays, and what can be read without one.

// tell says something above the page, which stays.
function tell(name) {
  const news = document.getElementById("news");
  news.className = "told alert container-fluid py-2";
  news.textContent = says(name);
}
// asItWas reports whether the page is shown as it last was, for want of a connection.
const asItWas = () => performance.getEntriesByType("navigation")[0]?.serverTiming?.some((t) => t.name === "kept");
// What came with the page is said once it is there; without a connection a page stays with all that is typed on it.
addEventListener("load", () => {
  const all = document.querySelectorAll("[data-news]");
  if (all.length) document.getElementById("news").textContent = all[all.length - 1].textContent;
  if (asItWas()) tell("keptCopy");
});
document.addEventListener("click", async (ev) => {
  const a = ev.target.closest?.("a[href]");
  if (navigator.onLine || !a || a.origin !== location.origin || a.pathname === location.pathname || ev.defaultPrevented) return;
  ev.preventDefault();
  if (await self.caches?.match(a.pathname, { ignoreVary: true })) location.assign(a.href);
  else tell("noPage");
});
document.addEventListener("submit", (ev) => {
  if (navigator.onLine || ev.defaultPrevented) return;
  ev.preventDefault();
  tell("offline");
});
navigator.serviceWorker?.addEventListener("message", (ev) => tell(ev.data));
// A student's sheets can be read without a connection: the cards of the sheet that is open are fetched ahead, one after the
// other, once somebody stays on it. Where nobody is signed in nothing is left of them.
async function ready() {
  if (!self.caches || document.body.dataset.learns === undefined) return; // an address that is not safe has none
  await navigator.serviceWorker.register("/offline.js");
  const cards = document.querySelectorAll("[data-ahead] .rule a");
  if (!cards.length || navigator.connection?.saveData || !navigator.serviceWorker.controller) return;
  for (const at of [...cards].map((a) => a.pathname).concat(location.pathname.replace(/\/\d+$/, "")))
    if (!(await caches.match(at, { ignoreVary: true }))) await fetch(at, { headers: { "Cavix-Ahead": "yes" } });
}
if (document.body.dataset.nobody !== undefined) self.caches?.delete("pages");
addEventListener("load", () => setTimeout(() => ready().catch(() => {}), 10000));
