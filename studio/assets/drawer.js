// The design drawer: what is typed is tried out on the sheet at once.
import htmx from "htmx.org";
import { readNumber } from "./forms.js";
import { fetchPacked } from "./packed.js";
import { spoken } from "./spoken.js";

export class Drawer {
  constructor(place, lines, say) {
    Object.assign(this, { place, lines, say, asked: 0, pause: 0 });
    document.addEventListener("input", (event) => this.typed(event));
    document.body.addEventListener("htmx:afterSwap", (event) => { if (event.target.id === "tray") this.laidOut(); });
    // The rest of the tray has come: what was typed meanwhile holds for it, too.
    document.body.addEventListener("htmx:load", (event) => { if (event.detail.elt.matches?.("[data-none]")) this.sifted(); });
    document.addEventListener("keydown", (event) => { stepped(event); entered(event); });
  }

  open(values) { htmx.ajax("POST", this.place.dataset.drawer, { target: "#side", swap: "innerHTML", values }); }

  // Another design of the tray: only its settings come anew, the tray stays where it was.
  async take(design, stroke = "") {
    const form = document.getElementById("drawer");
    for (const tile of form.querySelectorAll(".tile")) tile.setAttribute("aria-pressed", String(tile.dataset.design === design && (tile.dataset.stroke ?? "") === stroke));
    const values = { zones: form.zones.value, entry: form.entry.value, over: form.over?.value ?? "", design, stroke, part: "chosen" };
    const unfolded = form.querySelector("#d-chosen details")?.open;
    await htmx.ajax("POST", this.place.dataset.drawer, { target: "#d-chosen", swap: "innerHTML", values });
    // What was unfolded stays so: she was looking at it.
    if (unfolded) form.querySelector("#d-chosen details").open = true;
    delete form.dataset.touched;
    form.querySelector(".chip-here").textContent = form.querySelector("#d-chosen h3").textContent.toLowerCase();
    this.tryOut(form);
  }

  async laidOver(form) {
    const at = document.activeElement?.id;
    await this.take(form.design.value, form.querySelector(".tile[aria-pressed=true]")?.dataset.stroke);
    document.getElementById(at)?.focus({ preventScroll: true });
  }

  // The tray has come: what is in use is in sight.
  laidOut() {
    this.sifted();
    const tray = document.getElementById("tray"), used = tray?.querySelector(".tile[aria-pressed=true]");
    if (used) tray.scrollTop = used.offsetTop - tray.offsetTop - 8;
  }

  sift(hand) {
    for (const each of document.querySelectorAll("#drawer .sift")) each.setAttribute("aria-pressed", String(each.dataset.hand === hand));
    this.sifted();
  }

  // Which tiles are shown: by the tool, and by what was typed.
  sifted() {
    const form = document.getElementById("drawer");
    if (!form) return;
    const hand = form.querySelector(".sift[aria-pressed=true]").dataset.hand;
    const find = form.querySelector("#d-find"), words = find.value.trim().toLowerCase();
    let some = false;
    for (const tile of form.querySelectorAll(".tile")) {
      tile.hidden = (hand && tile.dataset.hand !== hand) || !tile.dataset.find.includes(words);
      some ||= !tile.hidden;
    }
    const none = form.querySelector("[data-none]");
    if (none) none.hidden = some;
    // Who pressed Enter before anything was found goes to the first now.
    if (some && find.dataset.entered && document.activeElement === find) { delete find.dataset.entered; firstFound().focus(); }
  }

  typed(event) {
    const form = event.target.closest("#drawer");
    if (!form) return;
    if (event.target.id === "d-find") { delete event.target.dataset.entered; this.sifted(); return; }
    // Laid as one it is another room, and what was only proposed is proposed anew.
    if (event.target.id === "d-over" && "proposed" in form.design.dataset && !form.dataset.touched) { this.laidOver(form); return; }
    if (event.target.closest("#d-chosen")) form.dataset.touched = "1";
    slid(event.target, form);
    if (event.target.matches("[data-guides]")) this.guides(form);
    // At once, so that no button moves under a finger that is already on its way.
    for (const fault of form.querySelectorAll("[data-fault]")) fault.textContent = "";
    this.asked += 1;
    clearTimeout(this.pause);
    this.pause = setTimeout(() => this.tryOut(form), 60);
  }

  // What each kind of guide asks for.
  guides(form) {
    const kind = form.querySelector("[data-guides]").value;
    form.querySelector("[data-guided]").hidden = !kind;
    for (const part of form.querySelectorAll("[data-kind]")) if (part.parentElement.matches("[data-guided]")) part.hidden = part.dataset.kind !== kind;
  }

  async tryOut(form) {
    clearTimeout(this.slow);
    delete this.place.dataset.trying;
    // A guide that is still to be drawn, a circle without a size: nothing to try yet.
    const kind = form.querySelector("[data-guides]")?.value;
    if ((kind === "drawn" && !form.guide.value) || (kind === "circle" && !form.guide_circle.value.trim())) return;
    guideShown(form);
    const turn = ++this.asked;
    // What takes long is said to be under way: the sheet shows the drawing before it.
    this.slow = setTimeout(() => { this.place.dataset.trying = "1"; }, 600);
    try {
      const began = performance.now();
      const packed = await fetchPacked(this.place.dataset.preview, {
        method: "POST", body: new FormData(form), headers: { "X-CSRFToken": token() },
      });
      if (turn !== this.asked) return;
      this.lines.tryOut(packed, form.entry.value || "");
      document.body.dispatchEvent(new Event("figures-asked"));
      this.place.dataset.tried = String(Math.round(performance.now() - began));
    } catch (error) {
      if (turn !== this.asked || !error.answer) return;
      const fault = new DOMParser().parseFromString(await error.answer.text(), "text/html").querySelector("[data-field]");
      const where = form.querySelector(`[data-fault="${fault?.dataset.field}"]`);
      if (where) where.textContent = fault.textContent; else this.say(fault?.textContent ?? spoken`That cannot be drawn.`);
    } finally {
      if (turn === this.asked) { clearTimeout(this.slow); delete this.place.dataset.trying; }
    }
  }
}

// The guide lies on the sheet, dashed, as long as the drawer is open.
function guideShown(form) {
  document.getElementById("guide-line")?.remove();
  const view = document.getElementById("view"), drawn = form.querySelector("[data-guides]")?.value === "drawn" && form.guide.value;
  if (!view || !drawn) return;
  const line = document.createElementNS("http://www.w3.org/2000/svg", "path");
  line.id = "guide-line";
  line.setAttribute("d", drawn.split(";").map((points) => `M${points.trim()}`).join(""));
  view.append(line);
}

// A slider and its field say the same: a length as a ruler's lines do.
function slid(moved, form) {
  const field = moved.dataset.slides && form.querySelector(`#${moved.dataset.slides}`);
  if (field) { field.value = written(Number(moved.value), Number(field.dataset.step), field.dataset.kind); return; }
  const slider = form.querySelector(`[data-slides="${moved.id}"]`);
  const share = moved.dataset.kind === "share" && moved.value.trim().endsWith("%");
  const now = slider ? readNumber(share ? moved.value.replace("%", "") : moved.value) / (share ? 100 : 1) : NaN;
  if (!Number.isNaN(now)) slider.value = String(now);
}

function written(value, step, kind) {
  if (kind === "share") return `${Math.round(value * 100)}%`;
  if (kind !== "length" || step !== 1 / 16) return String(Math.round(value * 1000) / 1000);
  const parts = Math.round(value * 16), whole = Math.floor(parts / 16);
  let [top, bottom] = [parts % 16, 16];
  while (top && top % 2 === 0) { top /= 2; bottom /= 2; }
  return [whole || !top ? String(whole) : "", top ? `${top}/${bottom}` : ""].filter(Boolean).join(" ");
}

// Up and down step a length by its own step, as a ruler's lines do.
function stepped(event) {
  const field = event.target.closest?.("#drawer input[data-step]");
  if (!field || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  const step = Number(field.dataset.step) || 1, sign = event.key === "ArrowUp" ? 1 : -1;
  const now = readNumber(field.value);
  if (Number.isNaN(now)) return;
  // To the next line, wherever between two it stood.
  const line = Math.round(now / step + sign) * step;
  const next = Math.min(Number(field.dataset.high), Math.max(Number(field.dataset.low), line));
  field.value = String(Math.round(next * 10000) / 10000);
  field.dispatchEvent(new Event("input", { bubbles: true }));
  event.preventDefault();
}

// Enter in a field puts nothing in the legend by surprise: what is typed is drawn already. Of what was found by
// name the first is gone to.
function entered(event) {
  if (event.key !== "Enter" || !event.target.matches?.("#drawer input")) return;
  event.preventDefault();
  if (event.target.id !== "d-find") return;
  const first = firstFound();
  if (first) first.focus();
  else event.target.dataset.entered = "1";
}

function firstFound() { return document.querySelector("#drawer .tile:not([hidden])"); }

function token() { return JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"]; }
