// Cavix in the browser: it sends what is typed and puts in place what comes back. It works out no reading
// and no mark.
document.documentElement.classList.add("js");

// says is a text for the script, in the language of the page.
const says = (name) => document.getElementById("says").dataset[name];

// put brings part of the page to what the server has sent, keeping what is being typed and what is open.
function put(el, html) {
  Alpine.morph(el, html, {
    key: (e) => e.id,
    updating: (e, to) => { if (e.tagName === "DETAILS" && !e.dataset.block) to.open = e.open; },
  });
  const shown = document.activeElement;
  for (const i of el.querySelectorAll("input, select, textarea")) {
    if (i === shown && i.type !== "checkbox" && i.type !== "radio") continue;
    if (i.type === "checkbox" || i.type === "radio") i.checked = i.hasAttribute("checked");
    else if (i.tagName === "SELECT") i.value = (i.querySelector("option[selected]") || i.options[0])?.value;
    else if (i.type !== "file" && i.value !== i.getAttribute("value")) i.value = i.getAttribute("value") ?? "";
  }
  document.dispatchEvent(new CustomEvent("drawn"));
}

// fields are a form's, with more on top.
function fields(form, more = {}) {
  const body = new URLSearchParams(new FormData(form));
  for (const [k, v] of Object.entries(more)) body.set(k, v);
  return body;
}

// shortcuts are the letters of the Board, and the keys that turn cards, for whoever wants them in this browser.
const shortcuts = {
  get on() { try { return localStorage.getItem("cavix-shortcuts") !== "off"; } catch { return true; } },
  set on(yes) { try { if (yes) localStorage.removeItem("cavix-shortcuts"); else localStorage.setItem("cavix-shortcuts", "off");
    } catch { /* for this page only */ } },
};

// fit notes what a keyboard or a zoom leaves of the screen: pages keep there what is needed together.
function fit() {
  const v = window.visualViewport, root = document.documentElement;
  const low = root.clientHeight - v.height - v.offsetTop;
  root.style.setProperty("--above", `${v.offsetTop}px`);
  root.style.setProperty("--below", `${Math.max(0, low)}px`);
  const was = root.classList.contains("short"), short = root.clientWidth <= 760 && v.height < 640;
  root.classList.toggle("short", short);
  if (was !== short) document.dispatchEvent(new CustomEvent("fitted"));
}
if (window.visualViewport) {
  fit();
  visualViewport.addEventListener("resize", fit);
  visualViewport.addEventListener("scroll", fit);
}

// filled reports whether something is written or chosen in a box.
const filled = (i) => i.type === "radio" ? !!i.form.querySelector(`[name="${CSS.escape(i.name)}"]:checked`) : !!i.value.trim();

document.addEventListener("alpine:init", () => {
  // A card: the boxes echo into the later equations, figures are brought in sight and moved, and what is
  // half filled in is kept: on the server, and in the browser for as long as the server has not got it.
  Alpine.data("card", () => ({
    values: {}, kept: "", form: null, timer: 0, sent: false, unsent: {}, keys: [], onward: false,
    init() {
      this.form = this.$root.querySelector("form.boxes");
      this.recall();
      this.read();
      const cause = this.$root.querySelector(".cause h2");
      const open = this.open, fault = this.form.querySelector("input[aria-invalid]");
      const asked = fault || this.$root.querySelector(".acts [role=alert]"); // what was sent is not taken yet
      const first = fault || open.find((i) => !filled(i)) || this.form.querySelector(".order li[tabindex]")
        || this.$root.querySelector(".sight.moves");
      if (cause) { cause.focus({ preventScroll: true }); this.reveal(cause); }
      else if (first && (asked || matchMedia("(min-width: 761px)").matches)) {
        first.focus({ preventScroll: true });
        if (asked) this.reveal(first.closest(".box") ?? first);
      }
      this.$root.querySelector(".rule .here")?.closest("li").scrollIntoView({ block: "nearest", inline: "center" });
      addEventListener("pagehide", () => { if (this.timer) this.keep(); });
      addEventListener("pageshow", (ev) => { if (ev.persisted) location.reload(); });
      addEventListener("online", () => this.keep());
      addEventListener("storage", (ev) => { if (ev.key === this.draft) this.recall(); });
      setInterval(() => { if (Object.keys(this.unsent).length) this.keep(); }, 5000);
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
        setTimeout(() => { if (document.documentElement.classList.contains("short")
          && box.contains(document.activeElement)) this.reveal(box); }, after);
    },
    key(text) { return text === " " ? "space" : text; },
    write(text) {
      const box = document.activeElement;
      if (!this.form.contains(box)) return;
      box.setRangeText(text, box.selectionStart, box.selectionEnd, "end");
      box.dispatchEvent(new Event("input", { bubbles: true }));
    },
    unfold() { this.$root.classList.add("unfolded"); document.dispatchEvent(new CustomEvent("fitted")); },
    next() { this.$root.querySelector(".say .acts a.btn-primary")?.click(); },
    // reveal scrolls as little as it can until the element is in sight, and with it, if there is room, what is flagged on the figure
    // and the first box that is wrong.
    reveal(what) {
      const seen = (e) => e?.checkVisibility() && e.getBoundingClientRect();
      requestAnimationFrame(() => {
        const figure = this.views, sticky = figure && getComputedStyle(figure).position === "sticky";
        const acts = seen(this.$root.querySelector(".acts")),
          low = getComputedStyle(this.$root.querySelector(".acts") ?? what).position === "sticky" ? acts.height : 0;
        const high = sticky ? figure.getBoundingClientRect().height : 0;
        const view = window.visualViewport, room = (view?.height ?? innerHeight) - low - 12;
        const wrong = seen(this.form.querySelector(".box:is(.wrong, .missing, .form, .carried)"));
        const flag = !sticky && seen(figure?.querySelector(".view:not([hidden]) .fig :is(.taken, .counted, .tag)"));
        const head = seen(what);
        let top = Math.min(...[head, wrong, flag].filter(Boolean).map((r) => r.top)) - 8 - high;
        const bottom = head.bottom;
        if (bottom - top > room) top = Math.min(head.top, wrong && bottom - wrong.top < room - high ? wrong.top : head.top) - 8 - high;
        if (top < 0) scrollBy(0, top);
        else if (bottom > room) scrollBy(0, Math.min(top, bottom - room));
      });
    },
    get draft() { return `cavix:${this.$root.dataset.owner}:${this.$root.dataset.draft}`; },
    // recall puts back what the browser has kept and the server has not got: typed without a connection, or in another tab.
    recall() {
      if (!this.$root.dataset.draft) return;
      try { this.unsent = JSON.parse(localStorage.getItem(this.draft) || "{}"); } catch { this.unsent = {}; }
      for (const [name, text] of Object.entries(this.unsent)) {
        const box = this.form.elements[name];
        if (box && box !== document.activeElement) box.value = text;
      }
      if (Object.keys(this.unsent).length) { this.read(); this.later(); }
    },
    remember() {
      try {
        if (Object.keys(this.unsent).length) localStorage.setItem(this.draft, JSON.stringify(this.unsent));
        else localStorage.removeItem(this.draft);
      } catch { /* no room, or not allowed: the server still has what was sent */ }
    },
    read() { for (const [k, v] of new FormData(this.form)) this.values[k] = v; },
    said(field) { return (this.values[field] || "").trim().replace(/-/g, "−"); },
    typed(ev) {
      this.read();
      if (!this.$root.dataset.draft || !ev.target.name) return;
      this.unsent[ev.target.name] = this.values[ev.target.name] ?? "";
      this.remember();
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
      try {
        const r = await fetch(this.$root.dataset.draft, { method: "POST", body: new URLSearchParams(now), keepalive: true });
        if (r.status === 409) { this.forget(now); this.kept = says("tooLate"); return true; }
        if (r.status >= 500) { this.kept = says("serverBusy"); return false; }
        if (!r.ok || r.redirected) { this.kept = says("signedOut"); return false; }
        this.forget(now);
        this.kept = says("kept");
        return true;
      } catch {
        this.kept = says("keptHere");
        return false;
      }
    },
    forget(now) {
      for (const [k, v] of Object.entries(now)) if (this.unsent[k] === v) delete this.unsent[k];
      this.remember();
    },
    // send hands the form over; without a connection the page stays, with all that is typed.
    async send(ev) {
      if (this.onward) { ev.preventDefault(); return; } // some keyboards send the form by the same key all the same
      if (this.sent || !this.$root.dataset.draft) return;
      if (!navigator.onLine) { ev.preventDefault(); this.kept = says("offline"); return; }
      if (!Object.keys(this.unsent).length) return;
      ev.preventDefault();
      const by = ev.submitter;
      if (!(await this.keep())) return;
      this.sent = true;
      this.form.requestSubmit(by || undefined);
    },
    // page turns to the card before or after; the keys do so from within a box too.
    page(ev) {
      const to = ev.key === "PageDown" ? this.$root.dataset.after : ev.key === "PageUp" ? this.$root.dataset.before : "";
      if (!to || !ev.altKey || !shortcuts.on) return;
      ev.preventDefault();
      this.keep().then((ok) => { if (ok) location.assign(to); });
    },
    get views() { return this.$root.querySelector("#views"); },
    // turn brings the figure in sight that a box is read from.
    turn(ev) {
      const name = ev.target.dataset.figure;
      if (name && name !== this.views.dataset.shown && this.views.querySelector(`.views [data-view="${name}"]`)) this.look(name);
    },
    // look brings a figure in sight: one that is here, or the server's drawing of it.
    look(name) {
      const v = this.views;
      if (!v.querySelector(`.view[data-view="${name}"]`)) { this.ask({ figure: name }); return; }
      v.dataset.shown = name;
      for (const e of v.querySelectorAll(".view")) e.hidden = e.dataset.view !== name;
      for (const a of v.querySelectorAll(".views a")) {
        a.classList.toggle("active", a.dataset.view === name);
        a.toggleAttribute("aria-current", a.dataset.view === name);
      }
      document.dispatchEvent(new CustomEvent("fitted"));
    },
    // follow brings the scale that was moved in sight where the figure is wider than the screen.
    follow() {
      const line = this.views.querySelector(".sight.moves .second-fine"), sight = line?.closest(".sight");
      if (!sight) return;
      const at = line.getBoundingClientRect(), all = sight.getBoundingClientRect();
      if (at.left < all.left || at.right > all.right) sight.scrollLeft += at.left - all.left - all.width / 2;
    },
    nudge(by) { this.$root.querySelector(".sight.moves")?.dispatchEvent(new CustomEvent("nudge", { detail: by })); },
    // move sends a movement; what the hand moves while one is on its way is sent after it.
    async move(ev) {
      if (this.underway) return;
      this.underway = true;
      const drawn = await this.ask({ moved: ev.detail, figure: this.views.dataset.shown });
      this.underway = false;
      if (drawn) this.nudge(0);
    },
    // ask has a figure drawn anew: another one, or one that was moved. The server keeps where it stands.
    async ask(more) {
      const open = this.$root.dataset.draft !== undefined || more.moved !== undefined;
      try {
        const at = this.views.dataset.at;
        const r = await fetch(open ? at : `${at}${at.includes("?") ? "&" : "?"}figure=${more.figure}`,
          open ? { method: "POST", body: fields(this.form, more) } : {});
        if (r.redirected) { location.assign(r.url); return; }
        if (!r.ok) throw new Error(r.status);
        const text = await r.text(), stage = this.views.querySelector(".sight.moves");
        if (stage && more.moved) stage.told = more.moved;
        put(this.views, text);
        const field = this.views.dataset.moving;
        if (field) this.form.elements[field].value = this.views.dataset.moved;
        this.read();
        if (more.moved !== undefined) this.follow();
        if (more.moved !== undefined) this.kept = this.$root.dataset.draft ? says("kept") : "";
        return true;
      } catch { this.kept = says("notKept"); }
      return false;
    },
  }));

  // What the class is asked: told by events as it comes and goes, and asked for every few seconds where events fail. On
  // the page of the question itself the page is fetched anew; everywhere else a quiet bar leads to it.
  Alpine.data("rounds", () => ({
    open: false, failed: 0, stamp: "", timer: 0,
    init() {
      this.note();
      addEventListener("pagehide", () => this.note());
      this.listen();
    },
    // note remembers that the server has an answer to the question of this page: the bar need not lead back to it.
    note() {
      const page = document.querySelector("[data-round][data-sent]");
      if (page) sessionStorage.setItem("sent", page.dataset.round);
    },
    listen() {
      const es = new EventSource("/round/events");
      es.onmessage = (ev) => { this.failed = 0; this.told(ev.data); };
      es.onerror = () => {
        if (es.readyState !== EventSource.CLOSED && ++this.failed < 4) return; // it tries again by itself
        es.close();
        this.poll();
      };
    },
    // poll asks now and then; once that works again it listens.
    async poll() {
      clearTimeout(this.timer);
      try {
        const r = await fetch("/round/state");
        if (r.redirected) return; // signed out
        if (r.ok) {
          this.told(await r.text());
          if (++this.failed > 8) { this.failed = 0; this.listen(); return; }
        }
      } catch { /* no connection: the next time tells */ }
      this.timer = setTimeout(() => this.poll(), 4000);
    },
    told(stamp) {
      const page = document.querySelector("[data-round]");
      this.stamp = stamp;
      if (page) { if (page.dataset.round !== stamp) location.reload(); return; }
      this.open = stamp.startsWith("open-") && sessionStorage.getItem("sent") !== stamp;
    },
  }));

  // The Board: every key and button is sent, one after the other, and the page brought to what the server answers. Other
  // screens that show it are told by events.
  Alpine.data("board", () => ({
    form: null, queue: Promise.resolve(), underway: false, failed: 0, timer: 0, lostText: "",
    init() {
      this.form = this.$root;
      this.fit();
      document.addEventListener("drawn", () => this.fit());
      this.listen();
    },
    // fit tells the style sheet how wide the figure is for its height.
    fit() {
      const scope = this.form.querySelector(".scope");
      if (!scope) return;
      const high = Number(scope.dataset.height) + (scope.querySelector(".lens") && this.form.classList.contains("lensed")
        && !scope.classList.contains("upright") ? 100 : 0);
      const wide = Number(scope.dataset.width) + (scope.classList.contains("upright") ? 356 : 0);
      this.form.style.setProperty("--ratio", wide / high);
    },
    async ask(more) {
      try {
        const r = await fetch(this.form.action, more ? { method: "POST", body: new URLSearchParams(more),
          headers: { "X-Requested-With": "board" } } : {});
        if (r.redirected) { location.assign(r.url); return; }
        const page = new DOMParser().parseFromString(await r.text(), "text/html").getElementById("board");
        if (!page) throw new Error(r.status);
        const stage = this.form.querySelector(".sight.moves");
        if (stage) stage.told = more?.moved || (page.dataset.place !== this.form.dataset.place ? "all" : 0);
        this.form.dataset.version = page.dataset.version;
        this.form.dataset.of = page.dataset.of;
        this.form.dataset.place = page.dataset.place;
        put(this.form, page.outerHTML);
        this.lostText = "";
      } catch { this.lostText = says("retrying"); }
    },
    send(more) { this.queue = this.queue.then(() => this.ask(more)); return this.queue; },
    press(ev) {
      const b = ev.submitter;
      if (!b?.name) return;
      this.send(b.value === "value" ? { do: "value", value: this.form.elements.value.value } : { [b.name]: b.value });
      b.blur();
    },
    changed(ev) {
      const i = ev.target;
      if (["instrument", "asked", "eye"].includes(i.name)) this.send({ [i.name]: i.value });
    },
    // stack shows on the figure what those took who stand in the stack that is pressed.
    stack(ev) {
      const n = /\bn(\d+)\b/.exec(ev.target.closest(".answers .plot :is(.answer, .a-value, .a-why)")?.getAttribute("class"));
      if (n) this.send({ point: n[1] });
    },
    async move(ev) {
      if (this.underway) return;
      this.underway = true;
      await this.send({ moved: ev.detail });
      this.underway = false;
      this.form.querySelector(".sight.moves")?.dispatchEvent(new CustomEvent("nudge", { detail: 0 }));
    },
    theme(to) {
      document.documentElement.dataset.bsTheme = to;
      fetch("/theme", { method: "POST", body: new URLSearchParams({ theme: to, back: location.pathname }) }).then(() => this.send(null));
    },
    key(ev) {
      if (ev.altKey || ev.ctrlKey || ev.metaKey || ev.target.closest?.("input, select, textarea")) return;
      const does = { " ": "next", PageDown: "next", PageUp: "back", Backspace: "back", a: "ask", b: "ask", ".": "ask", s: "close",
        u: "tell", v: "new", t: "apart", r: "hold", l: "lens", n: "names", c: "cover", j: "join", Home: "home",
      }[ev.key.length === 1 ? ev.key.toLowerCase() : ev.key];
      const nudge = { ArrowRight: 10, ArrowUp: 10, ArrowLeft: -10, ArrowDown: -10 }[ev.key];
      if (ev.key.length === 1 && ev.key !== " " && !shortcuts.on) return;
      if (does) this.send({ do: does });
      else if (ev.key === "d") this.theme(document.documentElement.dataset.bsTheme === "dark" ? "light" : "dark");
      else if (/^[1-9]$/.test(ev.key)) this.send({ point: ev.key });
      else if (nudge && !ev.target.closest?.(".sight"))
        this.form.querySelector(".sight.moves")?.dispatchEvent(new CustomEvent("nudge", { detail: nudge * (ev.shiftKey ? 10 : 1) }));
      else return;
      ev.preventDefault();
    },
    listen() {
      const es = new EventSource(`${this.form.action}/events`);
      es.onmessage = (ev) => { this.failed = 0; this.told(ev.data); };
      es.onerror = () => {
        if (es.readyState !== EventSource.CLOSED && ++this.failed < 4) return;
        es.close();
        this.poll();
      };
    },
    async poll() {
      clearTimeout(this.timer);
      try {
        const r = await fetch(`${this.form.action}/state`);
        if (r.redirected) return;
        if (r.ok) {
          this.told(await r.text());
          if (++this.failed > 8) { this.failed = 0; this.listen(); return; }
        }
      } catch { this.lostText = says("retrying"); }
      this.timer = setTimeout(() => this.poll(), 2000);
    },
    // told compares what is shown with the state of the server: the count of answers is put in place, all else is fetched.
    told(data) {
      const [version, answered, of] = data.split(" "), b = this.form.querySelector(".count b");
      if (version !== this.form.dataset.version || b && of !== this.form.dataset.of) { this.send(null); return; }
      if (b) b.textContent = answered;
    },
  }));

  // The Watch: fetched anew when somebody has moved on, and every half minute, since time itself tells who is stuck.
  Alpine.data("watch", () => ({
    busy: false, again: false,
    init() {
      new EventSource(this.$root.dataset.events).onmessage = () => this.fetch();
      setInterval(() => this.fetch(), 30000);
    },
    async fetch() {
      if (this.busy) { this.again = true; return; }
      this.busy = true;
      try {
        const r = await fetch(location.href);
        const page = new DOMParser().parseFromString(await r.text(), "text/html").getElementById("watch");
        if (r.ok && page) Alpine.morph(this.$root, page.outerHTML);
      } catch { /* the next news, or the next half minute, sets it right */ }
      setTimeout(() => { this.busy = false; if (this.again) { this.again = false; this.fetch(); } }, 700);
    },
  }));

  // Arrow keys go from cell to cell of a large table; Home and End go along a row.
  Alpine.data("cells", () => ({
    move(e) {
      const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0], Home: [0, -999], End: [0, 999] }[e.key];
      const cell = e.target.closest("td, th");
      if (!step || !cell || e.target.matches("input, select, textarea") || e.ctrlKey || e.metaKey || e.altKey) return;
      e.preventDefault();
      const rows = [...this.$root.querySelectorAll("tr")], row = cell.parentElement;
      const next = rows[Math.max(0, Math.min(rows.length - 1, rows.indexOf(row) + step[0]))];
      const at = Math.max(0, Math.min(next.cells.length - 1, cell.cellIndex + step[1]));
      const to = next.cells[at], link = to.querySelector("a, input, button");
      if (!link) to.tabIndex = -1;
      (link || to).focus();
      to.scrollIntoView({ block: "nearest", inline: "nearest" });
    },
  }));

  // A form that takes a while says so, and is not sent twice.
  // The picture of page one follows the choices beside it.
  Alpine.data("pageone", () => ({
    timer: 0,
    soon(ev) {
      const form = ev.target.closest("form");
      if (!form || form.nextElementSibling !== this.$root) return;
      clearTimeout(this.timer);
      this.timer = setTimeout(() => {
        const img = this.$root.querySelector("img");
        img.src = img.dataset.at + "?" + new URLSearchParams(new FormData(form));
      }, 150);
    },
  }));

  // A form with a passphrase, which no page repeats: sent from here, so that it stays typed where something else is wrong.
  Alpine.data("resend", () => ({
    busy: false,
    async send(ev) {
      ev.preventDefault();
      if (this.busy) return;
      this.busy = true;
      const form = this.$root, secret = form.elements.passphrase.value, by = ev.submitter;
      try {
        const r = await fetch(form.action, { method: "POST", body: fields(form, by?.name ? { [by.name]: by.value } : {}) });
        if (r.redirected) { location.assign(r.url); return; }
        const page = new DOMParser().parseFromString(await r.text(), "text/html").querySelector("form.stamp");
        if (!page) throw new Error(r.status);
        put(form, page.outerHTML);
        form.elements.passphrase.value = secret;
        (form.querySelector("[aria-invalid]") ?? form.querySelector("[role=alert] button"))?.focus();
      } catch { HTMLFormElement.prototype.submit.call(form); }
      this.busy = false;
    },
  }));
  // The switch of the shortcut keys.
  Alpine.data("shortcuts", () => ({
    init() { this.$root.checked = shortcuts.on; },
    change() { shortcuts.on = this.$root.checked; },
  }));
  // A form with changes that are not saved asks before its page is left.
  Alpine.data("unsaved", () => ({
    dirty: false,
    init() { addEventListener("beforeunload", (ev) => { if (this.dirty) ev.preventDefault(); }); },
  }));
  Alpine.data("busy", () => ({
    busy: false,
    on() { setTimeout(() => { this.busy = true; }); },
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
    held: null,
    init() {
      this.sort();
      this.box.form.addEventListener("submit", (ev) => { if (!this.box.value.trim() && !ev.submitter?.name) this.write(); }, true);
      addEventListener("pointermove", (ev) => this.drag(ev));
      addEventListener("pointerup", () => { if (this.held) this.held.classList.remove("held"); this.held = null; });
    },
    get list() { return this.$root.querySelector("ol"); },
    get box() { return this.$root.querySelector("input"); },
    grip(ev) {
      this.held = ev.currentTarget.closest("li");
      this.held.classList.add("held");
      this.held.focus();
      ev.preventDefault();
    },
    drag(ev) {
      if (!this.held) return;
      for (const li of this.list.children) {
        const r = li.getBoundingClientRect();
        if (li === this.held || ev.clientY < r.top || ev.clientY > r.bottom) continue;
        const down = this.held.compareDocumentPosition(li) & Node.DOCUMENT_POSITION_FOLLOWING;
        if (down) li.after(this.held); else li.before(this.held);
        this.write();
        return;
      }
    },
    press(ev) {
      const by = { ArrowUp: -1, ArrowDown: 1 }[ev.key];
      if (ev.key === "Enter") this.box.form.requestSubmit();
      if (!by || ev.altKey) return;
      ev.preventDefault();
      this.move(ev.currentTarget, by);
      ev.currentTarget.focus();
    },
    shift(by) {
      const button = this.$event.currentTarget;
      this.move(button.closest("li"), by);
      button.focus();
    },
    move(li, by) {
      const other = by < 0 ? li.previousElementSibling : li.nextElementSibling;
      if (!other) return;
      if (by < 0) other.before(li); else other.after(li);
      this.write();
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
    text: "", said: "", soon: false, ends: 0, off: 0,
    init() {
      this.text = this.$root.textContent;
      this.ends = this.$root.dataset.ends * 1000;
      this.off = this.$root.dataset.now * 1000 - Date.now();
      setInterval(() => this.tick(), 1000);
      this.tick();
    },
    tick() {
      const left = Math.round((this.ends - Date.now() - this.off) / 1000);
      if (left > 300) return;
      this.soon = true;
      const shown = Math.max(0, left);
      this.text = says("left").replace("#", `${Math.floor(shown / 60)}:${String(shown % 60).padStart(2, "0")}`);
      if (left === 300 || left === 60) this.said = says(left === 300 ? "fiveMinutes" : "oneMinute");
      if (left === -7) location.assign(location.pathname.split("/").slice(0, 3).join("/"));
    },
  }));

  // A form that the server answers with the whole page anew: what changed is put in place.
  const live = () => ({
    form: null, dirty: false, timer: 0, flight: null, more: {}, presses: [],
    init() {
      this.form = this.$root;
      this.dirty = !!this.form.querySelector(".asked, .is-invalid"); // it came back and is not kept yet
      addEventListener("beforeunload", (ev) => { if (this.dirty) ev.preventDefault(); });
    },
    changed(ev) {
      const i = ev.target;
      if (!i.name && !i.dataset.press) return; // the lens only looks
      if (i.dataset.press === "slide") { this.soon({ slide: i.value }, 0); return; }
      if (i.dataset.press) { this.soon({ do: i.dataset.press }, 0); return; }
      this.dirty = true;
      this.soon({}, i.matches("select, [type=checkbox], [type=radio]") ? 0 : 90);
    },
    press(ev) {
      const b = ev.submitter;
      if (b?.name === "do" && b.value === "keep") { this.dirty = false; return; }
      ev.preventDefault();
      if (b?.name === "form" || b?.name === "use" || b?.name === "do" && b.value.includes(".")) this.dirty = true;
      const menu = b?.closest(".adds details");
      if (menu) menu.open = false;
      this.soon(b?.name ? { [b.name]: b.value } : {}, 0);
    },
    // shift moves the block that the keys are in.
    shift(by) {
      const line = document.activeElement.closest(".blockline");
      line?.querySelector(by < 0 ? "[value^=up]" : "[value^=down]").click();
    },
    keep() { this.form.querySelector("[value=keep]").click(); },
    // soon sends the form with what was pressed. What is on its way is asked for anew together with what comes after it, so
    // that nothing is lost; only one button follows the other.
    soon(more, wait) {
      if (more.do && this.more.do) {
        this.presses.push(more);
        return;
      }
      Object.assign(this.more, more);
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.redraw({ ...this.more }), wait);
    },
    async redraw(more) {
      this.flight?.abort();
      const flight = this.flight = new AbortController();
      try {
        const open = this.form.querySelector("details.block[open]");
        const body = fields(this.form, { open: open ? open.dataset.block : -1, ...more });
        const r = await fetch(this.form.action, { method: "POST", body, signal: flight.signal });
        if (r.redirected) { this.dirty = false; location.assign(r.url); return; }
        const page = new DOMParser().parseFromString(await r.text(), "text/html");
        if (flight.signal.aborted) return;
        for (const k in more) if (this.more[k] === more[k]) delete this.more[k];
        // A movement that waits to be sent was counted from where the figure stood before this answer.
        if (more.do === "close") delete this.more.moved;
        else if (this.more.moved !== undefined && more.moved) this.more.moved -= more.moved;
        const stage = this.form.querySelector(".sight.moves");
        if (stage && more.do === "close") stage.told = "all";
        else if (stage) stage.told = more.moved || 0;
        put(this.form, page.getElementById(this.form.id).outerHTML);
        const line = more.do && this.form.dataset.focus;
        if (line) this.form.querySelector("#" + line + ":not([disabled])")?.focus();
        const next = more.do && this.presses.shift();
        if (next) this.soon(next, 0);
      } catch (err) {
        if (err.name !== "AbortError") this.lost();
      }
    },
    lost() {
      this.form.querySelector("#state").textContent = says("notUpToDate");
    },
  });
  Alpine.data("live", live);

  // The Bench: a live form with a drawing that is moved by hand, and numbers that follow it.
  Alpine.data("bench", () => ({
    ...live(),
    asking: false,
    init() { this.form = this.$root; this.$root.addEventListener("home", () => this.soon({ do: "close" }, 0)); },
    changed(ev) { if (ev.target.name) this.soon({}, ev.target.name === "object" ? 400 : 0); },
    press(ev) {
      const b = ev.submitter, stage = this.form.querySelector(".sight.moves");
      if (b?.name === "moved" && stage) stage.dispatchEvent(new CustomEvent("nudge", { detail: Number(b.value) }));
      else this.soon(b?.name ? { [b.name]: b.value } : {}, 0);
    },
    move(ev) { this.soon({ moved: ev.detail }, 0); },
    // count asks for the numbers while the hand moves, one question at a time.
    async count(ev) {
      if (this.asking) return;
      this.asking = true;
      try {
        const r = await fetch(this.form.action, { method: "POST", body: fields(this.form, { moved: ev.detail, only: "numbers" }) });
        if (r.ok && !r.redirected) Alpine.morph(this.form.querySelector(".numbers"), await r.text());
      } catch { /* the next answer, or the drawing, sets it right */ }
      setTimeout(() => { this.asking = false; }, 60);
    },
    lost() { this.form.querySelector(".held").textContent = says("oldNumbers"); },
  }));
});

// What is wider than its place is moved sideways: by the keyboard too, where it can be reached.
function reach() {
  for (const e of document.querySelectorAll(".sight:not(.moves), .plotted, .tablewrap, .table-responsive, .surveytable")) {
    const wide = e.scrollWidth > e.clientWidth + 1 || e.scrollHeight > e.clientHeight + 1 && getComputedStyle(e).overflowY !== "visible";
    const alone = wide && !e.querySelector("a[href], button, input, select, textarea");
    if (alone && !e.hasAttribute("tabindex")) e.tabIndex = 0;
    if (!alone) e.removeAttribute("tabindex");
  }
}
// A choice of more than twelve gets a search above it, which hides what does not match.
const choices = "select.form-select, .picks";
function search() {
  for (const list of document.querySelectorAll(choices)) {
    const entries = list.matches("select") ? list.options : list.querySelectorAll(":scope > label");
    if (entries.length <= 12 || list.querySelector(":scope > .sift") || list.previousElementSibling?.matches(".sift")) continue;
    const box = Object.assign(document.createElement("input"), { type: "search", className: "form-control sift",
      placeholder: says("search") });
    box.setAttribute("aria-label", says("search"));
    box.addEventListener("input", (ev) => {
      ev.stopPropagation();
      const wanted = box.value.trim().toLowerCase();
      for (const e of entries) e.hidden = !e.textContent.toLowerCase().includes(wanted);
      if (list.matches("select") && list.selectedOptions[0]?.hidden) {
        const first = [...entries].find((e) => !e.hidden);
        if (first) { list.value = first.value; list.dispatchEvent(new Event("input", { bubbles: true }));
          list.dispatchEvent(new Event("change", { bubbles: true })); }
      }
    });
    box.addEventListener("keydown", (ev) => { if (ev.key === "Enter") ev.preventDefault(); });
    if (list.matches("select")) list.before(box); else list.querySelector("summary").after(box);
  }
}
addEventListener("load", () => {
  document.querySelector(".top nav .active")?.scrollIntoView({ block: "nearest", inline: "center" });
  const look = () => { reach(); search(); };
  look();
  new MutationObserver(() => requestAnimationFrame(look)).observe(document.body,
    { childList: true, subtree: true, attributeFilter: ["tabindex"] });
});
addEventListener("resize", reach);

// Moments by the clock of this computer.
document.addEventListener("DOMContentLoaded", () => {
  for (const t of document.querySelectorAll("time[data-here]")) {
    t.textContent = new Date(t.dateTime).toLocaleString(document.documentElement.lang, { dateStyle: "medium", timeStyle: "short" });
  }
});
