// The Bench: the drawing follows the hand at once, by the rule that came with it; every number, and the
// drawing once the hand rests, come from the server.
document.addEventListener("alpine:init", () => {
  Alpine.data("bench", () => ({
    init() {
      const form = this.form = this.$root;
      this.stage = form.querySelector("#stage");
      this.off = 0; // tenths of a least count moved since the last drawing
      this.read();
      form.addEventListener("submit", (ev) => {
        ev.preventDefault();
        const b = ev.submitter;
        this.send(b && b.name ? [[b.name, b.value]] : []);
      });
      form.addEventListener("input", (ev) => { if (ev.target.name) this.later(ev.target.name === "object" ? 400 : 0); });
      this.stage.addEventListener("pointerdown", (ev) => this.grip(ev));
      this.stage.addEventListener("wheel", (ev) => { ev.preventDefault(); this.nudge((ev.deltaY < 0 ? 1 : -1) * this.size(ev)); }, { passive: false });
      this.stage.addEventListener("keydown", (ev) => {
        const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[ev.key];
        if (ev.target !== this.stage || !by && ev.key !== "Home") return;
        ev.preventDefault();
        if (ev.key === "Home") this.nudge(-this.steps - this.off);
        else this.nudge(by * this.size(ev));
      });
      this.wake();
    },
    // size is how far one notch or key moves, in tenths of a least count.
    size(ev) { return ev.altKey ? 1 : ev.shiftKey ? 100 : 10; },
    // read takes the state and the rule of motion that came with the drawing.
    read() {
      const i = this.form.querySelector("[data-steps]");
      [this.steps, this.low, this.high] = [Number(i.dataset.steps), Number(i.dataset.low), Number(i.dataset.high)];
      const part = this.form.querySelector('[data-part="figure"]');
      this.motion = JSON.parse(part.dataset.motion);
      this.svg = part.querySelector(".fig");
      this.stage.classList.toggle("sideways", this.motion.kind !== "drum"); // a finger may then scroll the page up and down
      const svg = this.svg;
      const keep = (sel) => [...part.querySelectorAll(sel)].map((e) => [e, e.getAttribute("transform") || ""]);
      const box = (e) => e && { e, width: Number(e.getAttribute("width")) };
      this.slides = keep(".fig g.slide, .fig .moving, .fig .pointer, .fig .index").filter(([e]) => this.motion.kind === "slide" || this.motion.kind === "mark");
      if (this.motion.kind === "slide") this.slides = keep(".fig g.slide, .fig .jaw.moving, .fig .wall.moving");
      this.works = [...part.querySelectorAll(".work")].map(box);
      this.plates = [...part.querySelectorAll(".lens-plate")].map((e) => [e, e.getAttribute("transform") || "", Number(e.closest("[data-zoom]").dataset.zoom)]);
      this.marks = keep(".sleeve-marks, .beam-marks");
      this.needles = keep(".needle");
      this.drums = [...part.querySelectorAll(".drum-lines")].map((g) => ({
        lines: [...g.children].filter((e) => e.tagName === "line").map((e) => ({ e, long: Number(e.getAttribute("x2")) - Number(e.getAttribute("x1")) })),
        numbers: [...g.querySelectorAll("text")].map((e) => ({ e, line: this.lineOf(g, e) })),
      }));
      if (this.motion.kind === "drum") this.turn(0);
      this.flags = part.querySelectorAll(".tag, .pin, .counted, .taken");
    },
    // lineOf finds the line that a number stands at: the one at its height.
    lineOf(g, text) {
      const m = this.motion, size = Number(text.getAttribute("font-size")), y = Number(text.getAttribute("y")) - 0.35 * size;
      let best = 0, off = Infinity;
      [...g.children].filter((e) => e.tagName === "line").forEach((e, j) => {
        const a = this.angle(j, 0), at = this.level(a, m.r) + (this.level(a, m.rim) - this.level(a, m.r)) * 0.78;
        const d = Math.abs(at - y) + Math.abs(17 * Math.max(0.62, Math.cos(a)) - size);
        if (d < off) [best, off] = [j, d];
      });
      return best;
    },
    // angle and level are how a line round the drum is seen, as the drawing has it.
    angle(j, moved) {
      const m = this.motion;
      let off = (j - m.at - moved - (m.middle || 0)) % m.lines;
      if (off >= m.lines / 2) off -= m.lines;
      if (off < -m.lines / 2) off += m.lines;
      off += m.middle || 0;
      return m.up * off * 2 * Math.PI / m.lines * m.squeeze - (m.tilt || 0);
    },
    level(a, r) { return this.motion.y - r * Math.sin(a); },
    turn(moved) {
      const m = this.motion;
      for (const d of this.drums) {
        d.lines.forEach(({ e, long }, j) => {
          const a = this.angle(j, moved), y0 = this.level(a, m.r), y1 = this.level(a, m.rim);
          e.setAttribute("visibility", Math.abs(a) > 1.3 ? "hidden" : "visible");
          e.setAttribute("y1", y0);
          e.setAttribute("y2", y0 + (y1 - y0) * long / m.bevel);
          e.setAttribute("stroke", Math.abs(a) > 1 ? "#6B767B" : "#172026");
        });
        for (const { e, line } of d.numbers) {
          const a = this.angle(line, moved), y0 = this.level(a, m.r), y1 = this.level(a, m.rim), size = 17 * Math.max(0.62, Math.cos(a));
          e.setAttribute("visibility", Math.abs(a) > 1.22 ? "hidden" : "visible");
          e.setAttribute("font-size", size);
          e.setAttribute("y", y0 + (y1 - y0) * 0.78 + size * 0.35);
        }
      }
    },
    // place moves the drawing by the tenths that the hand has moved.
    place() {
      const m = this.motion, counts = this.off / 10, dx = m.count * counts;
      for (const e of this.flags) if (this.off) e.setAttribute("visibility", "hidden");
      for (const [e, was] of this.slides) e.setAttribute("transform", `translate(${dx} 0) ${was}`);
      for (const w of this.works) w.e.setAttribute("width", Math.max(0, w.width + dx));
      for (const [e, was, zoom] of this.plates) e.setAttribute("transform", `translate(${dx * zoom} 0) ${was}`);
      for (const [e, was] of this.marks) e.setAttribute("transform", `translate(${-dx} 0) ${was}`);
      for (const [e, was] of this.needles) e.setAttribute("transform", `rotate(${m.turn * counts} ${m.x} ${m.y}) ${was}`);
      if (m.kind === "drum") this.turn(m.turn * counts);
    },
    // to brings the instrument to a position, within what can be reached.
    to(off) {
      const locked = this.form.elements.lock.value;
      const next = locked ? 0 : Math.min(this.high, Math.max(this.low, this.steps + Math.round(off))) - this.steps;
      if (next === this.off) return;
      this.off = next;
      if (!this.frame) this.frame = requestAnimationFrame(() => { this.frame = 0; this.place(); });
      this.numbers();
      this.wake();
    },
    nudge(by) { this.to(this.off + by); this.later(130); },
    grip(ev) {
      if (ev.button !== 0 || !ev.target.closest(".fig")) return;
      ev.preventDefault();
      this.stage.focus({ preventScroll: true });
      this.stage.setPointerCapture(ev.pointerId);
      const m = this.motion, k = this.svg.viewBox.baseVal.width / this.svg.getBoundingClientRect().width;
      const from = { x: ev.clientX, y: ev.clientY, off: this.off };
      // A drum is turned by moving up or down on it, anything is slid by moving sideways.
      const turning = m.kind === "drum" && (ev.clientX - this.svg.getBoundingClientRect().left) * k > m.edge;
      const moved = (e) => {
        const px = turning ? (from.y - e.clientY) * k * m.up : (e.clientX - from.x) * k;
        const per = turning ? m.r * 2 * Math.PI / m.lines * m.squeeze * m.turn : m.kind === "dial" || m.kind === "drum" ? Math.abs(m.count) : m.count;
        this.to(from.off + px / per * 10);
      };
      const end = () => { this.stage.removeEventListener("pointermove", moved); this.send([]); };
      this.stage.addEventListener("pointermove", moved);
      this.stage.addEventListener("pointerup", end, { once: true });
      this.stage.addEventListener("pointercancel", end, { once: true });
    },
    later(wait) { clearTimeout(this.timer); this.timer = setTimeout(() => this.send([]), wait); },
    body(more) {
      const body = new URLSearchParams(new FormData(this.form));
      body.set("steps", this.steps + this.off);
      body.set("was", this.form.elements.lock.value ? this.steps : this.steps + this.off);
      for (const [k, v] of more) body.set(k, v);
      return body;
    },
    // numbers asks for the numbers while the hand moves, one question at a time.
    async numbers() {
      if (this.asking) return;
      this.asking = true;
      try {
        const page = await this.ask([["only", "numbers"]]);
        const part = page.querySelector('[data-part="numbers"]');
        if (part) this.form.querySelector('[data-part="numbers"]').innerHTML = part.innerHTML;
      } catch { /* the next answer, or the drawing, sets it right */ }
      setTimeout(() => { this.asking = false; }, 60);
    },
    async ask(more) {
      const r = await fetch(this.form.action, { method: "POST", body: this.body(more) });
      if (r.redirected) location.assign(r.url);
      return new DOMParser().parseFromString(await r.text(), "text/html");
    },
    // send asks for the drawing anew, once the hand rests.
    async send(more) {
      clearTimeout(this.timer);
      const turn = this.turnNo = (this.turnNo || 0) + 1;
      try {
        const page = await this.ask(more);
        if (turn !== this.turnNo) return;
        const part = page.querySelector('[data-part="figure"]');
        if (part) this.form.querySelector('[data-part="figure"]').dataset.motion = part.dataset.motion;
        replace(page);
        this.off = 0;
        this.read();
      } catch (err) {
        this.form.querySelector('[data-part="held"]').textContent = "No connection: the numbers are not up to date. Try again.";
      }
    },
    // wake keeps a display on; left alone for three minutes it goes to sleep.
    wake() {
      clearTimeout(this.sleep);
      for (const e of this.form.querySelectorAll(".digits")) e.removeAttribute("visibility");
      this.sleep = setTimeout(() => { for (const e of this.form.querySelectorAll(".digits")) e.setAttribute("visibility", "hidden"); }, 180000);
    },
  }));
});
