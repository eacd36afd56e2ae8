// Puts the work view together: sheet, linework, drawer, profile.
import htmx from "htmx.org";
import { fetchPacked } from "./packed.js";
import { pen, stamp } from "./applique.js";
import { brush } from "./brush.js";
import { Lines } from "./lines.js";
import { Sheet } from "./sheet.js";
import { corners, touches } from "./trace.js";
import { Walk } from "./walk.js";

window.htmx = htmx;
htmx.config.includeIndicatorStyles = false;
htmx.config.allowEval = false;
htmx.config.responseHandling = [
  { code: "204", swap: false },
  { code: "[23]..", swap: true },
  { code: "4(09|22|00)", swap: true, error: false },
  { code: "[45]..", swap: false, error: true },
];

const work = document.getElementById("work");
if (work) start();
document.getElementById("print")?.addEventListener("click", () => window.print());
if (!work) document.body.addEventListener("board-changed", () => location.reload());
guard();
layoutFields();
corners();
touches(htmx);
drawnButtons();

// Keys press what is drawn as a button, as they press buttons.
function drawnButtons() {
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    const drawn = event.target.closest?.('svg [role="button"]');
    if (!drawn) return;
    event.preventDefault();
    drawn.dispatchEvent(new MouseEvent("click", { bubbles: true }));
  });
}

// Each layout shows the fields it needs.
function layoutFields() {
  const choice = document.getElementById("id_layout");
  if (!choice) return;
  const show = () => {
    for (const part of document.querySelectorAll("[data-layouts]")) part.hidden = !part.dataset.layouts.split(" ").includes(choice.value);
  };
  choice.addEventListener("change", show);
  show();
}

// What was typed and not kept is not lost by a slip of the finger.
function guard() {
  const form = document.querySelector("form[data-guard]");
  if (!form) return;
  let dirty = false;
  form.addEventListener("input", () => { dirty = true; });
  form.addEventListener("submit", () => { dirty = false; });
  window.addEventListener("beforeunload", (event) => { if (dirty) event.preventDefault(); });
  form.elements.batting?.addEventListener("change", (event) => {
    document.getElementById("other-batting").hidden = event.target.value !== "other";
  });
}

function start() {
  const lines = new Lines();
  const sheet = new Sheet(chosenChanged, () => lines.paint());
  let walk = null;

  function attach() {
    sheet.attach(document.getElementById("zones"));
    lines.attach(document.getElementById("lines"), () => sheet.transform());
    loadLines();
    const profile = document.getElementById("profile");
    walk?.hold();
    lines.walk = walk = null;
    if (profile?.dataset.ready) loadWalk();
    new ResizeObserver(() => { lines.paint(); walk?.terrain(); }).observe(document.getElementById("lines"));
  }

  async function loadLines() {
    try {
      lines.load(await fetchPacked(work.dataset.linework));
      lines.tryOut(null);
      work.dataset.drawn = String(Number(work.dataset.drawn ?? 0) + 1);
    } catch { say("The linework could not be loaded; load the page again."); }
  }

  async function loadWalk() {
    try {
      walk = new Walk(await fetchPacked(work.dataset.steps), () => lines.paint());
      lines.walk = walk;
      walk.attach(document.getElementById("terrain"));
      lines.paint();
      work.dataset.walking = "1";
    } catch { say("The route could not be loaded; load the page again."); }
  }

  function chosenChanged(ids) {
    const bar = document.getElementById("bar");
    bar.hidden = !ids.length;
    document.getElementById("chosen-zones").value = ids.join(",");
    document.getElementById("chosen-count").textContent = ids.length === 1
      ? sheet.byId.get(ids[0]).getAttribute("aria-label") : `${ids.length} zones`;
    const by = document.getElementById("alike-by");
    by.replaceChildren(new Option("all alike by…", ""));
    if (ids.length) for (const [name, count] of sheet.waysAlike()) by.append(new Option(`${name}: ${count}`, name));
  }

  function openPanel(where) {
    leaveLaying();
    // Posted, since hundreds of zones are longer than an address may be.
    htmx.ajax("POST", where, { target: "#side", swap: "innerHTML", values: { zones: [...sheet.chosen].join(",") } });
  }

  function drawn(closed, what) {
    const form = document.getElementById("cutter");
    hint(closed ? "Draw the shape on the sheet in one stroke; it closes by itself." : "Draw the cut on the sheet from edge to edge.");
    sheet.draw(closed, (points) => {
      hint("");
      if (!points.length) return;
      const values = { zones: form.zones.value, base: form.base.value, tool: "line", line: points.map((p) => p.join(",")).join(" ") };
      htmx.ajax("POST", form.getAttribute("hx-post").replace(/cut\/$/, `${what}/`), { target: "#message", values });
    });
  }

  // What the sheet waits for is said beside it, with a button for those who have no Esc key.
  function hint(text) {
    const place = document.getElementById("hint");
    if (!place) return;
    place.hidden = !text;
    place.querySelector("p").textContent = text;
    if (text) place.scrollIntoView({ block: "nearest" });
  }

  // --- blocks and appliqué
  // The panel stays open for the next one, though the board round it is drawn anew.
  let kept = null;
  function laidBy() {
    const form = document.querySelector("#side [data-lays]");
    return form && { address: form.getAttribute("hx-post"), values: Object.fromEntries(new FormData(form)) };
  }
  function sew(values) {
    const by = laidBy();
    if (!by) return;
    kept = { nodes: [...document.getElementById("side").childNodes], again: "at" in values ? layStamp : null };
    htmx.ajax("POST", by.address, { target: "#message", values: { ...by.values, ...values } });
  }

  // Touches are laid one after the other, each on the revision that the last one made.
  let laying = null;
  function layBlocks() { if (!laying) layOn(); }
  // Begins laying, and goes on with it on a sheet that was drawn anew.
  function layOn() {
    if (!laidBy()) return;
    laying?.end();
    laying = { waiting: laying?.waiting ?? [], busy: false };
    laying.end = brush(sheet, (spots) => { laying.waiting.push({ ...laidBy().values, base: "", at: spots.map((s) => s.join(",")).join(" ") }); layNext(); },
      () => { laying = null; kept = null; layingSaid(); });
    layingSaid();
    layNext();
  }
  function layingSaid() {
    hint(laying ? "Touch a block on the sheet, or draw over several." : "");
    const place = document.getElementById("hint");
    if (place) place.dataset.waiting = String(laying ? laying.waiting.length + Number(laying.busy) : 0);
  }
  function layNext() {
    layingSaid();
    if (laying.busy || !laying.waiting.length) return;
    laying.busy = true;
    layingSaid();
    kept = { nodes: [...document.getElementById("side").childNodes], again: layOn };
    const next = laying.waiting.shift(), { at, ...rest } = next;
    // What waits to be laid alike is laid at once.
    const alike = laying.waiting.findIndex(({ at: _, ...other }) => JSON.stringify(other) !== JSON.stringify(rest));
    const more = laying.waiting.splice(0, alike < 0 ? laying.waiting.length : alike);
    const values = { ...rest, at: [at, ...more.map((each) => each.at)].join(" "), base: document.getElementById("state").dataset.base };
    htmx.ajax("POST", laidBy().address, { target: "#message", values });
  }
  function leaveLaying() {
    laying?.end();
    laying = null;
    layingSaid();
  }
  document.body.addEventListener("htmx:afterRequest", (event) => {
    // What is answered with words waits for her; what she touched meanwhile is let go.
    if (laying?.busy && event.detail.xhr.status !== 204 && event.detail.requestConfig.verb === "post") laying = Object.assign(laying, { busy: false, waiting: [] });
  });

  function layStamp() {
    const shape = document.getElementById("stamp-shape");
    if (!shape) return;
    hint("Touch the sheet where its middle shall lie.");
    stamp(sheet, shape, (at) => { hint(""); if (at) sew({ at: at.join(",") }); });
  }

  function drawWithPen() {
    const choice = () => document.querySelector("#applique [name=pen]:checked")?.value ?? "c";
    const turn = () => { const other = choice() === "c" ? "s" : "c"; const box = document.querySelector(`#applique [name=pen][value=${other}]`); if (box) box.checked = true; };
    hint("Touch the sheet point by point, and the first one again to close.");
    pen(sheet, choice, turn, (nodes) => { hint(""); if (nodes) sew({ nodes: nodes.map((n) => n.join(",")).join(" ") }); });
  }

  // --- the drawer
  function openDrawer(values) {
    htmx.ajax("POST", work.dataset.drawer, { target: "#side", swap: "innerHTML", values });
  }

  function closeDrawer() {
    leaveLaying();
    kept = null;
    lines.tryOut(null);
    htmx.ajax("GET", boardAddress(), { target: "#board", swap: "innerHTML" });
  }

  function boardAddress() { return document.getElementById("board").getAttribute("hx-get"); }

  let asked = 0;
  async function tryOut(form) {
    const turn = ++asked;
    try {
      const began = performance.now();
      const packed = await fetchPacked(work.dataset.preview, {
        method: "POST", body: new FormData(form), headers: { "X-CSRFToken": token() },
      });
      if (turn !== asked) return;
      lines.tryOut(packed, form.entry.value || "");
      work.dataset.tried = String(Math.round(performance.now() - began));
    } catch (error) {
      if (turn !== asked || !error.answer) return;
      const fault = new DOMParser().parseFromString(await error.answer.text(), "text/html").querySelector("[data-field]");
      const place = form.querySelector(`[data-fault="${fault?.dataset.field}"]`);
      if (place) place.textContent = fault.textContent; else say(fault?.textContent ?? "That cannot be drawn.");
    }
  }

  let pause = 0;
  document.addEventListener("input", (event) => {
    const form = event.target.closest("#drawer");
    if (!form || event.target.dataset.act === "switch") return;
    // At once, so that no button moves under a finger that is already on its way.
    for (const place of form.querySelectorAll("[data-fault]")) place.textContent = "";
    asked += 1;
    clearTimeout(pause);
    pause = setTimeout(() => tryOut(form), 60);
  });
  document.addEventListener("change", (event) => {
    if (event.target.id === "alike-by" && event.target.value) sheet.alike(event.target.value);
    if (event.target.name === "block" && event.target.type === "radio") {
      document.querySelector("[data-block-name]").textContent = event.target.closest("label").title;
      if (event.target.form.id === "laying" && !event.target.form.zones.value) layBlocks();
    }
    if (event.target.id === "c-tool") {
      const { measure, first } = event.target.selectedOptions[0].dataset;
      document.getElementById("c-measures").hidden = !measure;
      document.getElementById("c-measure-name").textContent = measure;
      document.getElementById("c-measure").value = first;
      const tool = event.target.value, place = document.getElementById("c-place");
      document.getElementById("c-inwards-part").hidden = tool !== "corner";
      document.getElementById("c-place-part").hidden = tool !== "corner" && tool !== "beside";
      for (const option of place.options) option.hidden = option.disabled = tool === "beside" && option.value.includes(" ");
      place.value = tool === "beside" ? "top" : place.options[0].value;
    }
    if (event.target.dataset.act !== "switch") return;
    const form = event.target.form;
    openDrawer({ zones: form.zones.value, entry: form.entry.value, design: event.target.value });
  });
  // Up and down step a length by its own step, as a ruler's lines do.
  document.addEventListener("keydown", (event) => {
    const field = event.target.closest?.("#drawer input[data-step]");
    if (!field || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
    const step = Number(field.dataset.step) || 1, sign = event.key === "ArrowUp" ? 1 : -1;
    const now = readNumber(field.value);
    if (Number.isNaN(now)) return;
    const next = Math.min(Number(field.dataset.high), Math.max(Number(field.dataset.low), now + sign * step));
    field.value = String(Math.round(next * 10000) / 10000);
    field.dispatchEvent(new Event("input", { bubbles: true }));
    event.preventDefault();
  });

  document.addEventListener("click", (event) => {
    const act = event.target.closest("[data-act]")?.dataset.act;
    if (act === "alike") sheet.alike();
    else if (act === "design") openDrawer({ zones: [...sheet.chosen].join(",") });
    else if (act === "bare") sheet.bare();
    else if (act === "show-zones") sheet.choose(event.target.closest("[data-zones]").dataset.zones.split(",").filter((id) => sheet.byId.has(id)));
    else if (act === "cut") openPanel(work.dataset.cutter);
    else if (act === "block" || act === "lay-blocks") openPanel(work.dataset.block);
    else if (act === "applique") openPanel(work.dataset.applique);
    else if (act === "place") openPanel(work.dataset.place);
    else if (act === "stamp") layStamp();
    else if (act === "lay") layBlocks();
    else if (act === "pen") drawWithPen();
    // Where there are no keys, buttons press them.
    else if (act === "press") document.dispatchEvent(new KeyboardEvent("keydown", { key: event.target.dataset.key, bubbles: true }));
    else if (act === "draw-line") drawn(false, "cut");
    else if (act === "draw-shape") drawn(true, "free");
    else if (act === "close-drawer") closeDrawer();
    else if (act === "refresh") { say(""); document.body.dispatchEvent(new Event("board-changed")); }
    const entry = event.target.closest(".legend-entry");
    if (entry) openDrawer({ entry: entry.dataset.entry });
    if (event.target.closest("#play")) walk?.play(document.getElementById("play"));
  });
  document.addEventListener("mouseover", (event) => {
    const entry = event.target.closest?.(".legend-entry");
    if (entry !== tryOut.over) { tryOut.over = entry; sheet.tell(entry?.dataset.entry); }
  });

  document.addEventListener("keydown", (event) => {
    if (!event.target.closest || event.target.closest("input, select, textarea, dialog") || event.altKey) return;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (way) { sheet.walk(...way); event.preventDefault(); return; }
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && key !== "z") return;
    const zone = document.activeElement?.closest?.(".zone");
    if (event.key === " " && zone) {
      if (event.shiftKey) sheet.toggle(zone.dataset.id); else sheet.choose([zone.dataset.id]);
    } else if (key === "a" && sheet.chosen.size) sheet.alike();
    else if ((key === "d" || (event.key === "Enter" && zone)) && sheet.chosen.size) openDrawer({ zones: [...sheet.chosen].join(",") });
    else if (key === "c" && sheet.chosen.size) openPanel(work.dataset.cutter);
    else if (key === "b" && sheet.chosen.size) openPanel(work.dataset.block);
    else if (key === "j" && sheet.chosen.size > 1) document.querySelector('[data-act="join"]').click();
    else if (key === "u" || (key === "z" && !event.shiftKey)) document.getElementById("undo").click();
    else if (key === "r" || key === "z") document.getElementById("redo").click();
    else if (key === "p") walk?.play(document.getElementById("play"));
    else if (key === "0") sheet.whole();
    else if (event.key === "Escape") sheet.choose([]);
    else if (event.key === "?") document.getElementById("keys").showModal();
    else return;
    event.preventDefault();
  });

  document.body.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id === "board") {
      attach();
      if (!document.querySelector("#message .border-madder")) say("");
      if (kept) {
        document.getElementById("side").replaceChildren(...kept.nodes);
        htmx.process(document.getElementById("side"));
        for (const field of document.querySelectorAll("#side [name=base]")) field.value = document.getElementById("state").dataset.base;
        const { again } = kept;
        kept = null;
        again?.();
      }
    }
    if (event.target.id === "side") {
      const form = document.getElementById("drawer");
      if (form) tryOut(form);
    }
  });
  document.body.addEventListener("htmx:sendError", () => say("The server does not answer. Nothing saved is lost."));
  document.body.addEventListener("htmx:responseError", () => say("That did not work. Nothing saved is lost; load the page again."));

  function say(text) {
    const place = document.getElementById("message");
    place.textContent = "";
    if (!text) return;
    const note = document.createElement("div");
    note.className = "note";
    note.textContent = text;
    place.append(note);
  }

  attach();
}

function token() { return JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"]; }

function readNumber(text) {
  const parts = text.trim().match(/^(\d+(?:\.\d+)?)?(?:[\s-]*(\d+)\/(\d+))?$/);
  if (!parts || (!parts[1] && !parts[2])) return Number.NaN;
  return Number(parts[1] ?? 0) + (parts[2] ? Number(parts[2]) / Number(parts[3]) : 0);
}
