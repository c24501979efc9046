// Cavix in the browser: it moves and shows what the server drew, sends what is typed, and prints what
// comes back. It works out no reading and no mark.
document.documentElement.classList.add("js");

// replace puts the parts of a fetched page that are named with data-part in place of those shown.
function replace(page) {
  for (const part of page.querySelectorAll("[data-part]")) {
    const shown = document.querySelector(`[data-part="${CSS.escape(part.dataset.part)}"]`);
    if (shown && part.dataset.key !== undefined && shown.dataset.key === part.dataset.key) continue; // the same fields, perhaps being typed in
    if (shown && part.dataset.key !== undefined) shown.dataset.key = part.dataset.key;
    if (shown && shown.innerHTML !== part.innerHTML) shown.innerHTML = part.innerHTML;
    if (shown) shown.className = part.className;
  }
}

// looks remembers where each figure's lens looks, from the plate's 0, through a redraw.
const looks = {};

document.addEventListener("alpine:init", () => {
  // A figure with its lens: the handle, a press on the figure or a drag of the strip move it.
  Alpine.data("figure", () => ({
    init() {
      const root = this.root = this.$root, data = root.dataset;
      this.width = Number(data.width);
      this.height = Number(data.height);
      this.track = { kind: data.track, x: Number(data.trackX), y: Number(data.trackY), r: Number(data.trackR) };
      this.x = Number(data.x);
      this.y = Number(data.y);
      this.svg = root.querySelector(".fig");
      this.range = root.querySelector(".lensbar input");
      this.frame = root.querySelector(".lens-frame");
      const slide = root.querySelector(".fig g.slide")?.getAttribute("transform");
      this.zero = slide ? Number(slide.match(/translate\(([-\d.]+)/)[1]) : 0;
      const strip = root.querySelector(".strength:not([hidden]) svg");
      if (strip.parentElement.parentElement.clientWidth < 0.6 * strip.clientWidth) // a narrow screen: begin weak
        for (const s of root.querySelectorAll(".strength")) s.hidden = s !== root.querySelector(".strength");
      const before = looks[data.figure];
      this.zoom = Number(root.querySelector(".strength:not([hidden])").dataset.zoom);
      if (before && before.kind === this.track.kind && root.closest("[data-part]")) {
        [this.x, this.y] = [this.within(this.zero + before.off, this.width), before.y];
        const all = [...root.querySelectorAll(".strength")];
        if (all[before.index]) this.zoom = Number(all[before.index].dataset.zoom);
      }
      this.range.addEventListener("input", () => this.look(...this.along(Number(this.range.value))));
      for (const b of root.querySelectorAll(".strengths button"))
        b.addEventListener("click", () => { this.zoom = Number(b.dataset.zoom); this.show(); });
      if (!root.hasAttribute("data-moved"))
        this.drag(this.svg, (ev) => {
          const box = this.svg.getBoundingClientRect(), k = this.width / box.width;
          this.look((ev.clientX - box.left) * k, (ev.clientY - box.top) * k);
        });
      const lens = root.querySelector(".lens");
      this.drag(lens, (ev, from) => {
        const k = this.width / this.strip().clientWidth / this.zoom;
        this.look(from.x - (ev.clientX - from.clientX) * k, from.y - (ev.clientY - from.clientY) * k);
      });
      new ResizeObserver(() => this.show()).observe(lens);
      this.show();
      const sight = root.querySelector(".sight");
      if (sight.scrollWidth > sight.clientWidth)
        sight.scrollLeft = document.querySelector("[data-pair]:focus-within") ? 0 : this.x * this.svg.clientWidth / this.width - sight.clientWidth / 3;
    },
    within(v, most) { return Math.min(most, Math.max(0, v)); },
    strip() { return this.root.querySelector(`.strength[data-zoom="${this.zoom}"] svg`); },
    // along is the place on the lens's track that the handle at t shows; at is the handle's place for where the lens looks.
    along(t) {
      const k = this.track;
      if (k.kind === "y") return [k.x, t / this.width * this.height];
      if (k.kind === "round") {
        const a = t / this.width * 2 * Math.PI;
        return [k.x + k.r * Math.sin(a), k.y - k.r * Math.cos(a)];
      }
      return [t, this.y];
    },
    at() {
      const k = this.track;
      if (k.kind === "y") return this.y / this.height * this.width;
      if (k.kind === "round") return (Math.atan2(this.x - k.x, k.y - this.y) / 2 / Math.PI + 1) % 1 * this.width;
      return this.x;
    },
    drag(el, move) {
      el.addEventListener("pointerdown", (ev) => {
        if (ev.button !== 0) return;
        const from = { x: this.x, y: this.y, clientX: ev.clientX, clientY: ev.clientY };
        const moved = (e) => move(e, from);
        if (ev.pointerType === "mouse" || el !== this.svg) {
          el.setPointerCapture(ev.pointerId);
          el.addEventListener("pointermove", moved);
        }
        const end = (e) => {
          el.removeEventListener("pointermove", moved);
          if (el === this.svg && e.type === "pointerup") move(e, from);
        };
        el.addEventListener("pointerup", end, { once: true });
        el.addEventListener("pointercancel", end, { once: true });
      });
    },
    look(x, y) {
      this.x = this.within(x, this.width);
      this.y = this.within(y, this.height);
      this.show();
    },
    // show slides the magnified scales and the frame on the figure to where the lens looks.
    show() {
      const strengths = [...this.root.querySelectorAll(".strength")];
      for (const s of strengths) s.hidden = Number(s.dataset.zoom) !== this.zoom;
      for (const b of this.root.querySelectorAll(".strengths button"))
        b.setAttribute("aria-pressed", String(Number(b.dataset.zoom) === this.zoom));
      const strip = this.strip();
      if (!strip) return;
      const flat = this.track.kind === "flat", high = strip.viewBox.baseVal.height;
      const dx = this.width / 2 - this.x * this.zoom;
      strip.querySelector(".lens-scales").setAttribute("transform", flat ? `translate(${dx} 0)` : `translate(${dx} ${high / 2 - this.y * this.zoom}) scale(${this.zoom})`);
      this.range.value = this.at();
      const shown = strip.clientWidth ? Math.min(1, strip.parentElement.clientWidth / strip.clientWidth) : 1;
      const w = this.width / this.zoom * shown;
      this.frame.setAttribute("x", this.x - w / 2);
      this.frame.setAttribute("width", w);
      if (!flat) {
        this.frame.setAttribute("y", this.y - high / this.zoom / 2);
        this.frame.setAttribute("height", high / this.zoom);
      }
      looks[this.root.dataset.figure] = { off: this.x - this.zero, y: this.y, kind: this.track.kind, index: strengths.findIndex((s) => !s.hidden) };
    },
  }));

  // A card: the boxes echo into the later equations, and what is half filled in is kept.
  Alpine.data("card", () => ({
    init() {
      const root = this.$root, form = root.querySelector("form.boxes");
      for (const b of root.querySelectorAll(".views button"))
        b.addEventListener("click", () => {
          for (const o of root.querySelectorAll(".views button")) o.setAttribute("aria-pressed", String(o === b));
          for (const v of root.querySelectorAll(".view")) v.toggleAttribute("data-off", v.dataset.view !== b.dataset.view);
        });
      const done = form.querySelector(".acts a.btn-primary");
      const first = form.querySelector("input[aria-invalid]") || [...form.querySelectorAll(".box input:not([readonly])")].find((i) => !i.value);
      if (done) done.focus({ preventScroll: true });
      else if (first && matchMedia("(min-width: 761px)").matches) first.focus({ preventScroll: true });
      form.addEventListener("input", () => { this.echo(form); this.later(root, form); });
      form.addEventListener("submit", () => { clearTimeout(this.timer); this.sent = true; });
      addEventListener("pagehide", () => { if (this.timer) this.keep(root, form); });
      this.echo(form);
    },
    echo(form) {
      for (const out of form.querySelectorAll("[data-echo]")) {
        const typed = form.elements[out.dataset.echo].value.trim();
        out.textContent = typed ? typed.replace(/-/g, "−") : out.dataset.name;
        out.classList.toggle("wordy", !typed);
      }
    },
    later(root, form) {
      clearTimeout(this.timer);
      if (root.dataset.draft) this.timer = setTimeout(() => this.keep(root, form), 400);
    },
    keep(root, form) {
      clearTimeout(this.timer);
      this.timer = 0;
      if (this.sent) return;
      const says = form.querySelector(".kept");
      fetch(root.dataset.draft, { method: "POST", body: new URLSearchParams(new FormData(form)), keepalive: true })
        .then((r) => { says.textContent = r.ok && !r.redirected ? "kept" : "not kept: sign in again"; })
        .catch(() => { says.textContent = "not kept: no connection"; });
    },
  }));

  // A form that the server answers with the whole page anew: the parts that changed are put in place.
  Alpine.data("live", () => ({
    init() {
      const form = this.$root;
      this.dirty = false;
      const slide = form.querySelector(".pos");
      if (slide) {
        slide.disabled = false;
        slide.addEventListener("input", (ev) => { ev.stopPropagation(); this.soon(form, [["slide", slide.value]], 0); });
      }
      form.addEventListener("input", (ev) => {
        if (!ev.target.name) return; // the lens only looks
        if (ev.target.name === "pattern") { this.soon(form, [["do", "pattern"]], 0); return; }
        this.dirty = true;
        this.soon(form, [], 90);
      });
      form.addEventListener("submit", (ev) => {
        const b = ev.submitter;
        if (b && b.name === "do" && b.value === "keep") { this.dirty = false; return; }
        ev.preventDefault();
        this.soon(form, b && b.name ? [[b.name, b.value]] : [], 0);
        if (b && (b.name === "form" || b.name === "use")) this.dirty = true;
      });
      addEventListener("keydown", (ev) => {
        if ((ev.ctrlKey || ev.metaKey) && ev.key === "s") { ev.preventDefault(); form.querySelector("[value=keep]").click(); }
      });
      addEventListener("beforeunload", (ev) => { if (this.dirty) ev.preventDefault(); });
    },
    soon(form, more, wait) {
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.redraw(form, more), wait);
    },
    async redraw(form, more) {
      this.flight?.abort();
      const flight = this.flight = new AbortController();
      const body = new URLSearchParams(new FormData(form));
      for (const [k, v] of more) body.set(k, v);
      try {
        const r = await fetch(form.action, { method: "POST", body, signal: flight.signal });
        if (r.redirected) { location.assign(r.url); return; }
        const page = new DOMParser().parseFromString(await r.text(), "text/html");
        if (flight.signal.aborted) return;
        replace(page);
        for (const input of page.querySelectorAll("form[x-data=live] :is(input:not([type=checkbox]):not([type=radio]),select)[name], form[x-data=live] .pos")) {
          const mine = input.name ? form.elements[input.name] : form.querySelector(".pos");
          if (!mine || mine === document.activeElement && !(input.name === "at" && more.length)) continue;
          if (mine.max !== input.max) mine.max = input.max;
          if (mine.value !== input.value) mine.value = input.value;
        }
      } catch (err) {
        if (err.name !== "AbortError") form.querySelector('[data-part="state"]').textContent = "No connection: what you see is not up to date. What you typed stays.";
      }
    },
  }));
});

// Dates in the reader's manner.
document.addEventListener("DOMContentLoaded", () => {
  for (const t of document.querySelectorAll("time[datetime]"))
    t.textContent = new Date(t.dateTime + "T12:00").toLocaleDateString(undefined, { day: "numeric", month: "short", year: "numeric" });
});
