// Cavix in the browser: it sends what is typed and puts in place what comes back. It works out no reading
// and no mark.
document.documentElement.classList.add("js");

// put brings part of the page to what the server has sent, keeping what is being typed and what is open.
function put(el, html) {
  Alpine.morph(el, html, {
    key: (e) => e.id,
    updating: (e, to) => { if (e.tagName === "DETAILS") to.open = e.open; },
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

document.addEventListener("alpine:init", () => {
  // A card: the boxes echo into the later equations, figures are brought in sight and moved, and what is
  // half filled in is kept.
  Alpine.data("card", () => ({
    values: {}, kept: "", form: null, timer: 0, sent: false,
    init() {
      this.form = this.$root.querySelector("form.boxes");
      this.read();
      const done = this.form.querySelector(".acts a.btn-primary");
      const open = [...this.form.querySelectorAll(".box input:not([readonly], [type=hidden], [disabled])")];
      const first = this.form.querySelector("input[aria-invalid]") || open.find((i) => i.type === "radio" || !i.value)
        || this.$root.querySelector(".sight.moves");
      if (done) done.focus({ preventScroll: true });
      else if (first && matchMedia("(min-width: 761px)").matches) first.focus({ preventScroll: true });
      addEventListener("pagehide", () => { if (this.timer) this.keep(); });
    },
    read() { for (const [k, v] of new FormData(this.form)) this.values[k] = v; },
    said(field) { return (this.values[field] || "").trim().replace(/-/g, "−"); },
    typed() { this.read(); this.later(); },
    send() { clearTimeout(this.timer); this.timer = 0; this.sent = true; },
    later() {
      clearTimeout(this.timer);
      if (this.$root.dataset.draft) this.timer = setTimeout(() => this.keep(), 400);
    },
    keep() {
      clearTimeout(this.timer);
      this.timer = 0;
      if (this.sent) return;
      fetch(this.$root.dataset.draft, { method: "POST", body: fields(this.form), keepalive: true })
        .then((r) => { this.kept = r.ok && !r.redirected ? "kept" : "not kept: sign in again"; })
        .catch(() => { this.kept = "not kept: no connection"; });
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
    },
    nudge(by) { this.$root.querySelector(".sight.moves")?.dispatchEvent(new CustomEvent("nudge", { detail: by })); },
    move(ev) { this.ask({ moved: ev.detail, figure: this.views.dataset.shown }); },
    // ask has a figure drawn anew: another one, or one that was moved. The server keeps where it stands.
    async ask(more) {
      const open = this.$root.dataset.draft !== undefined || more.moved !== undefined;
      try {
        const r = await fetch(this.views.dataset.at + (open ? "" : "?figure=" + more.figure),
          open ? { method: "POST", body: fields(this.form, more) } : {});
        if (r.redirected) { location.assign(r.url); return; }
        if (!r.ok) throw new Error(r.status);
        put(this.views, await r.text());
        const field = this.views.dataset.moving;
        if (field) this.form.elements[field].value = this.views.dataset.moved;
        this.read();
        if (more.moved !== undefined) this.kept = this.$root.dataset.draft ? "kept" : "";
      } catch { this.kept = "not kept: no connection"; }
    },
  }));

  // A form that the server answers with the whole page anew: what changed is put in place.
  const live = () => ({
    form: null, dirty: false, timer: 0, flight: null,
    init() {
      this.form = this.$root;
      addEventListener("beforeunload", (ev) => { if (this.dirty) ev.preventDefault(); });
    },
    changed(ev) {
      const i = ev.target;
      if (!i.name && !i.dataset.press) return; // the lens only looks
      if (i.dataset.press === "slide") { this.soon({ slide: i.value }, 0); return; }
      if (i.dataset.press) { this.soon({ do: i.dataset.press }, 0); return; }
      this.dirty = true;
      this.soon({}, 90);
    },
    press(ev) {
      const b = ev.submitter;
      if (b?.name === "do" && b.value === "keep") { this.dirty = false; return; }
      ev.preventDefault();
      if (b?.name === "form" || b?.name === "use" || b?.name === "add" || b?.name === "drop") this.dirty = true;
      if (b?.name === "add") for (const d of this.form.querySelectorAll("details.block")) d.open = false;
      this.soon(b?.name ? { [b.name]: b.value } : {}, 0);
    },
    keep() { this.form.querySelector("[value=keep]").click(); },
    soon(more, wait) {
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.redraw(more), wait);
    },
    async redraw(more) {
      this.flight?.abort();
      const flight = this.flight = new AbortController();
      try {
        const r = await fetch(this.form.action, { method: "POST", body: fields(this.form, more), signal: flight.signal });
        if (r.redirected) { this.dirty = false; location.assign(r.url); return; }
        const page = new DOMParser().parseFromString(await r.text(), "text/html");
        if (!flight.signal.aborted) put(this.form, page.getElementById(this.form.id).outerHTML);
      } catch (err) {
        if (err.name !== "AbortError") this.lost();
      }
    },
    lost() {
      this.form.querySelector("#state").textContent = "No connection: what you see is not up to date. What you typed stays.";
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
      const b = ev.submitter;
      this.soon(b?.name ? { [b.name]: b.value } : {}, 0);
    },
    move(ev) { this.soon({ moved: ev.detail }, 0); },
    // count asks for the numbers while the hand moves, one question at a time.
    async count(ev) {
      if (this.asking) return;
      this.asking = true;
      try {
        const r = await fetch(this.form.action, { method: "POST", body: fields(this.form, { moved: ev.detail, only: "numbers" }) });
        if (r.ok && !r.redirected) Alpine.morph(this.form.querySelector("#numbers"), await r.text());
      } catch { /* the next answer, or the drawing, sets it right */ }
      setTimeout(() => { this.asking = false; }, 60);
    },
    lost() { this.form.querySelector(".held").textContent = "No connection: the numbers are not up to date. Try again."; },
  }));
});

// Dates in the reader's manner.
document.addEventListener("DOMContentLoaded", () => {
  for (const t of document.querySelectorAll("time[datetime]"))
    t.textContent = new Date(t.dateTime + "T12:00").toLocaleDateString(undefined, { day: "numeric", month: "short", year: "numeric" });
});
