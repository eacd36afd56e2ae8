// The design drawer: what is typed is tried out on the sheet at once.
import htmx from "htmx.org";
import { readNumber } from "./forms.js";
import { fetchPacked } from "./packed.js";

export class Drawer {
  constructor(place, lines, say) {
    Object.assign(this, { place, lines, say, asked: 0, pause: 0 });
    document.addEventListener("input", (event) => this.typed(event));
    document.addEventListener("keydown", (event) => stepped(event));
  }

  open(values) { htmx.ajax("POST", this.place.dataset.drawer, { target: "#side", swap: "innerHTML", values }); }

  typed(event) {
    const form = event.target.closest("#drawer");
    if (!form || event.target.dataset.act === "switch") return;
    // At once, so that no button moves under a finger that is already on its way.
    for (const fault of form.querySelectorAll("[data-fault]")) fault.textContent = "";
    this.asked += 1;
    clearTimeout(this.pause);
    this.pause = setTimeout(() => this.tryOut(form), 60);
  }

  async tryOut(form) {
    const turn = ++this.asked;
    try {
      const began = performance.now();
      const packed = await fetchPacked(this.place.dataset.preview, {
        method: "POST", body: new FormData(form), headers: { "X-CSRFToken": token() },
      });
      if (turn !== this.asked) return;
      this.lines.tryOut(packed, form.entry.value || "");
      this.place.dataset.tried = String(Math.round(performance.now() - began));
    } catch (error) {
      if (turn !== this.asked || !error.answer) return;
      const fault = new DOMParser().parseFromString(await error.answer.text(), "text/html").querySelector("[data-field]");
      const where = form.querySelector(`[data-fault="${fault?.dataset.field}"]`);
      if (where) where.textContent = fault.textContent; else this.say(fault?.textContent ?? "That cannot be drawn.");
    }
  }
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

function token() { return JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"]; }
