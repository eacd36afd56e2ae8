// The work view: sheet, linework, drawer, panels, profile.
import { dragging, moved } from "./orders.js";
import htmx from "htmx.org";
import { pen, stamp } from "./applique.js";
import { Drawer } from "./drawer.js";
import { Keeping } from "./keeping.js";
import { Laying } from "./laying.js";
import { Lines } from "./lines.js";
import { fetchPacked } from "./packed.js";
import { Sheet } from "./sheet.js";
import { Walk } from "./walk.js";
import { spoken } from "./spoken.js";

// Ways of being alike, as they are read.
const WAYS = {
  "shape and fabric": spoken`shape and fabric`, shape: spoken`shape`, "place in the block": spoken`place in the block`,
  fabric: spoken`fabric`, "kind of patch": spoken`kind of patch`,
};

export function work(place) {
  const lines = new Lines();
  const sheet = new Sheet(chosenChanged, () => lines.paint());
  let walk = null;
  let onProfile = false;
  document.body.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target?.id === "board") onProfile = document.activeElement?.id === "terrain";
  });

  function attach() {
    // Where stages lie in one row that is wider than the screen, hers is to be seen.
    const row = document.querySelector("nav:has([aria-current])");
    const here = row?.querySelector("[aria-current]");
    if (here) row.scrollLeft = here.offsetLeft - row.offsetLeft - (row.clientWidth - here.offsetWidth) / 2;
    sheet.attach(document.getElementById("zones"));
    lines.attach(document.getElementById("lines"), () => sheet.transform());
    loadLines();
    const profile = document.getElementById("profile");
    walk?.hold();
    // A better route comes while she looks at the first: the needle stays where it was.
    const kept = walk && walk.at < walk.total ? walk.at : null;
    lines.walk = walk = null;
    if (profile?.dataset.ready) loadWalk(kept);
    new ResizeObserver(() => { lines.paint(); walk?.terrain(); }).observe(document.getElementById("lines"));
  }

  async function loadLines() {
    try {
      lines.load(await fetchPacked(document.getElementById("lines").dataset.linework));
      lines.tryOut(null);
      place.dataset.drawn = String(Number(place.dataset.drawn ?? 0) + 1);
    } catch { say(spoken`The linework could not be loaded; load the page again.`); }
  }

  async function loadWalk(kept) {
    try {
      walk = new Walk(await fetchPacked(document.getElementById("profile").dataset.steps), () => lines.paint());
      lines.walk = walk;
      const done = document.getElementById("profile").dataset.done;
      if (done) walk.done = Number(done);
      walk.attach(document.getElementById("terrain"));
      walk.dropped = exchange;
      if (kept !== null) walk.seek(kept);
      else if (done) walk.seek(walk.done);
      // Where one looks at first is nowhere she said she was.
      walk.moved = kept !== null;
      if (onProfile) document.getElementById("terrain").focus();
      lines.paint();
      place.dataset.walking = "1";
    } catch { say(spoken`The route could not be loaded; load the page again.`); }
  }

  function chosenChanged(ids) {
    const bar = document.getElementById("bar");
    bar.hidden = !ids.length;
    document.getElementById("chosen-zones").value = ids.join(",");
    document.getElementById("chosen-count").textContent = ids.length === 1
      ? sheet.byId.get(ids[0]).dataset.label : spoken`${ids.length} zones`;
    const by = document.getElementById("alike-by");
    by.replaceChildren(new Option(spoken`all alike by…`, ""));
    if (ids.length) for (const [name, count] of sheet.waysAlike()) by.append(new Option(`${WAYS[name]}: ${count}`, name));
    tellKinds();
  }

  // Kinds of place all of which is chosen.
  function tellKinds() {
    for (const kind of document.querySelectorAll("#places [data-act=show-zones]")) {
      const mine = kind.dataset.zones.split(",").filter((id) => sheet.byId.has(id));
      kind.setAttribute("aria-pressed", String(mine.length > 0 && mine.every((id) => sheet.chosen.has(id))));
    }
  }

  // A panel that was asked for takes the focus, so that keys and readers go on there.
  let asked = false;
  function arrive() {
    const head = document.querySelector("#side h2, #side h3");
    if (!asked || !head) return;
    asked = false;
    head.tabIndex = -1;
    head.focus({ preventScroll: true });
    document.getElementById("side").scrollTop = 0;
  }

  // Single letters may be in the way of who dictates, or types by other means.
  const letters = document.getElementById("letters-off");
  letters.checked = localStorage.getItem("letters-off") === "1";
  letters.addEventListener("change", () => localStorage.setItem("letters-off", letters.checked ? "1" : "0"));
  const lettersOff = () => letters.checked;

  function openPanel(where) {
    keeping.after(() => {
      asked = true;
      laying.leave();
      // Posted, since hundreds of zones are longer than an address may be.
      htmx.ajax("POST", where, { target: "#side", swap: "innerHTML", values: { zones: [...sheet.chosen].join(",") } });
    });
  }

  function drawn(closed, what) {
    const form = document.getElementById("cutter");
    hint(closed ? spoken`Draw the shape on the sheet in one stroke; it closes by itself. With keys: arrows, the space bar for a point, Enter ends.` : spoken`Draw the cut on the sheet from edge to edge. With keys: arrows, the space bar for a point, Enter ends.`);
    sheet.draw(closed, (points) => {
      hint("");
      if (!points.length) return;
      const values = { zones: form.zones.value, base: form.base.value, tool: "line", line: points.map((p) => p.join(",")).join(" ") };
      htmx.ajax("POST", form.getAttribute("hx-post").replace(/cut\/$/, `${what}/`), { target: "#message", values });
    });
  }

  // A guide for the motif in the drawer, tried out as soon as it is drawn.
  function guide() {
    hint(spoken`Draw the guide on the sheet in one stroke. With keys: arrows, the space bar for a point, Enter ends.`);
    sheet.draw(false, (points) => {
      hint("");
      const form = document.getElementById("drawer");
      if (!points.length || !form?.guide) return;
      form.guide.value = points.map((p) => p.join(",")).join(" ");
      drawer.tryOut(form);
    });
  }

  // What the sheet waits for is said beside it, with a button for those who have no Esc key.
  function hint(text) {
    const said = document.getElementById("hint");
    if (!said) return;
    said.hidden = !text;
    said.querySelector("p").textContent = text;
    if (text) said.scrollIntoView({ block: "nearest" });
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
    kept = panelKept("at" in values ? layStamp : null);
    htmx.ajax("POST", by.address, { target: "#message", values: { ...by.values, ...values } });
  }

  // The panel as it stands, with what holds the focus in it.
  function panelKept(again) {
    const side = document.getElementById("side"), held = document.activeElement;
    return { nodes: [...side.childNodes], again, held: side.contains(held) ? held : null };
  }

  const laying = new Laying(sheet, hint, (again) => {
    kept = again && panelKept(again);
  });
  document.body.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.requestConfig.verb === "post") laying.answered(event.detail.xhr.status);
  });

  function layStamp() {
    const shape = document.getElementById("stamp-shape");
    if (!shape) return;
    hint(spoken`Touch the sheet where its middle shall lie, or go there with the arrow keys and press Enter.`);
    stamp(sheet, shape, (at) => { hint(""); if (at) sew({ at: at.join(",") }); });
  }

  function drawWithPen() {
    const choice = () => document.querySelector("#applique [name=pen]:checked")?.value ?? "c";
    const turn = () => { const other = choice() === "c" ? "s" : "c"; const box = document.querySelector(`#applique [name=pen][value=${other}]`); if (box) box.checked = true; };
    hint(spoken`Touch the sheet point by point, and the first one again to close. With keys: arrows, the space bar for a point, Enter closes.`);
    pen(sheet, choice, turn, (nodes) => { hint(""); if (nodes) sew({ nodes: nodes.map((n) => n.join(",")).join(" ") }); });
  }

  // --- the drawer
  const drawer = new Drawer(place, lines, say);
  const keeping = new Keeping(say);
  function openDrawer(values) {
    keeping.after(() => {
      asked = true;
      laying.leave();
      drawer.open(values);
    });
  }

  function closeDrawer() {
    keeping.after(() => {
      document.getElementById("guide-line")?.remove();
      laying.leave();
      kept = null;
      lines.tryOut(null);
      htmx.ajax("GET", document.getElementById("board").getAttribute("hx-get"), { target: "#board", swap: "innerHTML" });
    });
  }

  document.addEventListener("change", (event) => {
    if (event.target.id === "alike-by" && event.target.value) sheet.alike(event.target.value);
    if (event.target.name === "block" && event.target.type === "radio") {
      document.querySelector("[data-block-name]").textContent = event.target.closest("label").title;
      if (event.target.form.id === "laying" && !event.target.form.zones.value) laying.begin();
    }
    if (event.target.id === "c-tool") cutterShows(event.target);
  });
  // What a button with data-act does; `from` is the button.
  const ACTS = {
    alike: () => sheet.alike(),
    several: (from) => { sheet.several = !sheet.several; from.setAttribute("aria-pressed", String(sheet.several)); },
    keys: () => document.getElementById("keys").showModal(),
    take: (from) => drawer.take(from.dataset.design, from.dataset.stroke),
    sift: (from) => drawer.sift(from.dataset.hand),
    "add-zones": (from) => sheet.choose([...sheet.chosen, ...from.dataset.zones.split(",").filter((id) => sheet.byId.has(id))]),
    design: () => openDrawer({ zones: [...sheet.chosen].join(",") }),
    bare: () => sheet.bare(),
    "design-these": (from) => { ACTS["show-zones"](from); ACTS.design(); },
    "show-zones": (from) => sheet.choose(from.dataset.zones.split(",").filter((id) => sheet.byId.has(id))),
    cut: () => openPanel(place.dataset.cutter),
    ontop: () => openPanel(place.dataset.ontop),
    block: () => openPanel(place.dataset.block),
    "lay-blocks": () => openPanel(place.dataset.block),
    applique: () => openPanel(place.dataset.applique),
    place: () => openPanel(place.dataset.place),
    stamp: layStamp,
    lay: () => laying.begin(),
    pen: drawWithPen,
    // Where there are no keys, buttons press them.
    press: (from) => document.dispatchEvent(new KeyboardEvent("keydown", { key: from.dataset.key, bubbles: true })),
    "draw-line": () => drawn(false, "cut"),
    "draw-guide": () => guide(),
    "draw-shape": () => drawn(true, "free"),
    earlier: (from) => moved(from, -1),
    later: (from) => moved(from, 1),
    priced: () => { document.getElementById("order-price").hidden = false; },
    seek: (from) => { walk?.hold(); walk?.seek(Number(from.dataset.at) + 1); },
    part: markPart,
    exchange: () => exchange(walk.at),
    "close-part": () => { walk?.unmark(); partSays(); closeDrawer(); },
    "close-drawer": closeDrawer,
    refresh: () => { say(""); document.body.dispatchEvent(new Event("board-changed")); },
  };
  // A part of the route is marked by the needle, at its beginning and at its end.
  const partSays = () => {
    const said = document.getElementById("mark-part");
    if (said) said.textContent = walk?.part && !walk.part.whole ? spoken`…to here` : spoken`From here…`;
  };
  function markPart() {
    if (!walk) return;
    const part = walk.mark();
    partSays();
    if (part.whole) openPart({});
  }
  function openPart(more) {
    const { from, to } = walk.part;
    htmx.ajax("GET", place.dataset.part, { target: "#side", swap: "innerHTML", values: { from: Math.round(from), to: Math.round(to), ...more } });
  }
  function exchange(at) {
    if (walk?.part?.whole) openPart({ what: "exchange", at: Math.round(at) });
  }
  document.addEventListener("click", (event) => {
    const from = event.target.closest("[data-act]");
    ACTS[from?.dataset.act]?.(from);
    const entry = event.target.closest(".legend-entry");
    if (entry) {
      // What is spoken of is what is chosen: a tool below the sheet is for these zones too.
      sheet.chooseEntry(entry.dataset.entry);
      openDrawer({ entry: entry.dataset.entry });
    }
    if (event.target.closest("#play")) walk?.play(document.getElementById("play"));
  });
  let over = null;
  document.addEventListener("mouseover", (event) => {
    const entry = event.target.closest?.(".legend-entry");
    if (entry !== over) { over = entry; sheet.tell(entry?.dataset.entry); }
  });

  document.addEventListener("keydown", (event) => {
    if (!event.target.closest || event.target.closest("input, select, textarea, dialog") || event.altKey) return;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (way) { sheet.walk(...way); event.preventDefault(); return; }
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && key !== "z") return;
    const zone = document.activeElement?.closest?.(".zone"), some = sheet.chosen.size;
    const press = (id) => () => document.getElementById(id).click();
    const design = some && ACTS.design;
    const acts = {
      " ": zone && (() => sheet.take(zone.dataset.id, event.shiftKey)),
      a: some && ACTS.alike, d: design, enter: zone && design, c: some && ACTS.cut, b: some && ACTS.block, o: some && ACTS.ontop,
      j: some > 1 && (() => document.querySelector('[data-act="join"]').click()),
      u: press("undo"), r: press("redo"), z: press(event.shiftKey ? "redo" : "undo"),
      p: () => walk?.play(document.getElementById("play")), w: () => document.getElementById("ask-why")?.click(), t: () => document.getElementById("mark-part")?.click(), 0: () => sheet.whole(), escape: () => { sheet.choose([]); sheet.back(); },
      "?": () => document.getElementById("keys").showModal(),
    };
    if (!acts[key] || (key.length === 1 && key !== " " && lettersOff())) return;
    acts[key]();
    event.preventDefault();
  });

  // Whatever draws the board anew while blocks are laid leaves their panel open.
  document.body.addEventListener("htmx:beforeSwap", (event) => {
    if (event.target.id === "board" && laying.on && !kept) laying.keep(() => laying.go());
  });
  document.body.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id === "board") {
      attach();
      if (!document.querySelector("#message .border-madder")) say("");
      if (kept) {
        document.getElementById("side").replaceChildren(...kept.nodes);
        htmx.process(document.getElementById("side"));
        for (const field of document.querySelectorAll("#side [name=base]")) field.value = document.getElementById("state").dataset.base;
        const { again, held } = kept;
        kept = null;
        if (held?.isConnected) held.focus({ preventScroll: true });
        again?.();
      }
      keeping.shown();
    }
    if (event.target.id === "side") {
      const form = document.getElementById("drawer");
      if (form) drawer.tryOut(form);
      tellKinds();
      arrive();
    }
  });
  // Where the needle stands along the profile goes with what is told of the work.
  document.body.addEventListener("htmx:configRequest", (event) => {
    if (event.target.closest?.("[data-here]") && walk && (walk.moved || event.target.id === "ask-why")) event.detail.parameters.seconds = String(Math.round(walk.at));
  });
  let away = false;
  document.body.addEventListener("htmx:sendError", () => { away = true; say(spoken`The server does not answer. Nothing saved is lost.`); });
  document.body.addEventListener("htmx:afterOnLoad", () => { if (away) say(""); away = false; });
  document.body.addEventListener("htmx:responseError", () => say(spoken`That did not work. Nothing saved is lost; load the page again.`));

  function say(text) {
    const said = document.getElementById("message");
    said.textContent = "";
    if (!text) return;
    const note = document.createElement("div");
    note.className = "note";
    note.textContent = text;
    said.append(note);
  }

  dragging();
  attach();
}

// The cutting tool says which measures it wants.
function cutterShows(choice) {
  const { measure, first } = choice.selectedOptions[0].dataset;
  document.getElementById("c-measures").hidden = !measure;
  document.getElementById("c-measure-name").textContent = measure;
  document.getElementById("c-measure").value = first;
  const tool = choice.value, where = document.getElementById("c-place");
  document.getElementById("c-inwards-part").hidden = tool !== "corner";
  document.getElementById("c-place-part").hidden = tool !== "corner" && tool !== "beside";
  for (const option of where.options) option.hidden = option.disabled = tool === "beside" && option.value.includes(" ");
  where.value = tool === "beside" ? "top" : where.options[0].value;
}
