// Figures: a lens that is moved over a drawing, and drawings that follow the hand. Both only slide, turn
// and show what the server drew; what is then read, and where a drawing stands, the server knows.

// nudge moves the drawing of an element by tenths of a least count; 0 has it tell what it was moved meanwhile.
const nudge = (root, by) => root.querySelector(".sight.moves")?.dispatchEvent(new CustomEvent("nudge", { detail: by }));

// inTurn makes what sends a movement of what sends its tenths: what the hand moves while one is on its way is sent after it.
const inTurn = (send) => async function (ev) {
  if (this.underway) return;
  this.underway = true;
  const drawn = await send.call(this, ev.detail);
  this.underway = false;
  if (drawn) nudge(this.$root, 0);
};

const num = (e, name) => Number(e.getAttribute(name));

document.addEventListener("alpine:init", () => {
  // A figure with its lens: the handle, a press on the figure or a drag of the lens move it. What each
  // keeps is named first: what is not named would be shared by all that stand in the same card.
  Alpine.data("figure", () => ({
    root: null, svg: null, track: null, redrawn: null, folds: null, width: 0, height: 0, zero: [0, 0], x: 0, y: 0, zoom: 0,
    fits: 0, line: "",
    init() {
      this.root = this.$root;
      this.take();
      const lens = this.root.querySelector(".lens");
      if (lens) new ResizeObserver(() => this.measure()).observe(lens); // a display has none
      this.redrawn = () => { this.take([this.x - this.zero[0], this.y - this.zero[1]], this.zoom); this.show(); this.fold(); };
      document.addEventListener("drawn", this.redrawn);
      this.folds = () => { this.fold(); this.find(); };
      document.addEventListener("fitted", this.folds);
      if (!lens) this.folds();
    },
    destroy() { document.removeEventListener("drawn", this.redrawn); document.removeEventListener("fitted", this.folds); },
    // measure notes how much of the strip fits. It runs just before the page is painted: measuring each time something is
    // shown would force a layout.
    measure() {
      const first = !this.fits, lens = this.root.querySelector(".lens").clientWidth;
      const fits = () => { const wide = this.strip().clientWidth; return wide ? lens / wide : 1; };
      if (first && fits() < 0.6 && this.track.kind === "flat") // a narrow screen: begin weak
        this.zoom = Number(this.root.querySelector(".strength").dataset.zoom);
      this.fits = fits();
      this.show();
      if (first) this.folds();
    },
    // find brings what the lens looks at in sight where the figure is wider than the screen; of a pair of scales both begin at the left.
    find() {
      const sight = this.root.querySelector(".sight");
      if (sight.scrollWidth > sight.clientWidth && !this.root.classList.contains("pair"))
        sight.scrollLeft = this.x * this.svg.clientWidth / this.width - sight.clientWidth / 3;
    },
    // fold leaves a strip of a card's figure where a keyboard takes most of the screen, and on a phone once
    // it is checked: that between which its scales stand.
    fold() {
      const card = this.root.closest(".cardpage"), root = document.documentElement;
      if (!card) return;
      const short = (root.classList.contains("short") || root.clientWidth < 768 && card.matches(".checked:not(.unfolded)"));
      const k = this.svg.clientWidth / this.width, { top, bottom } = this.root.dataset;
      if (!k) return; // not in sight
      this.root.querySelector(".sight").style.height = short ? `${(bottom - top) * k}px` : "";
      this.svg.style.marginTop = short ? `${-top * k}px` : "";
    },
    // take reads the drawing as it came: anew, or with a lens that keeps its place beside the plate's 0.
    take(off, zoom) {
      const data = this.root.dataset, kind = this.track?.kind, same = zoom && this.width === Number(data.width)
        && this.line === data.look;
      this.line = data.look;
      this.width = Number(data.width);
      this.height = Number(data.height);
      this.track = { kind: data.track, x: Number(data.trackX), y: Number(data.trackY), r: Number(data.trackR) };
      this.svg = this.root.querySelector(".fig");
      const slide = this.root.querySelector(".fig g.slide")?.getAttribute("transform");
      this.zero = slide ? slide.match(/translate\(([-\d.]+) ([-\d.]+)/).slice(1).map(Number) : [0, 0];
      [this.x, this.y] = [Number(data.x), Number(data.y)];
      if (off && same && kind === this.track.kind)
        [this.x, this.y] = [this.within(this.zero[0] + off[0], this.width), this.within(this.zero[1] + off[1], this.height)];
      const strengths = [...this.root.querySelectorAll(".strength")];
      this.zoom = strengths.some((s) => Number(s.dataset.zoom) === zoom) ? zoom
        : Number(this.root.querySelector(".strength:not([hidden])")?.dataset.zoom);
    },
    get rises() { return ["y", "tall"].includes(this.track.kind); },
    within(v, most) { return Math.min(most, Math.max(0, v)); },
    // strip is what the lens shows at its strength. One that was not shown before is unpacked.
    strip() {
      const strength = this.root.querySelector(`.strength[data-zoom="${this.zoom}"]`), packed = strength?.querySelector("script");
      if (packed) {
        strength.innerHTML = packed.textContent;
        this.root.querySelector(".moves")?.dispatchEvent(new CustomEvent("unpacked"));
      }
      return strength?.querySelector("svg");
    },
    strength(zoom) { this.zoom = zoom; this.show(); this.measure(); },
    slide(ev) { ev.stopPropagation(); this.look(...this.along(Number(ev.target.value))); },
    // along is the place on the lens's track that the handle at t shows; at is the handle's place for where
    // the lens looks.
    along(t) {
      const k = this.track;
      if (this.rises) return [k.x, t / this.width * this.height];
      if (k.kind === "round") {
        const a = t / this.width * 2 * Math.PI;
        return [k.x + k.r * Math.sin(a), k.y - k.r * Math.cos(a)];
      }
      return [t, this.y];
    },
    at() {
      const k = this.track;
      if (this.rises) return this.y / this.height * this.width;
      if (k.kind === "round") return (Math.atan2(this.x - k.x, k.y - this.y) / 2 / Math.PI + 1) % 1 * this.width;
      return this.x;
    },
    // point looks where the figure is pressed, pull drags what the lens shows.
    point(ev) {
      this.drag(ev, this.svg, ev.pointerType !== "mouse", (e) => {
        const box = this.svg.getBoundingClientRect(), k = this.width / box.width;
        this.look((e.clientX - box.left) * k, (e.clientY - box.top) * k);
      });
    },
    pull(ev) {
      const from = { x: this.x, y: this.y, clientX: ev.clientX, clientY: ev.clientY };
      this.drag(ev, ev.currentTarget, false, (e) => {
        const strip = this.strip(), k = strip.viewBox.baseVal.width / strip.clientWidth / this.zoom;
        this.look(from.x - (e.clientX - from.clientX) * k, from.y - (e.clientY - from.clientY) * k);
      });
    },
    drag(ev, el, once, move) {
      if (ev.button !== 0) return;
      const moved = (e) => move(e);
      if (!once) {
        el.setPointerCapture(ev.pointerId);
        el.addEventListener("pointermove", moved);
      }
      const end = () => el.removeEventListener("pointermove", moved);
      el.addEventListener("pointerup", end, { once: true });
      el.addEventListener("pointercancel", end, { once: true });
      if (el === this.svg) move(ev);
    },
    look(x, y) {
      this.x = this.within(x, this.width);
      this.y = this.within(y, this.height);
      this.show();
    },
    // show slides the magnified scales and the frame on the figure to where the lens looks.
    show() {
      for (const s of this.root.querySelectorAll(".strength")) s.hidden = Number(s.dataset.zoom) !== this.zoom;
      for (const b of this.root.querySelectorAll(".strengths button")) {
        const on = Number(b.dataset.zoom) === this.zoom;
        b.setAttribute("aria-pressed", String(on));
        b.classList.toggle("active", on);
      }
      const strip = this.strip(), frame = this.root.querySelector(".lens-frame");
      if (!strip || !frame) return;
      const { kind } = this.track, wide = strip.viewBox.baseVal.width, high = strip.viewBox.baseVal.height;
      const dx = wide / 2 - this.x * this.zoom, dy = high / 2 - this.y * this.zoom;
      strip.querySelector(".lens-scales").setAttribute("transform", { flat: `translate(${dx} 0)`, tall: `translate(0 ${dy})` }[kind]
        || `translate(${dx} ${dy}) scale(${this.zoom})`);
      const bar = this.root.querySelector(".lensbar input");
      bar.value = this.at();
      bar.setAttribute("aria-valuetext", `${Math.round(100 * this.at() / this.width)} %`);
      const w = wide / this.zoom * Math.min(1, this.fits);
      if (kind !== "tall") {
        frame.setAttribute("x", this.x - w / 2);
        frame.setAttribute("width", w);
      }
      if (kind !== "flat") {
        frame.setAttribute("y", this.y - high / this.zoom / 2);
        frame.setAttribute("height", high / this.zoom);
      }
    },
  }));

  // The figures of a card, of which one is in sight: the one that is chosen, or that the box needs which is being filled in.
  Alpine.data("views", () => ({
    underway: false,
    get form() { return this.$root.closest(".cardpage")?.querySelector("form.boxes"); },
    get stage() { return this.$root.querySelector(".sight.moves"); },
    // turn brings the figure in sight that a box is read from.
    turn(ev) {
      const name = ev.target.dataset?.figure, tab = name && this.$root.querySelector(`.views [data-view="${name}"]`);
      if (tab && name !== this.$root.dataset.shown) this.look(name);
    },
    // look brings a figure in sight: one that is here, or the server's drawing of it.
    look(name) {
      const v = this.$root;
      const asked = v.querySelector(`.view[data-view="${name}"]`);
      if (!asked) { this.ask({ figure: name }); return; }
      v.dataset.shown = name;
      for (const e of v.querySelectorAll(".view")) {
        e.hidden = e.dataset.sight !== asked.dataset.sight;
        e.classList.toggle("on", e === asked); // of two side by side, the one that a narrow screen shows
      }
      for (const a of v.querySelectorAll(".views .nav-link")) {
        a.classList.toggle("active", a.dataset.view === name);
        a.toggleAttribute("aria-current", a.dataset.view === name);
      }
      document.dispatchEvent(new CustomEvent("fitted"));
    },
    // follow brings the scale that was moved in sight where the figure is wider than the screen.
    follow() {
      const line = this.stage?.querySelector(".second-fine");
      if (!line) return;
      const at = line.getBoundingClientRect(), all = this.stage.getBoundingClientRect();
      if (at.left < all.left || at.right > all.right) this.stage.scrollLeft += at.left - all.left - all.width / 2;
    },
    push(ev) { nudge(this.$root, ev.detail); },
    move: inTurn(function (by) { return this.ask({ moved: by }); }),
    // ask has a figure drawn anew: another one, or one that was moved. The server keeps where it stands.
    async ask(more) {
      const { at, shown } = this.$root.dataset, draft = this.$root.closest("[data-draft]"), open = draft || more.moved !== undefined;
      if (this.stage) this.stage.told = more.moved || 0;
      try {
        await this.$ajax(open ? at : `${at}${at.includes("?") ? "&" : "?"}figure=${more.figure}`, { target: "views", focus: false,
          ...(open && { method: "POST", body: fields(this.form, { figure: shown, ...more }) }) });
      } catch {
        if (this.stage) this.stage.told = 0;
        this.$dispatch("told", "notKept");
        return false;
      }
      const { moving, moved } = this.$root.dataset;
      if (moving) this.form.elements[moving].value = moved;
      if (more.moved !== undefined) this.follow();
      this.$dispatch("told", more.moved !== undefined && draft ? "kept" : "");
      return true;
    },
  }));

  // The ways in which a part of a drawing moves: by dx px, or turned by so many degrees or lines.
  const ways = {
    slide(m, { e, was, zoom }, dx, _, dy) { e.setAttribute("transform", `translate(${dx * zoom} ${dy * zoom}) ${was}`); },
    turn(m, { e, was }, dx, turned) { e.setAttribute("transform", `rotate(${turned} ${m.x || 0} ${m.y || 0}) ${was}`); },
    grow(m, { e, width, box }, dx) {
      const k = Math.max(0.01, 1 + dx / box.width);
      if (width) e.setAttribute("width", Math.max(0, width + dx));
      else e.setAttribute("transform", `translate(${box.x * (1 - k)} 0) scale(${k} 1)`); // an outline
    },
    // Lines and numerals behind the drum are left alone. Numerals are shifted: setting x or y has a browser lay them out again.
    roll(m, { lines, numbers }, dx, turned) {
      const c = m.rolled, level = (a, r) => m.y - r * Math.sin(a), k = m.across ? "x" : "y";
      const set = (part, name, value) => { if (part[name] !== value) part.e.setAttribute(name, part[name] = value); };
      const seen = (part, yes) => { set(part, "visibility", yes ? "visible" : "hidden"); return yes; };
      lines.forEach((line, i) => {
        const a = angle(c, i - turned), y0 = level(a, c.r), y1 = level(a, c.rim);
        if (!seen(line, Math.abs(a) <= 1.3)) return;
        line.e.setAttribute(`${k}1`, y0);
        line.e.setAttribute(`${k}2`, y0 + (y1 - y0) * line.long / c.bevel);
        set(line, "stroke", Math.abs(a) > 1 ? "#6B767B" : "#172026");
      });
      for (const number of numbers) {
        const a = angle(c, number.line - turned), y0 = level(a, c.r), y1 = level(a, c.rim);
        if (!seen(number, Math.abs(a) <= 1.22)) continue;
        const size = Math.round(68 * Math.max(0.62, Math.cos(a))) / 4;
        const by = y0 + (y1 - y0) * 0.78 + (m.across ? 0 : size * 0.35) - number.from;
        set(number, "font-size", size);
        number.e.setAttribute("transform", m.across ? `translate(${by} 0)` : `translate(0 ${by})`);
      }
    },
  };
  // angle is how a line round a cylinder is seen that stands so many lines after the first drawn.
  const angle = (c, i) => {
    let off = (c.first + i - c.middle) % c.lines;
    if (off >= c.lines / 2) off -= c.lines;
    if (off < -c.lines / 2) off += c.lines;
    return c.up * (off + c.middle) * 2 * Math.PI / c.lines * c.squeeze - c.tilt;
  };

  // A drawing that follows the hand, by the rule that came with it. Where it stands it does not know: it
  // tells by how many tenths of a least count it was moved ("moved"; "moving" while the hand still moves),
  // and begins anew when it has been drawn again.
  Alpine.data("moving", () => ({
    stage: null, svg: null, moves: [], grips: [], redrawn: null, off: 0, frame: 0, timer: 0, sleep: 0, taken: false, flags: [],
    init() {
      this.stage = this.$root;
      this.redrawn = () => this.take();
      document.addEventListener("drawn", this.redrawn);
      this.stage.addEventListener("nudge", (ev) => this.nudge(ev.detail));
      this.stage.addEventListener("unpacked", () => { this.read(); this.place(); });
      this.take();
    },
    destroy() { document.removeEventListener("drawn", this.redrawn); },
    // take reads the drawing and its rule of motion.
    take() {
      // Tenths of a least count moved since it was drawn. Who had it drawn anew says how many of them are in the drawing; the
      // hand may have moved on meanwhile.
      this.off = this.stage.told === "all" ? 0 : this.off - (this.stage.told || 0);
      this.stage.told = 0;
      this.read();
      this.place();
      this.wake();
    },
    read() {
      const { moves, grips } = JSON.parse(this.stage.dataset.motion), scope = this.stage.closest(".scope");
      this.svg = this.stage.querySelector(".fig");
      this.grips = grips;
      this.stage.classList.toggle("sideways", !grips.some((g) => g.up)); // a finger may then scroll the page up and down
      this.moves = (moves || []).map((m) => ({
        ...m, // dx and turn of 0 are left out
        parts: [...scope.querySelectorAll(m.parts)].map((e) => (e.drawn ??= {})[m.how] ??= this.part(m, e)),
        numerals: m.uncut ? [...this.svg.querySelectorAll(m.parts)].flatMap((e) => [...e.querySelectorAll("text")]) : [],
      }));
      this.flags = scope.querySelectorAll(".tag, .pin, .counted, .taken");
    },
    // part is what must be known of a part as it was drawn to move it.
    part(m, e) {
      switch (m.how) {
        case "grow": return { e, width: Number(e.getAttribute("width")), box: e.getBBox() };
        case "roll": return {
          lines: [...e.children].filter((l) => l.tagName === "line")
            .map((l) => ({ e: l, long: m.across ? num(l, "y1") - num(l, "y2") : num(l, "x2") - num(l, "x1") })),
          numbers: [...e.querySelectorAll("text")].map((n, i) => ({ e: n, line: m.rolled.numbers[i],
            from: num(n, m.across ? "x" : "y") })),
        };
      }
      return { e, was: e.getAttribute("transform") || "", zoom: m.lens ? Number(e.closest("[data-zoom]").dataset.zoom) : 1 };
    },
    // place moves the drawing by the tenths that the hand has moved.
    place() {
      for (const e of this.flags) if (this.off) e.setAttribute("visibility", "hidden");
      for (const m of this.moves) {
        const counts = this.off / 10, dx = (m.dx || 0) * counts;
        for (const part of m.parts) ways[m.how](m, part, dx, (m.turn || 0) * counts, (m.dy || 0) * counts);
        this.uncut(m, dx);
      }
    },
    // uncut hides the numerals that the edges of the figure would cut.
    uncut(m, dx) {
      const wide = this.svg.viewBox.baseVal.width;
      for (const t of m.numerals) {
        const x = Number(t.getAttribute("x")) + dx, half = t.textContent.length * 0.29 * Number(t.getAttribute("font-size"));
        t.setAttribute("visibility", x - half < 0 && x + half > 0 || x - half < wide && x + half > wide ? "hidden" : "visible");
      }
    },
    to(off) {
      const next = Math.round(off);
      if (next === this.off) return;
      this.off = next;
      this.stage.closest("[data-part]")?.removeAttribute("data-part"); // it no longer is as it came
      if (!this.frame) this.frame = requestAnimationFrame(() => { this.frame = 0; this.place(); });
      this.$dispatch("moving", this.off);
      this.wake();
    },
    nudge(by) {
      this.to(this.off + by);
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.rest(), 130);
    },
    // rest tells how far the hand has moved it.
    rest() {
      clearTimeout(this.timer);
      if (this.off) this.$dispatch("moved", this.off);
    },
    // size is how far one notch or key moves, in tenths of a least count.
    size(ev) { return ev.altKey ? 1 : ev.shiftKey ? 100 : 10; },
    // roll moves it by the wheel, but only once it has been taken hold of: else the page scrolls.
    roll(ev) {
      if (!this.taken) return;
      ev.preventDefault();
      this.nudge((ev.deltaY < 0 ? 1 : -1) * this.size(ev));
    },
    press(ev) {
      const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[ev.key];
      if (ev.key === "Home") this.$dispatch("home");
      else if (by) this.nudge(by * this.size(ev));
      else return;
      ev.preventDefault();
    },
    grip(ev) {
      this.taken = true;
      if (ev.button !== 0 || !ev.target.closest(".fig")) return;
      ev.preventDefault();
      this.stage.focus({ preventScroll: true });
      this.stage.setPointerCapture(ev.pointerId);
      const box = this.svg.getBoundingClientRect(), k = this.svg.viewBox.baseVal.width / box.width;
      const from = { x: ev.clientX, y: ev.clientY, off: this.off };
      const grip = this.grips.findLast((g) => (ev.clientX - box.left) * k >= g.from);
      if (!grip) return;
      const moved = (e) => this.to(from.off + (grip.up ? from.y - e.clientY : e.clientX - from.x) * k / grip.per * 10);
      const end = () => { this.stage.removeEventListener("pointermove", moved); this.rest(); };
      this.stage.addEventListener("pointermove", moved);
      this.stage.addEventListener("pointerup", end, { once: true });
      this.stage.addEventListener("pointercancel", end, { once: true });
    },
    // wake keeps a display on; left alone for three minutes it goes to sleep.
    wake() {
      clearTimeout(this.sleep);
      for (const e of this.stage.querySelectorAll(".digits")) e.removeAttribute("visibility");
      this.sleep = setTimeout(() => {
        for (const e of this.stage.querySelectorAll(".digits")) e.setAttribute("visibility", "hidden");
      }, 180000);
    },
  }));

  // A scale told in words: the line that the slider stands at.
  Alpine.data("spoken", () => ({
    at: 0,
    init() { this.at = Number(this.$root.dataset.start); },
    get line() { return this.$root.querySelectorAll("li")[this.at]?.textContent; },
  }));

  // The Bench: a live form with a drawing that is moved by hand, and numbers that follow it.
  Alpine.data("bench", () => ({
    ...live(),
    asking: false,
    init() { this.form = this.$root; this.$root.addEventListener("home", () => this.soon({ do: "close" }, 0)); },
    changed(ev) { if (ev.target.name) this.soon({}, ev.target.name === "object" ? 400 : 0); },
    press(ev) {
      const b = ev.submitter;
      if (b?.name === "moved") nudge(this.form, Number(b.value));
      else this.soon(b?.name ? { [b.name]: b.value } : {}, 0);
    },
    move(ev) { this.soon({ moved: ev.detail }, 0); },
    // count asks for the numbers while the hand moves, one question at a time.
    async count(ev) {
      if (this.asking) return;
      this.asking = true;
      try {
        await this.$ajax(this.form.action, { method: "POST", body: fields(this.form, { moved: ev.detail, only: "numbers" }),
          target: this.form.querySelector(".numbers").id, focus: false });
      } catch { /* the next answer, or the drawing, sets it right */ }
      setTimeout(() => { this.asking = false; }, 60);
    },
    lost() { this.form.querySelector(".held").textContent = says("oldNumbers"); },
  }));
});
