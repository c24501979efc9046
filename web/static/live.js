// What is typed and what comes back: parts of a page are put in place, and forms follow what is typed in them.

// fields are a form's, with more on top.
function fields(form, more = {}) {
  const body = new URLSearchParams(new FormData(form));
  for (const [k, v] of Object.entries(more)) body.set(k, v);
  return body;
}

// put puts a part of the page that the server has sent in place, so that what is being typed and what is open stays.
function put(el, to) {
  const parts = new Set(); // that stay as they are
  search(to);
  Alpine.morph(el, to, {
    key: (e) => e.id,
    updating(e, to, only, skip, skipChildren) {
      if (e.tagName === "DETAILS" && !e.dataset.block) to.open = e.open;
      const same = e.dataset?.part && e.dataset.part === to.dataset.part && e.firstChild;
      if (same) parts.add(e);
      if (same || e.isEqualNode(to)) { skip(); return; } // most of it is as it was
      if (e.tagName !== "svg") return; // a drawing is exchanged as a whole
      e.replaceChildren(...to.childNodes);
      skipChildren();
    },
  });
  for (const i of el.querySelectorAll(":is(input, select, textarea):not([x-model], [type=file], [type=password], .sift)")) {
    if (i.type === "checkbox" || i.type === "radio") i.checked = i.hasAttribute("checked");
    else if (i === document.activeElement) continue;
    else if (i.tagName === "SELECT") i.value = (i.querySelector("option[selected]") || i.options[0])?.value;
    else if (i.value !== i.getAttribute("value")) i.value = i.getAttribute("value") ?? "";
  }
  for (const box of el.querySelectorAll(".sift")) if (box.value) sift(box);
  if ([...el.querySelectorAll(".scope")].some((e) => !parts.has(e))) document.dispatchEvent(new CustomEvent("drawn"));
  if (el.hasAttribute("x-target")) el.querySelector("[aria-invalid=true], [role=alert] button")?.focus();
}

// withoutKnown leaves out of a page the parts that an element has already, unchanged: to parse them takes as long as all
// the rest. A template prints them by "part".
function withoutKnown(page, el) {
  const known = new Set([...el.querySelectorAll("[data-part]")].map((e) => e.dataset.part));
  return page.replace(/<!--part (\w+)-->[^]*?<!--end-->/g, (all, part) => known.has(part) ? "" : all);
}

// parsed parses a page and returns an element of it.
function parsed(page, id) {
  const all = document.createElement("template");
  all.innerHTML = page;
  return all.content.getElementById(id);
}

// A form that the server answers with the whole page anew: what changed is put in place.
const live = () => ({
  form: null, dirty: false, timer: 0, flight: null, more: {}, presses: [],
  init() {
    this.form = this.$root;
    this.dirty = !!this.form.querySelector(".asked, .is-invalid"); // it came back and is not kept yet
  },
  changed(ev) {
    const i = ev.target;
    if (!i.name && !i.dataset.press) return; // the lens only looks
    if (i.dataset.press) { this.soon(i.dataset.press === "slide" ? { slide: i.value } : { do: i.dataset.press }, 0); return; }
    this.dirty = true;
    const wait = this.flight && !i.matches("select, [type=checkbox], [type=radio]") ? 60 : 0; // who types on is sent together
    this.flight?.abort(); // its answer would put back what stood there before
    this.soon({}, wait);
  },
  press(ev) {
    const b = ev.submitter;
    if (b?.name === "do" && b.value === "keep") { this.dirty = false; return; }
    ev.preventDefault();
    if (b?.name === "form" || b?.name === "use" || b?.name === "do" && b.value.includes(".")) this.dirty = true;
    b?.closest(".adds details")?.removeAttribute("open");
    this.soon(b?.name ? { [b.name]: b.value } : {}, 0);
  },
  // shift moves the block that the keys are in.
  shift(by) {
    document.activeElement.closest(".blockline")?.querySelector(by < 0 ? "[value^=up]" : "[value^=down]").click();
  },
  keep() { this.form.querySelector("[value=keep]").click(); },
  // soon sends the form with what was pressed. What is on its way is asked for anew together with what comes after it, so
  // that nothing is lost; only one button follows the other.
  soon(more, wait) {
    if (more.do && this.more.do) { this.presses.push(more); return; }
    Object.assign(this.more, more);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.redraw({ ...this.more }), wait);
  },
  async redraw(more) {
    this.flight?.abort();
    const flight = this.flight = new AbortController(), stage = this.form.querySelector(".sight.moves");
    if (stage) stage.told = more.do === "close" ? "all" : more.moved || 0;
    const open = this.form.querySelector("details.block[open]")?.dataset.block ?? -1;
    try {
      await this.ask(flight.signal, fields(this.form, { open, ...more }));
    } catch (err) {
      if (err.name !== "AbortError") this.lost();
      return;
    } finally {
      if (this.flight === flight) this.flight = null;
    }
    for (const k in more) if (this.more[k] === more[k]) delete this.more[k];
    // A movement that waits to be sent was counted from where the figure stood before this answer.
    if (more.do === "close") delete this.more.moved;
    else if (this.more.moved !== undefined && more.moved) this.more.moved -= more.moved;
    const line = more.do && this.form.dataset.focus, next = more.do && this.presses.shift();
    if (line) this.form.querySelector(`#${line}:not([disabled])`)?.focus();
    if (next) this.soon(next, 0);
  },
  // ask sends the form and puts in place what has changed in it.
  async ask(signal, body) {
    const r = await fetch(this.form.action, { method: "POST", body, signal });
    if (r.redirected) { this.dirty = false; location.assign(r.url); return; } // signed out
    const text = await r.text(), { form } = this;
    put(form, parsed(withoutKnown(text, form), form.id));
    if (form.querySelector("[data-part]:empty")) put(form, parsed(text, form.id)); // a part is elsewhere now
    this.$dispatch("answered");
  },
  lost() { this.form.querySelector("#state").textContent = says("notUpToDate"); },
});

document.addEventListener("alpine:init", () => Alpine.data("live", live));
