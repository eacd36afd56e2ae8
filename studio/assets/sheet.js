// The sheet: choosing zones by hand and by keys, zoom and drag.
import { select } from "d3-selection";
import { zoom, zoomIdentity } from "d3-zoom";
import { keyed } from "./keyed.js";

// Ways in which zones are alike.
const KINDS = {
  "shape and fabric": (zone) => `${zone.class}/${zone.fabric}`,
  shape: (zone) => zone.class,
  "place in the block": (zone) => zone.cell || zone.class,
  fabric: (zone) => zone.fabric,
  "kind of patch": (zone) => zone.role,
};

export class Sheet {
  constructor(changed, moved) {
    this.changed = changed;
    this.moved = moved;
    this.chosen = new Set();
    this.state = zoomIdentity;
  }

  attach(svg) {
    this.svg = svg;
    this.view = svg.querySelector("#view");
    this.zones = [...svg.querySelectorAll(".zone")];
    this.byId = new Map(this.zones.map((zone) => [zone.dataset.id, zone]));
    this.chosen = new Set([...this.chosen].filter((id) => this.byId.has(id)));
    const box = svg.viewBox.baseVal;
    this.zoom = zoom()
      .scaleExtent([1, 24])
      .extent([[box.x, box.y], [box.x + box.width, box.y + box.height]])
      .translateExtent([[box.x, box.y], [box.x + box.width, box.y + box.height]])
      .filter((event) => !this.drawing && !event.ctrlKey && !event.button)
      .on("zoom", ({ transform }) => {
        this.state = transform;
        this.view.setAttribute("transform", transform);
        this.moved();
      });
    const area = select(svg);
    area.call(this.zoom).on("dblclick.zoom", null);
    area.call(this.zoom.transform, this.state);
    svg.addEventListener("click", (event) => this.#click(event));
    svg.addEventListener("focusin", (event) => { if (event.target.classList?.contains("zone")) this.#here(event.target); });
    this.zones[0]?.setAttribute("tabindex", "0");
    this.#show();
  }

  whole() { select(this.svg).call(this.zoom.transform, zoomIdentity); }

  // Inches to canvas pixels, the sheet's own zoom included.
  transform() {
    const matrix = this.svg.getScreenCTM(), box = this.svg.getBoundingClientRect();
    const { k, x, y } = this.state;
    return { k: matrix.a * k, x: matrix.a * x + matrix.e - box.left, y: matrix.d * y + matrix.f - box.top };
  }

  #click(event) {
    if (this.drawing) return;
    const zone = event.target.closest(".zone");
    if (!zone) { if (!event.shiftKey) this.choose([]); return; }
    this.focus(zone);
    this.take(zone.dataset.id, event.shiftKey || event.ctrlKey || event.metaKey);
  }

  // One zone, or one more where several are taken: with shift, or by touch once that was said.
  take(id, more) {
    if (more || this.several) this.toggle(id);
    else this.choose([id]);
  }

  // Back to the zone one was at.
  back() { this.svg.querySelector(".zone.here")?.focus({ preventScroll: true }); }

  focus(zone) {
    for (const each of this.svg.querySelectorAll('.zone[tabindex="0"]')) each.setAttribute("tabindex", "-1");
    zone.setAttribute("tabindex", "0");
    zone.focus({ preventScroll: true });
    this.#here(zone);
  }

  #here(zone) {
    this.svg.querySelector(".zone.here")?.classList.remove("here");
    zone.classList.add("here");
  }

  toggle(id) {
    if (!this.chosen.delete(id)) this.chosen.add(id);
    this.#show();
  }

  choose(ids) {
    this.chosen = new Set(ids);
    this.#show();
  }

  chooseEntry(entry) {
    this.choose(this.zones.filter((zone) => zone.dataset.entry === entry).map((zone) => zone.dataset.id));
  }

  alike(by = "shape and fabric") {
    this.choose(this.#alike(by).map((zone) => zone.dataset.id));
  }

  // How many zones each way of being alike would choose.
  waysAlike() { return Object.keys(KINDS).map((by) => [by, this.#alike(by).length]); }

  #alike(by) {
    const kind = KINDS[by];
    const kinds = new Set([...this.chosen].map((id) => kind(this.byId.get(id).dataset)));
    return this.zones.filter((zone) => kinds.has(kind(zone.dataset)));
  }

  // One stroke drawn on the sheet, in inches; `done` gets its points, or none when it was let go.
  draw(closed, done) {
    const stroke = document.createElementNS("http://www.w3.org/2000/svg", closed ? "polygon" : "polyline");
    stroke.setAttribute("class", "stroke");
    this.view.append(stroke);
    let points = null;
    const end = (made) => { stop(); stroke.remove(); done(made); };
    const stop = this.hold({
      pointerdown: (event) => { points = [this.spot(event)]; if (event.pointerId) this.svg.setPointerCapture(event.pointerId); event.preventDefault(); },
      pointermove: (event) => {
        if (!points) return;
        const next = this.spot(event), last = points[points.length - 1];
        if (Math.hypot(next[0] - last[0], next[1] - last[1]) <= 0.12) return;
        points.push(next);
        stroke.setAttribute("points", points.map((p) => p.join(",")).join(" "));
      },
      pointerup: (event) => { if (points) { points.push(this.spot(event)); end(points.length > 1 ? points : []); } },
      keydown: (event) => { if (event.key === "Escape") { event.stopPropagation(); end([]); } },
    }, () => stroke.remove(), true);
  }

  // Where the pointer is, in inches of the top.
  spot(event) {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.view.getScreenCTM().inverse());
    return [Math.round(at.x * 1000) / 1000, Math.round(at.y * 1000) / 1000];
  }

  // Listens on the sheet until `end` is called; clicks choose no zones meanwhile. What is `draws` is drawn in strokes.
  hold(listen, dropped = () => {}, draws = false) {
    // One hand at a time: who held it before lets go.
    this.drop?.();
    this.drawing = true;
    this.svg.classList.add("drawing");
    const { svg } = this, off = new AbortController();
    this.holder = off;
    this.drop = () => { off.abort(); dropped(); };
    for (const [name, act] of Object.entries(listen)) {
      if (name === "keydown") document.addEventListener(name, act, { capture: true, signal: off.signal });
      else svg.addEventListener(name, act, { signal: off.signal });
    }
    keyed(this, off.signal, draws);
    return () => {
      off.abort();
      if (this.holder === off) this.drop = null;
      svg.classList.remove("drawing");
      // The click that ends it comes a moment later; who has taken hold since keeps it.
      setTimeout(() => { if (this.holder === off) this.drawing = false; });
    };
  }

  bare() {
    const free = this.zones.filter((zone) => !zone.dataset.entry && !zone.classList.contains("forbidden"));
    this.choose(free.map((zone) => zone.dataset.id));
  }

  tell(entry) {
    for (const zone of this.zones) zone.classList.toggle("told", Boolean(entry) && zone.dataset.entry === entry);
  }

  #show() {
    for (const zone of this.zones) {
      const on = this.chosen.has(zone.dataset.id);
      zone.classList.toggle("chosen", on);
      zone.setAttribute("aria-selected", String(on));
    }
    // Chosen outlines lie on top of their neighbours.
    const had = document.activeElement;
    for (const id of this.chosen) this.view.append(this.byId.get(id));
    // What is moved in the page loses the focus; who goes by keys is still there.
    if (had?.classList?.contains("zone") && document.activeElement !== had) had.focus({ preventScroll: true });
    this.changed([...this.chosen]);
  }

  walk(dx, dy) {
    const here = document.activeElement?.closest?.(".zone") ?? this.zones[0];
    const x = +here.dataset.x, y = +here.dataset.y;
    let best = null, least = Infinity;
    for (const zone of this.zones) {
      const ax = +zone.dataset.x - x, ay = +zone.dataset.y - y;
      const ahead = ax * dx + ay * dy, aside = Math.abs(ax * dy) + Math.abs(ay * dx);
      if (ahead < 0.2) continue;
      const cost = ahead + 2.5 * aside;
      if (cost < least) { least = cost; best = zone; }
    }
    if (best) this.focus(best);
  }
}
