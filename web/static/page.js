// What every page does once it is there.

// What is wider than its place is moved sideways: by the keyboard too, where it can be reached.
function reach() {
  for (const e of document.querySelectorAll(".sight:not(.moves), .plotted, .table-responsive, .frozen, .surveytable")) {
    const wide = e.scrollWidth > e.clientWidth + 1 || e.scrollHeight > e.clientHeight + 1 && getComputedStyle(e).overflowY !== "visible";
    const alone = wide && !e.querySelector("a[href], button, input, select, textarea");
    if (alone && !e.hasAttribute("tabindex")) e.tabIndex = 0;
    if (!alone) e.removeAttribute("tabindex");
  }
}
// What is wrong with a box is told together with it.
function tie() {
  let n = 0;
  for (const f of document.querySelectorAll("form .fault:not([id])")) {
    const near = f.closest("label") ?? f.previousElementSibling, box = near?.closest("input, select, textarea") ??
      near?.querySelector("input, select, textarea");
    if (!box) continue;
    f.id = `fault-${++n}`;
    box.setAttribute("aria-describedby", f.id);
    box.setAttribute("aria-invalid", "true");
  }
}
// A choice of more than twelve gets a search above it, which hides what does not match.
function search(root) {
  for (const list of root.querySelectorAll("select.form-select, .picks")) {
    const select = list.matches("select");
    if ((select ? list.options : list.querySelectorAll(":scope > label")).length <= 12) continue;
    (select ? list : list.querySelector("summary").nextSibling).before(Object.assign(document.createElement("input"),
      { type: "search", className: "form-control sift mb-1", placeholder: says("search"), ariaLabel: says("search") }));
  }
}
function sift(box) {
  const list = box.nextElementSibling.matches("select") && box.nextElementSibling;
  const entries = list ? [...list.options] : [...box.parentElement.querySelectorAll(":scope > label")];
  for (const e of entries) e.hidden = !e.textContent.toLowerCase().includes(box.value.trim().toLowerCase());
  return { list, hit: entries.find((e) => !e.hidden) };
}
document.addEventListener("input", (ev) => {
  if (!ev.target.matches(".sift")) return;
  ev.stopPropagation(); // a form does not send it
  const { list, hit } = sift(ev.target);
  if (!list || !hit || !list.selectedOptions[0]?.hidden) return;
  list.value = hit.value;
  for (const name of ["input", "change"]) list.dispatchEvent(new Event(name, { bubbles: true }));
}, true);
document.addEventListener("keydown", (ev) => { if (ev.key === "Enter" && ev.target.matches?.(".sift")) ev.preventDefault(); });
// The rest of a long table or list comes as it is scrolled to, or past: rows take the place of the one that stands for
// them, which is as high as they are together. Were the table to grow with each, all of it would be painted anew each time.
const near = new IntersectionObserver((all) => all.forEach((e) => e.isIntersecting && rest(e.target)),
  { rootMargin: "1000000px 0px 400px", scrollMargin: "1000000px 0px 400px" });
async function rest(row) {
  near.unobserve(row);
  row.className = "coming";
  const link = row.querySelector("a"), before = row.previousElementSibling, here = row.contains(document.activeElement);
  const height = before.offsetHeight;
  const at = [...row.parentElement.children].indexOf(row), r = await fetch(`${link.href}&from=${at}`).catch(() => null);
  if (!r?.ok || r.redirected) return; // its link still leads there
  const come = document.createElement("template");
  come.innerHTML = await r.text();
  const add = () => { // one a frame, so that nobody who scrolls or types waits for them
    const next = come.content.firstElementChild;
    if (!next) return row.remove();
    row.before(next);
    row.style.height = `${come.content.childElementCount * height}px`;
    if (next.matches(".rest")) near.observe(next);
    if (here && next.previousElementSibling === before) next.querySelector("a")?.focus();
    requestAnimationFrame(add);
  };
  requestAnimationFrame(add);
}
addEventListener("load", () => afterPaint(() => {
  document.querySelector(".navbar .active")?.scrollIntoView({ block: "nearest", inline: "center" });
  const look = () => {
    reach(); tie();
    for (const row of document.querySelectorAll(".rest")) near.observe(row);
  };
  search(document);
  look();
  // In the rows of a long table there is nothing to be looked for, and looking would have the whole of it laid out.
  const elsewhere = (m) => !m.target.closest?.(".ledger, .term, .rules, .given, .wrongcards");
  new MutationObserver((all) => all.some(elsewhere) && afterPaint(look)).observe(document.body,
    { childList: true, subtree: true, attributeFilter: ["tabindex"] });
}));
addEventListener("resize", reach);

// Moments by the clock of this computer.
for (const t of document.querySelectorAll("time[data-here]"))
  t.textContent = new Date(t.dateTime).toLocaleString(document.documentElement.lang, { dateStyle: "medium", timeStyle: "short" });
