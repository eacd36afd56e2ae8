// Motifs: a stroke to be followed slowly, and pads to draw on in one stroke.
import htmx from "htmx.org";
import { spoken } from "./spoken.js";

export function motifs() {
  follow();
  const own = document.getElementById("own");
  if (own) ownPad(own);
  const trial = document.getElementById("try");
  if (trial) trialPad(trial);
}

function follow() {
  const place = document.getElementById("follow");
  if (!place) return;
  const part = (name) => place.querySelector(`[data-follow=${name}]`);
  const line = place.querySelector("[data-stroke]"), needle = place.querySelector("[data-needle]");
  const total = line.getTotalLength(), inches = Number(place.dataset.long);
  const units = [...place.querySelectorAll("[data-share]")], stops = [0, ...units.map((unit) => Number(unit.dataset.share)), 1];
  let at = 1, before = 0, running = 0;
  const show = () => {
    line.setAttribute("stroke-dasharray", `${at * total} ${total * 2}`);
    const { x, y } = line.getPointAtLength(at * total);
    needle.setAttribute("cx", x); needle.setAttribute("cy", y);
    let here = null;
    for (const unit of units) {
      const done = Number(unit.dataset.share) <= at + 1e-4;
      unit.classList.toggle("come", !done);
      if (!done && !here) here = unit;
    }
    part("where").textContent = at >= 1 ? place.dataset.told : here?.dataset.unit ?? "";
  };
  const hold = () => { cancelAnimationFrame(running); running = 0; part("play").textContent = at >= 1 ? spoken`Follow it` : spoken`Go on`; };
  const tick = (now) => {
    at = Math.min(1, at + (now - before) / 60000 * Number(part("speed").value) / inches);
    before = now;
    show();
    if (at >= 1) hold(); else running = requestAnimationFrame(tick);
  };
  const play = () => {
    if (running) { hold(); return; }
    if (at >= 1) at = 0;
    before = performance.now();
    part("play").textContent = spoken`Hold`;
    running = requestAnimationFrame(tick);
  };
  const step = (way) => {
    hold();
    const from = at >= 1 && way > 0 ? 0 : at;
    const next = way > 0 ? stops.find((stop) => stop > from + 1e-4) : stops.findLast((stop) => stop < from - 1e-4);
    at = next ?? (way > 0 ? 1 : 0);
    show();
    part("play").textContent = at >= 1 ? spoken`Follow it` : spoken`Go on`;
  };
  part("play").addEventListener("click", play);
  part("on").addEventListener("click", () => step(1));
  part("back").addEventListener("click", () => step(-1));
  document.addEventListener("keydown", (event) => {
    if (event.target.closest?.("input, select, textarea, button, a, summary")) return;
    const act = { " ": play, ArrowRight: () => step(1), ArrowLeft: () => step(-1) }[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  });
  show();
}

// One stroke on an SVG, in its own units: `done` gets the points when the pen is lifted.
function pad(svg, done) {
  const line = svg.querySelector(".pad-line"), begin = svg.querySelector(".pad-begin");
  let points = [], times = [], began = 0, on = false;
  const spot = (event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return [at.x, at.y];
  };
  const show = () => {
    line.setAttribute("d", points.length ? `M${points.map((p) => p.join(" ")).join("L")}` : "");
    begin.toggleAttribute("hidden", !points.length);
    if (points.length) { begin.setAttribute("cx", points[0][0]); begin.setAttribute("cy", points[0][1]); }
  };
  svg.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    svg.setPointerCapture(event.pointerId);
    points = [spot(event)];
    times = [0];
    began = event.timeStamp;
    on = true;
    show();
  });
  svg.addEventListener("pointermove", (event) => {
    if (!on) return;
    const some = event.getCoalescedEvents?.() ?? [];
    for (const each of some.length ? some : [event]) { points.push(spot(each)); times.push(Math.max(times.at(-1), Math.round(each.timeStamp - began))); }
    show();
  });
  const end = () => { if (!on) return; on = false; done(points, times); };
  svg.addEventListener("pointerup", end);
  svg.addEventListener("pointercancel", end);
  return () => { points = []; show(); done(points); };
}

const written = (points) => points.map((p) => p.map((v) => v.toFixed(3)).join(",")).join(" ");

function ownPad(form) {
  const svg = form.querySelector("#own-pad");
  const look = () => {
    const values = new FormData(form);
    if (!values.get("points") && !values.get("file")?.size) return;
    htmx.ajax("POST", form.dataset.look, { target: "#own-look", source: form, values: Object.fromEntries(values) });
  };
  const clear = pad(svg, (points) => {
    form.points.value = written(points);
    if (points.length) form.querySelector("#own-file").value = "";
    if (points.length > 1) look();
  });
  form.querySelector("[data-pad=clear]").addEventListener("click", clear);
  const kinds = () => {
    const kind = form.querySelector("[name=kind]:checked").value;
    for (const each of svg.querySelectorAll("[data-for]")) each.toggleAttribute("hidden", each.dataset.for !== kind);
  };
  for (const choice of form.querySelectorAll("[name=kind]")) choice.addEventListener("change", () => { kinds(); look(); });
  form.querySelector("#own-file").addEventListener("change", look);
  kinds();
}

function trialPad(form) {
  const clear = pad(form.querySelector("#try-pad"), (points, times = []) => { form.points.value = written(points); form.times.value = times.join(" "); });
  form.querySelector("[data-pad=clear]").addEventListener("click", clear);
  form.querySelector("[data-pad=under]").addEventListener("change", (event) => {
    form.querySelector("[data-under]").toggleAttribute("hidden", !event.target.checked);
  });
}
