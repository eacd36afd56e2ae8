import { traceKeys } from "./trace-keys.js";
import { spoken } from "./spoken.js";

// Marking the corners of a top in a photograph, and touching patches on the squared picture.
export function corners() {
  const place = document.getElementById("corner-marks");
  if (!place) return;
  const field = document.getElementById("corners"), polygon = place.querySelector("polygon");
  const marks = [...place.querySelectorAll(".corner-mark")];
  let spots = field.value.split(" ").filter(Boolean).map((pair) => pair.split(",").map(Number));
  if (spots.length !== 4) spots = [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]];
  const show = () => {
    marks.forEach((mark, k) => { mark.style.left = `${spots[k][0] * 100}%`; mark.style.top = `${spots[k][1] * 100}%`; });
    polygon.setAttribute("points", spots.map((s) => s.join(",")).join(" "));
    field.value = spots.map((s) => s.map((v) => v.toFixed(5)).join(",")).join(" ");
  };
  const within = (value) => Math.min(1, Math.max(0, value));
  marks.forEach((mark, k) => {
    mark.addEventListener("pointerdown", (event) => { mark.setPointerCapture(event.pointerId); mark.dragged = true; });
    mark.addEventListener("pointermove", (event) => {
      if (!mark.dragged) return;
      const box = place.querySelector("img").getBoundingClientRect();
      spots[k] = [within((event.clientX - box.left) / box.width), within((event.clientY - box.top) / box.height)];
      show();
    });
    mark.addEventListener("pointerup", () => { mark.dragged = false; });
    mark.addEventListener("keydown", (event) => {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!way) return;
      spots[k] = spots[k].map((v, n) => within(v + way[n] * (event.shiftKey ? 0.01 : 0.001)));
      event.preventDefault();
      show();
    });
  });
  show();
}

const SVG = "http://www.w3.org/2000/svg";

export function touches(htmx) {
  const svg = document.getElementById("trace");
  if (!svg) return;
  const handles = document.getElementById("handles"), mend = document.getElementById("mend");
  const hint = document.getElementById("mend-hint");
  const send = (act, values) => htmx.ajax("POST", svg.dataset.change.replace(/touch\/$/, `${act}/`), { target: "#traced", values });
  const spot = (event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return { x: at.x, y: at.y };
  };
  const pixel = () => 1 / svg.getScreenCTM().a;
  let chosen = null, waits = "", dragged = null;

  const keys = traceKeys(svg, handles, {
    waits: () => waits,
    left: () => choose(waits ? chosen : null),
    dragged: dragTo,
    parted: (from, to) => send("part", { number: chosen, x0: from.x, y0: from.y, x1: to.x, y1: to.y }),
    touched: touch,
  });

  const say = (text) => { hint.textContent = text; hint.hidden = !text; };
  const shape = (number) => svg.querySelector(`.traced[data-number="${number}"]`);

  function choose(number) {
    chosen = shape(number) ? number : null;
    waits = "";
    svg.classList.remove("splitting");
    say("");
    mend.hidden = chosen === null;
    for (const each of svg.querySelectorAll(".traced")) each.classList.toggle("chosen", each.dataset.number === String(chosen));
    show();
  }

  // Round marks on corners, small square ones in the middle of sides.
  function show() {
    handles.replaceChildren();
    keys.forget();
    if (chosen === null) return;
    const ring = shape(chosen).dataset.ring.split(" ").map((pair) => pair.split(",").map(Number));
    const size = (matchMedia("(pointer: coarse)").matches ? 10 : 7) * pixel();
    ring.forEach(([x, y], k) => {
      const next = ring[(k + 1) % ring.length];
      const middle = [(x + next[0]) / 2, (y + next[1]) / 2];
      if (Math.hypot(next[0] - x, next[1] - y) > 5 * size) mark("rect", middle, size * 0.6, { fresh: "1", corner: k });
    });
    ring.forEach((at, k) => mark("circle", at, size, { corner: k }));
  }

  function mark(kind, [x, y], r, data) {
    const made = document.createElementNS(SVG, kind);
    const at = kind === "circle" ? { cx: x, cy: y, r } : { x: x - r, y: y - r, width: 2 * r, height: 2 * r };
    for (const [name, value] of Object.entries(at)) made.setAttribute(name, value);
    made.setAttribute("class", "handle");
    Object.assign(made.dataset, data);
    handles.append(made);
  }

  svg.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest(".handle");
    if (!handle && waits !== "part") return;
    svg.setPointerCapture(event.pointerId);
    dragged = { handle, from: spot(event), line: null };
    if (!handle) {
      dragged.line = document.createElementNS(SVG, "line");
      dragged.line.setAttribute("class", "stroke");
      handles.append(dragged.line);
    }
    event.preventDefault();
  });
  svg.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    const { x, y } = spot(event), { handle, line, from } = dragged;
    if (line) {
      for (const [name, value] of Object.entries({ x1: from.x, y1: from.y, x2: x, y2: y })) line.setAttribute(name, value);
    } else if (handle.tagName === "circle") { handle.setAttribute("cx", x); handle.setAttribute("cy", y); }
    else { const r = handle.getAttribute("width") / 2; handle.setAttribute("x", x - r); handle.setAttribute("y", y - r); }
  });
  svg.addEventListener("pointerup", (event) => {
    if (!dragged) return;
    const { handle, from } = dragged, { x, y } = spot(event), far = Math.hypot(x - from.x, y - from.y) > 3 * pixel();
    dragged = null;
    svg.dataset.swallow = "1";
    setTimeout(() => delete svg.dataset.swallow);
    if (!far) { show(); return; }
    if (handle) dragTo(handle, { x, y });
    else send("part", { number: chosen, x0: from.x, y0: from.y, x1: x, y1: y });
  });
  svg.addEventListener("click", (event) => {
    if (svg.dataset.swallow || event.target.closest(".handle")) return;
    touch(spot(event), event.target.closest(".traced"));
  });

  // A touch at a place, where an outline may have been found already.
  function touch(at, found) {
    if (found && waits === "join") { send("join", { number: chosen, other: found.dataset.number }); return; }
    if (found) { choose(Number(found.dataset.number)); return; }
    if (waits) { choose(chosen); return; }
    choose(null);
    send("touch", { ...at, likeness: document.getElementById("likeness").value });
  }

  function dragTo(handle, { x, y }) {
    send("drag", { number: chosen, corner: handle.dataset.corner, x, y, fresh: handle.dataset.fresh ?? "" });
  }

  document.addEventListener("keydown", (event) => {
    const found = event.target.closest?.(".traced");
    if (found && event.key === "Enter") choose(Number(found.dataset.number));
    else if (event.key === "Delete" && (found || chosen !== null)) send("drop", { number: found?.dataset.number ?? chosen });
    else if (event.key === "Escape") choose(waits ? chosen : null);
  });
  mend.addEventListener("click", (event) => {
    const what = event.target.closest("[data-mend]")?.dataset.mend;
    if (what === "drop") send("drop", { number: chosen });
    else if (what) {
      waits = what;
      svg.classList.toggle("splitting", what === "part");
      say(what === "part" ? spoken`Draw a line across the outline.` : spoken`Touch the outline to join it with.`);
      // By keys one goes on with the cross.
      if (event.detail === 0) svg.focus();
    }
  });
  // After each change the outlines are new; what was mended stays chosen.
  document.body.addEventListener("htmx:afterSettle", (event) => {
    if (event.target.id === "traced") choose(Number(document.getElementById("found-count").dataset.chosen));
  });
  new ResizeObserver(show).observe(svg);
  document.getElementById("strength").addEventListener("input", (event) => {
    document.getElementById("flat").setAttribute("opacity", event.target.value / 100);
  });
}
