// Rows, strips, rings and placed blocks as a list with fields, pictures and buttons. The list writes
// what it says into the text that the form sends, one line for each.
import { spoken } from "./spoken.js";
const LENGTH = String.raw`((?:\d+[\s-]+)?\d+\s*/\s*\d+|\d+(?:[.,]\d+)?)\s*(?:cm|mm|in|yd|"|″)?`;
const KINDS = {
  rows_text: {
    one: spoken`row`, fields: [["height", spoken`high`], ["block", spoken`block`], ["count", spoken`how many`]],
    read: (line) => line.match(new RegExp(`^(${LENGTH})\\s*(.*?)(?:\\s*[x×*]\\s*(\\d+))?$`, "i")),
    values: (found) => [found[1], found[3], found[4] ?? "1"],
    write: ([height, block, count]) => `${height} ${block} x ${count || 1}`,
    // As many as make blocks that are about as wide as high.
    first: (height) => ({ count: String(Math.max(1, Math.round(plain("id_width") / plain("", height)) || 1)) }),
  },
  strips_text: {
    one: spoken`strip`, fields: [["width", spoken`wide`], ["strip", spoken`made of`]],
    read: (line) => line.match(new RegExp(`^(${LENGTH})\\s*(.*)$`)),
    values: (found) => [found[1], found[3] || "a"],
    write: ([width, block]) => `${width} ${block}`,
  },
  rings_text: {
    one: spoken`ring`, fields: [["width", spoken`wide`], ["ring", spoken`made of`], ["unit", spoken`unit`]],
    read: (line) => line.match(new RegExp(`^(${LENGTH})\\s*(plain|squares|triangles)?\\s*(.*)$`, "i")),
    values: (found) => [found[1], (found[3] ?? "plain").toLowerCase(), found[4]],
    write: ([width, kind, unit]) => (kind === "plain" ? `${width} plain` : `${width} ${kind} ${unit}`.trim()),
  },
  placed_text: {
    one: spoken`block`, fields: [["size", spoken`wide`], ["block", spoken`block`], ["x", spoken`from left`], ["y", spoken`from top`]],
    read: (line) => line.match(new RegExp(`^(${LENGTH})\\s*(.*?) at (${LENGTH})\\s*[,;]\\s*(${LENGTH})$`)),
    values: (found) => [found[1], found[3], found[4], found[6]],
    write: ([size, block, x, y]) => `${size} ${block} at ${x}${/,/.test(x + y) ? ";" : ","} ${y}`,
  },
};
const FIRST = { height: "8", width: "3", size: "8", count: "1", unit: "", x: "0", y: "0", strip: "a", ring: "plain" };

const FIRST_CM = { height: "20", width: "8", size: "20" };

// A length written as a plain number, in a field or as it is given; not a number where it is written otherwise.
const plain = (id, value = document.getElementById(id)?.value ?? "") => Number(value.trim().replace(",", ".") || NaN);

export function listed() {
  const known = document.getElementById("pictures");
  if (!known) return;
  const pictures = [...known.content.querySelectorAll("[data-name]")].map((each) => ({ name: each.dataset.name, svg: each.querySelector("svg") }));
  for (const [name, kind] of Object.entries(KINDS)) {
    const text = document.getElementById(`id_${name}`);
    if (text) new RowList(text, kind, pictures, known.dataset.units === "cm" ? { ...FIRST, ...FIRST_CM } : FIRST);
  }
}

class RowList {
  constructor(text, kind, pictures, first) {
    Object.assign(this, { text, kind, pictures, first });
    const lines = text.value.split("\n").map((line) => line.trim()).filter(Boolean);
    const found = lines.map((line) => kind.read(line));
    // What cannot be taken apart stays as it was written, to be put right there.
    if (found.some((each) => !each)) return;
    this.rows = found.map((each) => kind.values(each).map((value) => (value ?? "").trim()));
    this.list = document.createElement("ol");
    this.list.className = "grid gap-1";
    const add = button(spoken`Add a ${kind.one}`, () => { this.rows.push(this.fresh()); this.draw(this.rows.length - 1); this.tell(); });
    text.hidden = true;
    text.after(this.list, add);
    this.draw();
  }

  // The next one is like the last.
  fresh() {
    const last = this.rows[this.rows.length - 1];
    const own = this.kind.first?.(this.first.height) ?? {};
    return last ? [...last] : this.kind.fields.map(([field]) => own[field] ?? this.first[field] ?? (this.pictures.find((each) => each.svg.querySelectorAll("path").length > 1) ?? this.pictures[0]).name);
  }

  tell() {
    this.text.value = this.rows.map(this.kind.write).join("\n");
    this.text.dispatchEvent(new Event("input", { bubbles: true }));
  }

  draw(focus = -1) {
    this.list.replaceChildren(...this.rows.map((row, k) => this.item(row, k)));
    if (focus >= 0) this.list.children[focus]?.querySelector("input")?.focus();
  }

  item(row, k) {
    const item = document.createElement("li");
    item.className = "flex items-end gap-1 border-t border-rule py-1.5";
    const number = document.createElement("span");
    number.className = "w-5 self-center text-soft";
    number.textContent = String(k + 1);
    const picture = document.createElement("span");
    picture.className = "size-9 shrink-0 self-end";
    const show = () => {
      const at = this.kind.fields.findIndex(([field]) => field === "block" || field === "strip");
      const shown = at < 0 ? null : this.pictures.find((each) => each.name.toLowerCase() === row[at].toLowerCase());
      picture.replaceChildren(...(shown ? [shown.svg.cloneNode(true)] : []));
    };
    const fields = this.kind.fields.map(([field, label], at) => this.field(field, `${this.kind.one} ${k + 1}, ${label}`, label, row, at, show));
    show();
    const move = (by) => { this.rows.splice(k + by, 0, ...this.rows.splice(k, 1)); this.draw(); this.tell(); };
    const up = button("↑", () => move(-1), spoken`Move ${this.kind.one} ${k + 1} up`), down = button("↓", () => move(1), spoken`Move ${this.kind.one} ${k + 1} down`);
    up.disabled = k === 0;
    down.disabled = k === this.rows.length - 1;
    const out = button("×", () => { this.rows.splice(k, 1); this.draw(); this.tell(); }, spoken`Take ${this.kind.one} ${k + 1} out`);
    const moves = document.createElement("span");
    moves.className = "flex self-end";
    moves.append(up, down, out);
    item.append(number, picture, ...fields, moves);
    return item;
  }

  field(field, name, label, row, at, show) {
    const part = document.createElement("label");
    part.className = field === "block" || field === "strip" || field === "ring" ? "min-w-0 flex-1" : "w-13";
    const words = document.createElement("span");
    words.className = "block text-xs text-soft whitespace-nowrap";
    words.textContent = label;
    const given = { block: this.pictures.map((each) => each.name), strip: [...["a", "b", "c", "d"].map((f) => [f, spoken`fabric ${f}`]), ...this.pictures.map((each) => each.name)], ring: [["plain", spoken`plain`], ["squares", spoken`squares`], ["triangles", spoken`triangles`]] }[field];
    const input = document.createElement(given ? "select" : "input");
    if (given) for (const each of given) input.append(new Option(...(Array.isArray(each) ? [each[1], each[0]] : [each, each])));
    // Written small or large, it is the same block.
    if (given) input.value = [...input.options].find((option) => option.value.toLowerCase() === row[at].toLowerCase())?.value ?? "";
    else { input.value = row[at]; input.inputMode = "text"; }
    input.className = "field px-1";
    input.setAttribute("aria-label", name);
    input.addEventListener(given ? "change" : "input", (event) => { event.stopPropagation(); row[at] = input.value; show(); this.tell(); });
    part.append(words, input);
    return part;
  }
}

function button(words, act, label = "") {
  const made = document.createElement("button");
  made.type = "button";
  made.className = label ? "button px-1.5 -ml-px" : "button mt-1";
  made.textContent = words;
  if (label) made.setAttribute("aria-label", label);
  made.addEventListener("click", act);
  return made;
}
