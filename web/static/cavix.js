// Cavix in the browser: it sends what is typed and puts in place what comes back. It works out no reading
// and no mark.

// wide is whether the screen is wider than a phone's. says is a text for the script, in the language of the page.
const wide = matchMedia("(min-width: 768px)");
const says = (name) => document.getElementById("says").dataset[name];

// inSight is whether an element is, or a part of it.
const inSight = (e) => { const r = e.getBoundingClientRect(); return r.bottom > 0 && r.top < innerHeight; };

document.addEventListener("ajax:merge", (ev) => {
  ev.preventDefault();
  put(ev.target, ev.detail.content);
});
// An answer from elsewhere is a page of its own; what failed is asked for anew, not answered from memory.
document.addEventListener("ajax:redirect", (ev) => location.assign(ev.detail.url));
document.addEventListener("ajax:missing", (ev) => { if (ev.detail.response.redirected) ev.preventDefault(); });
let requests = 0;
document.addEventListener("ajax:send", (ev) => { ev.detail.action += `#${++requests}`; });

// listen has a page told what it must know, now and whenever that changes: by a stream of events, and where streams
// fail by asking every few seconds until they work again.
function listen(at, told, lost = () => {}) {
  const es = new EventSource(at);
  let failed = 0;
  const poll = async (times) => {
    try {
      const r = await fetch(`${at}?once`);
      if (r.redirected) return; // signed out
      if (r.ok) { told(await r.text()); times--; }
    } catch { lost(); }
    if (times) setTimeout(poll, 3000, times);
    else listen(at, told, lost);
  };
  es.onmessage = (ev) => { failed = 0; told(ev.data); };
  es.onerror = () => {
    if (es.readyState !== EventSource.CLOSED && ++failed < 4) return; // it tries again by itself
    es.close();
    poll(8);
  };
}

// drafts keep in the browser what is typed and not sent yet, and nothing of what was sent. A browser may refuse to.
const drafts = {
  getItem(key) { try { return localStorage.getItem(key); } catch { return null; } },
  setItem(key, text) {
    try { if (text === "{}") localStorage.removeItem(key); else localStorage.setItem(key, text); } catch { /* it may */ }
  },
};

// afterPaint calls a function once the page is painted. A function that measures would otherwise force a layout at once.
const afterPaint = (f) => requestAnimationFrame(() => setTimeout(f));

// fit notes what a keyboard or a zoom leaves of the screen: pages keep there what is needed together. What is noted at
// the root has the whole page styled anew, so only what changes is.
function fit() {
  const v = visualViewport, root = document.documentElement;
  const note = (name, px) => {
    const to = px > 0 ? `${px}px` : "";
    if (root.style.getPropertyValue(name) !== to) root.style.setProperty(name, to);
  };
  note("--above", v.offsetTop);
  note("--below", root.clientHeight - v.height - v.offsetTop);
  setShort(v.height < 640);
}
function setShort(low) {
  const root = document.documentElement, short = low && !wide.matches;
  if (root.classList.contains("short") === short) return;
  root.classList.toggle("short", short);
  document.dispatchEvent(new CustomEvent("fitted"));
}
setShort(matchMedia("(max-height: 639.98px)").matches);
addEventListener("load", () => afterPaint(fit));
for (const change of ["resize", "scroll"]) visualViewport.addEventListener(change, fit);

// filled reports whether something is written or chosen in a box.
const filled = (i) => i.type === "radio" ? !!i.form.querySelector(`[name="${CSS.escape(i.name)}"]:checked`) : !!i.value.trim();

document.addEventListener("alpine:init", () => {
  // The letters of the Board, and the keys that turn cards, for whoever wants them in this browser.
  Alpine.store("keys", { on: Alpine.$persist(true).as("cavix-keys") });

  // A card: the boxes echo into the later equations, and what is half filled in is kept: on the server, and in the browser
  // for as long as the server has not got it.
  Alpine.data("card", () => ({
    values: {}, kept: "", form: null, timer: 0, left: 0, sent: false, unsent: {}, keys: [], onward: false,
    init() {
      this.form = this.$root.querySelector("form.boxes");
      this.read();
      if (this.draft) this.recover();
      const cause = this.$root.querySelector(".cause h2");
      const open = this.open, fault = this.form.querySelector("input[aria-invalid]");
      const asked = fault || this.$root.querySelector(".acts [role=alert]"); // what was sent is not taken yet
      const first = fault || open.find((i) => !filled(i)) || this.form.querySelector(".order li[tabindex]")
        || this.$root.querySelector(".sight.moves");
      const told = "told" in this.$root.dataset && this.$root.querySelector(".spoken h3");
      if (cause) { cause.focus({ preventScroll: true }); this.reveal(cause); }
      else if (told) told.focus();
      else if (first && (asked || wide.matches)) {
        first.focus({ preventScroll: true });
        if (asked) this.reveal(first.closest(".box") ?? first);
      }
      this.$root.querySelector(".rule .here")?.closest("li").scrollIntoView({ block: "nearest", inline: "center" });
      addEventListener("pagehide", () => { if (this.timer) this.keep(); });
      document.addEventListener("click", (ev) => this.leave(ev));
      addEventListener("pageshow", (ev) => { if (ev.persisted) location.reload(); });
    },
    // open are the boxes that can be filled in, in their order.
    get open() {
      return [...this.form.querySelectorAll(".box :is(input, select):not([readonly], [type=hidden], [disabled])")]
        .filter((i) => i.offsetParent);
    },
    // enter goes from a box to the next one that is empty; behind the last the form is sent.
    enter(ev) {
      const open = this.open, at = open.indexOf(ev.target);
      if (at < 0 || ev.isComposing || ev.ctrlKey || ev.metaKey) return;
      const next = open.slice(at + 1).find((i) => !filled(i) && i.name !== ev.target.name);
      if (!next) return;
      ev.preventDefault();
      this.onward = true;
      addEventListener("keyup", () => { this.onward = false; }, { once: true });
      next.focus();
    },
    // into notes which keys the box that is filled in needs besides a keypad, and brings the box in sight.
    into(ev) {
      this.keys = [...(ev.target.dataset.keys ?? "")];
      const box = ev.target.closest(".box") ?? ev.target;
      for (const after of [60, 160]) // once the keyboard is up, and once the figure is folded
        setTimeout(() => { if (document.querySelector(".short") && box.contains(document.activeElement)) this.reveal(box); }, after);
    },
    write(text) {
      const box = document.activeElement;
      if (!this.form.contains(box)) return;
      box.setRangeText(text, box.selectionStart, box.selectionEnd, "end");
      box.dispatchEvent(new Event("input", { bubbles: true }));
    },
    unfold() { this.$root.classList.add("unfolded"); document.dispatchEvent(new CustomEvent("fitted")); },
    next() { this.$root.querySelector(".say .acts a.btn-primary")?.click(); },
    // reveal scrolls as little as it can until the element is in sight, and with it, if there is room, the first box that is wrong
    // and what is flagged on the figure; on a phone the figure is always in sight.
    reveal(what) {
      const flag = wide.matches && ".view:not([hidden]) .fig :is(.taken, .counted, .tag)";
      const also = [flag, ".box:is(.wrong, .missing, .form, .carried)"].map((css) => css && this.$root.querySelector(css));
      requestAnimationFrame(() => { for (const e of [...also, what]) e?.scrollIntoView?.({ block: "nearest" }); });
    },
    get draft() { return this.$root.dataset.draft; },
    // recover puts back what the browser has kept and the server has not got: typed without a connection, or in another tab.
    recover() {
      const key = `cavix:${this.$root.dataset.owner}:${this.draft}`;
      Alpine.persist(key, { get: () => this.unsent, set: (all) => { this.unsent = all; } }, drafts);
      this.recall();
      addEventListener("storage", (ev) => { if (ev.key === key) { this.unsent = JSON.parse(ev.newValue ?? "{}"); this.recall(); } });
      addEventListener("online", () => this.keep());
      addEventListener("beforeunload", () => { this.left = Date.now(); }); // the next page may be written already
      setInterval(() => { if (Date.now() - this.left > 5000) this.keep(); }, 5000);
    },
    recall() {
      for (const [name, text] of Object.entries(this.unsent)) {
        const box = this.form.elements[name];
        if (box && box !== document.activeElement) box.value = text;
      }
      if (Object.keys(this.unsent).length) { this.read(); this.later(); }
    },
    told(ev) { this.read(); if (ev.detail) this.kept = says(ev.detail); },
    read() { for (const [k, v] of new FormData(this.form)) this.values[k] = v; },
    said(field) { return (this.values[field] || "").trim().replace(/-/g, "−"); },
    typed(ev) {
      this.read();
      if (!this.draft || !ev.target.name) return;
      this.unsent[ev.target.name] = this.values[ev.target.name] ?? "";
      this.later();
    },
    later() {
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.keep(), 400);
    },
    // keep sends what was typed here, box by box, so that what was typed in another tab stays.
    async keep() {
      clearTimeout(this.timer);
      this.timer = 0;
      const now = { ...this.unsent };
      if (this.sent || !Object.keys(now).length) return true;
      const r = await fetch(this.draft, { method: "POST", body: new URLSearchParams(now), keepalive: true }).catch(() => null);
      const late = r?.status === 409, done = late || r?.ok && !r.redirected;
      if (done) this.forget(now);
      this.kept = says(!r ? "keptHere" : late ? "tooLate" : done ? "kept" : r.status >= 500 ? "serverBusy" : "signedOut");
      return done;
    },
    forget(now) { for (const [k, v] of Object.entries(now)) if (this.unsent[k] === v) delete this.unsent[k]; },
    // send hands the form over; without a connection the page stays, with all that is typed.
    async send(ev) {
      if (this.onward) { ev.preventDefault(); return; } // some keyboards send the form by the same key all the same
      if (this.sent || !this.draft) { this.kept = says("sending"); return; }
      if (!navigator.onLine) { ev.preventDefault(); this.kept = says("offline"); return; }
      this.kept = says("sending");
      if (!Object.keys(this.unsent).length) return;
      ev.preventDefault();
      const by = ev.submitter;
      if (!(await this.keep())) return;
      this.sent = true;
      this.form.requestSubmit(by || undefined);
    },
    // leave sends what is typed before it follows a link: the next page may hand it in.
    async leave(ev) {
      const a = ev.target.closest?.("a[href]");
      if (!a || ev.defaultPrevented || ev.ctrlKey || ev.metaKey || ev.shiftKey || !Object.keys(this.unsent).length) return;
      ev.preventDefault();
      await this.keep();
      location.assign(a.href);
    },
    // page turns to the card before or after; the keys do so from within a box too.
    page(ev) {
      const to = ev.key === "PageDown" ? this.$root.dataset.after : ev.key === "PageUp" ? this.$root.dataset.before : "";
      if (!to || !ev.altKey || !Alpine.store("keys").on) return;
      ev.preventDefault();
      this.keep().then((ok) => { if (ok) location.assign(to); });
    },
  }));

  // What the class is asked. The page of the question itself is fetched anew; everywhere else a quiet bar leads to it.
  Alpine.data("rounds", () => ({
    open: false, stamp: "", sent: Alpine.$persist("").as("sent").using(sessionStorage),
    init() {
      this.note();
      addEventListener("pagehide", () => this.note());
      listen("/round/events", (stamp) => this.told(stamp));
    },
    // note remembers that the server has an answer to the question of this page: the bar need not lead back to it.
    note() { this.sent = document.querySelector("[data-round][data-sent]")?.dataset.round ?? this.sent; },
    told(stamp) {
      const page = document.querySelector("[data-round]");
      this.stamp = stamp;
      if (page && page.dataset.round !== stamp) location.reload();
      this.open = !page && stamp.startsWith("open-") && this.sent !== stamp;
    },
  }));

  // The Board: every key and button is sent, one after the other, and the page brought to what the server answers. Other
  // screens that show it are told by events.
  Alpine.data("board", () => ({
    form: null, queue: Promise.resolve(), underway: false, moved: 0, lostText: "",
    init() {
      this.form = this.$root;
      const fit = () => this.form.style.setProperty("--ratio", this.form.dataset.ratio); // how wide the figure is for its height
      fit();
      document.addEventListener("drawn", fit);
      listen(`${this.form.action}/events`, (now) => this.told(now), () => { this.lostText = says("retrying"); });
    },
    async ask(more) {
      this.moved = more?.moved;
      const sent = more && { method: "POST", body: new URLSearchParams(more) };
      try {
        await this.$ajax(this.form.action, { target: "board", focus: false, ...sent });
        this.lostText = "";
      } catch { this.lostText = says("retrying"); }
    },
    // merge tells the figure how much of what the hand moved is in the drawing that comes.
    merge(ev) {
      const stage = this.form.querySelector(".sight.moves");
      if (stage) stage.told = this.moved || (ev.detail.content.dataset.place !== this.form.dataset.place ? "all" : 0);
    },
    send(more) { this.queue = this.queue.then(() => this.ask(more)); return this.queue; },
    press(ev) {
      const b = ev.submitter;
      if (!b?.name) return;
      this.send(b.value === "value" ? { do: "value", value: this.form.elements.value.value } : { [b.name]: b.value });
      b.blur();
    },
    changed({ target: i }) { if (["instrument", "asked", "eye"].includes(i.name)) this.send({ [i.name]: i.value }); },
    // stack shows on the figure what those took who stand in the stack that is pressed.
    stack(ev) {
      const n = /\bn(\d+)\b/.exec(ev.target.closest(".answers .plot :is(.answer, .a-value, .a-why)")?.getAttribute("class"));
      if (n) this.send({ point: n[1] });
    },
    move: inTurn(function (by) { return this.send({ moved: by }).then(() => true); }),
    theme(to) {
      document.documentElement.dataset.bsTheme = to;
      fetch("/theme", { method: "POST", body: new URLSearchParams({ theme: to, back: location.pathname }) }).then(() => this.send(null));
    },
    key(ev) {
      if (ev.altKey || ev.ctrlKey || ev.metaKey || ev.target.closest?.("input, select, textarea")) return;
      const does = { " ": "next", PageDown: "next", PageUp: "back", Backspace: "back", a: "ask", b: "ask", ".": "ask", s: "close",
        u: "tell", v: "new", t: "apart", r: "hold", l: "lens", n: "names", c: "cover", j: "join", Home: "home",
      }[ev.key.length === 1 ? ev.key.toLowerCase() : ev.key];
      const by = { ArrowRight: 10, ArrowUp: 10, ArrowLeft: -10, ArrowDown: -10 }[ev.key];
      if (ev.key.length === 1 && ev.key !== " " && !this.$store.keys.on) return;
      if (does) this.send({ do: does });
      else if (ev.key === "d") this.theme(document.documentElement.dataset.bsTheme === "dark" ? "light" : "dark");
      else if (/^[1-9]$/.test(ev.key)) this.send({ point: ev.key });
      else if (by && !ev.target.closest?.(".sight")) nudge(this.form, by * (ev.shiftKey ? 10 : 1));
      else return;
      ev.preventDefault();
    },
    // told compares what is shown with the state of the server: the count of answers is put in place, all else is fetched.
    told(data) {
      const [version, answered, of] = data.split(" "), b = this.form.querySelector(".count b");
      if (version !== this.form.dataset.version || b && of !== this.form.dataset.of) { this.send(null); return; }
      if (b) b.textContent = answered;
    },
  }));

  // The Watch: fetched anew when somebody has moved on, and every half minute, since time itself tells who is stuck. Of a
  // long list the rows in sight are, others when they are scrolled to.
  Alpine.data("watch", () => ({
    busy: false, again: false,
    init() {
      listen(this.$root.dataset.events, () => this.look());
      setInterval(() => this.look(), 30000);
    },
    async look() {
      this.again = this.busy;
      if (this.busy) return;
      this.busy = true;
      const rows = [...this.$root.querySelectorAll(".rules > [id]")], from = Math.max(0, rows.findIndex(inSight) - 3);
      const seen = rows.filter(inSight).map((e) => e.id), at = new URL(location);
      const long = seen.length < rows.length || this.$root.querySelector(".rest, .coming"); // the row for the rest must stay
      if (long) at.searchParams.set("from", from);
      if (rows.length) at.searchParams.set("shown", long ? from + seen.length + 6 : rows.length); // the others move when one joins
      const targets = long ? ["watchhead", "watchaside", "watchmistakes", ...seen] : ["watch"];
      try { await this.$ajax(at.href, { targets, focus: false }); } catch { /* the next time sets it right */ }
      setTimeout(() => { this.busy = false; if (this.again) this.look(); }, 700);
    },
    scrolled() { if (this.$root.querySelector(".rules.long")) this.look(); },
  }));

  // Arrow keys go from cell to cell of a large table; Home and End go along a row.
  Alpine.data("cells", () => ({
    move(e) {
      const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0], Home: [0, -999], End: [0, 999] }[e.key];
      const cell = e.target.closest("td, th");
      if (!step || !cell || e.target.matches("input, select, textarea") || e.ctrlKey || e.metaKey || e.altKey) return;
      e.preventDefault();
      const rows = [...this.$root.querySelectorAll("tr")], within = (list, n) => list[Math.max(0, Math.min(list.length - 1, n))];
      const row = within(rows, rows.indexOf(cell.parentElement) + step[0]), to = within(row.cells, cell.cellIndex + step[1]);
      const link = to.querySelector("a, input, button");
      if (!link) to.tabIndex = -1;
      (link || to).focus();
      to.scrollIntoView({ block: "nearest", inline: "nearest" });
    },
  }));

  // The picture of page one follows the choices of the form before it.
  Alpine.data("pageone", () => ({
    follow(ev) {
      const form = ev.target.closest("form"), img = this.$root.querySelector("img");
      if (form && form.nextElementSibling === this.$root) img.src = `${img.dataset.at}?${fields(form)}`;
    },
  }));

  // A table that is typed into quickly: Enter goes on to the next box, and behind the last it sends the form.
  Alpine.data("typing", () => ({
    init() { (this.$root.querySelector(".is-invalid") || this.boxes[0])?.focus(); },
    get boxes() { return [...this.$root.querySelectorAll("tbody input, tbody select")]; },
    enter(e) {
      const at = this.boxes.indexOf(e.target);
      if (at < 0 || e.isComposing) return;
      e.preventDefault();
      const next = this.boxes[at + (e.shiftKey ? -1 : 1)];
      if (next) { next.focus(); next.select?.(); } else if (!e.shiftKey) this.$root.requestSubmit();
    },
  }));

  // Steps that are brought in order: dragged by their handles, or moved by their arrows or the arrow keys. The box, which is
  // hidden then, holds their numbers: an order that was never changed when it is checked, too.
  Alpine.data("order", () => ({
    init() {
      this.sort();
      this.box.form.addEventListener("submit", (ev) => { if (!this.box.value.trim() && !ev.submitter?.name) this.write(); }, true);
    },
    get list() { return this.$root.querySelector("ol"); },
    get box() { return this.$root.querySelector("input"); },
    // shift moves the step that was pressed, or whose arrow was, by one.
    shift(by) {
      const pressed = this.$event.currentTarget, li = pressed.closest("li");
      if (by < 0) li.previousElementSibling?.before(li);
      else li.nextElementSibling?.after(li);
      this.write();
      pressed.focus();
      const words = [li.querySelector(".step").textContent, [...this.list.children].indexOf(li) + 1, this.list.children.length];
      document.getElementById("news").textContent = says("stepAt").replace(/#(\d)/g, (_, n) => words[n - 1]);
    },
    write() {
      this.box.value = [...this.list.children].map((li) => li.dataset.step).join(" ");
      this.box.dispatchEvent(new Event("input", { bubbles: true }));
    },
    // sort brings the steps into the order that was typed, where it names every one.
    sort() {
      const named = this.box.value.split(/[\s,;.]+/).map((n) => this.list.querySelector(`[data-step="${CSS.escape(n)}"]`));
      if (named.length === this.list.children.length && !named.includes(null)) this.list.append(...new Set(named));
    },
  }));

  // How much time is left, by the server's clock: said quietly until the last five minutes, and at the end the sheet's
  // page is asked for, which hands in what is typed.
  Alpine.data("timer", () => ({
    text: "", said: "", soon: false,
    init() {
      const { ends, now } = this.$root.dataset, ahead = asItWas() ? 0 : now * 1000 - Date.now();
      this.text = this.$root.textContent;
      this.tick(() => Math.round((ends * 1000 - Date.now() - ahead) / 1000));
    },
    tick(time) {
      const left = time(), shown = Math.max(0, left);
      setTimeout(() => this.tick(time), 1000);
      if (left > 300) return;
      this.soon = true;
      this.text = says("left").replace("#", `${Math.floor(shown / 60)}:${String(shown % 60).padStart(2, "0")}`);
      if (left === 300 || left === 60) this.said = says(left === 300 ? "fiveMinutes" : "oneMinute");
      if (left === -7) location.assign(location.pathname.split("/").slice(0, 3).join("/"));
    },
  }));
});
