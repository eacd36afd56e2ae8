// Blocks laid where the sheet is touched: one after the other, each on the revision the last one made.
import htmx from "htmx.org";
import { brush } from "./brush.js";
import { spoken } from "./spoken.js";

const SVG = "http://www.w3.org/2000/svg";

export class Laying {
  // `hint` says what the sheet waits for, `keep` holds the panel over the board that is drawn anew.
  constructor(sheet, hint, keep) { Object.assign(this, { sheet, hint, keep, on: false, waiting: [], busy: false, landed: false, note: "" }); }

  get form() { return document.querySelector("#side #laying[data-lays]"); }

  begin() { if (!this.on) this.go(); }

  // Begins laying, and goes on with it on a sheet that was drawn anew.
  go() {
    if (!this.form) { this.leave(); return; }
    this.stop?.();
    this.on = true;
    if (this.landed) this.busy = this.landed = false;
    this.stop = brush(this.sheet, (spots) => this.touched(spots), () => this.leave());
    this.mark();
    this.next();
  }

  touched(spots) {
    this.note = "";
    this.waiting.push({ ...Object.fromEntries(new FormData(this.form)), base: "", at: spots.map((spot) => spot.join(",")).join(" ") });
    this.mark();
    this.next();
  }

  leave() {
    this.stop?.();
    Object.assign(this, { on: false, waiting: [], busy: false, landed: false, stop: null, note: "" });
    this.sheet.view?.querySelector("#touched")?.remove();
    this.keep(null);
    this.hint("");
    const place = document.getElementById("hint");
    if (place) place.dataset.waiting = "0";
  }

  // Every touch that waits is seen on the sheet and counted beside it.
  mark() {
    const left = this.waiting.length + Number(this.busy);
    this.hint(`${this.note}${left ? `${spoken`${left} still to lay.`} ` : ""}${spoken`Touch a block on the sheet, or draw over several.`}`);
    const place = document.getElementById("hint");
    if (place) place.dataset.waiting = String(left);
    this.sheet.view.querySelector("#touched")?.remove();
    const marks = document.createElementNS(SVG, "g");
    marks.id = "touched";
    const r = 7 / this.sheet.transform().k;
    for (const { at } of this.waiting) {
      const [x, y] = at.split(" ")[0].split(",");
      const mark = document.createElementNS(SVG, "circle");
      for (const [name, value] of Object.entries({ cx: x, cy: y, r, class: "pen-node" })) mark.setAttribute(name, value);
      marks.append(mark);
    }
    this.sheet.view.append(marks);
  }

  next() {
    if (this.busy || !this.waiting.length) return;
    this.busy = true;
    // What waits to be laid alike is laid at once.
    const same = (one) => JSON.stringify({ ...one, at: "" });
    const other = this.waiting.findIndex((each) => same(each) !== same(this.waiting[0]));
    const batch = this.waiting.splice(0, other < 0 ? this.waiting.length : other);
    this.mark();
    this.keep(() => this.go());
    const values = { ...batch[0], at: batch.map((each) => each.at).join(" "), base: document.getElementById("state").dataset.base };
    htmx.ajax("POST", this.form.getAttribute("hx-post"), { target: "#message", values });
  }

  // The answer to what was laid: 204, or words that wait for her.
  answered(status) {
    if (!this.busy) return;
    // Laid: the next one waits for the sheet that shows it, and its revision.
    this.landed = status === 204;
    if (this.landed) return;
    this.busy = false;
    this.keep(null);
    if (this.waiting.length) this.note = `${this.waiting.length > 1 ? spoken`${this.waiting.length} touches let go.` : spoken`1 touch let go.`} `;
    this.waiting = [];
    this.mark();
  }
}
