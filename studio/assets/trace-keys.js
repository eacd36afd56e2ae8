// Tracing by keys: a cross that arrows move over the photograph, and corners that they drag.
const SVG = "http://www.w3.org/2000/svg";
const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const STEP = 1 / 40, FINE = 1 / 400; // shares of the picture's width

// `doing` knows what a touch does: touched(at), dragged(handle, at), parted(from, to), left(); `waits()` says
// for what it waits, `show()` draws the corners anew.
export function traceKeys(svg, handles, doing) {
  const box = svg.viewBox.baseVal, image = svg.querySelector("image");
  const wide = Number(image.getAttribute("width")), high = Number(image.getAttribute("height"));
  const cross = document.createElementNS(SVG, "path");
  cross.setAttribute("class", "cross");
  cross.setAttribute("visibility", "hidden");
  svg.append(cross);
  const at = { x: wide / 2, y: high / 2 };
  let held = null, from = null;

  const put = () => {
    const size = box.width / 60;
    cross.setAttribute("d", `M${at.x - size},${at.y}h${2 * size}M${at.x},${at.y - size}v${2 * size}`);
  };
  const seen = (yes) => cross.setAttribute("visibility", yes ? "visible" : "hidden");
  // A line that splits begins and ends a little outside.
  const OUT = 0.7;
  const within = (value, most) => Math.min(most + OUT, Math.max(-OUT, value));
  const place = (handle) => handle.tagName === "circle"
    ? { x: Number(handle.getAttribute("cx")), y: Number(handle.getAttribute("cy")) }
    : { x: Number(handle.getAttribute("x")) + Number(handle.getAttribute("width")) / 2,
        y: Number(handle.getAttribute("y")) + Number(handle.getAttribute("height")) / 2 };

  function hold(way) {
    const all = [...handles.querySelectorAll("circle.handle"), ...handles.querySelectorAll("rect.handle")];
    if (!all.length) return false;
    const next = (all.indexOf(held) + way + all.length) % all.length;
    held?.classList.remove("held");
    held = all[held ? next : way > 0 ? 0 : all.length - 1];
    held.classList.add("held");
    Object.assign(at, place(held));
    put();
    return true;
  }

  function move(key, fine) {
    const [right, down] = WAYS[key], step = wide * (fine ? FINE : STEP);
    at.x = within(at.x + right * step, wide);
    at.y = within(at.y + down * step, high);
    put();
    if (held?.tagName === "circle") { held.setAttribute("cx", at.x); held.setAttribute("cy", at.y); }
    else if (held) {
      const side = Number(held.getAttribute("width")) / 2;
      held.setAttribute("x", at.x - side); held.setAttribute("y", at.y - side);
    }
  }

  // What lies under the cross, as a touch there would find it.
  function under() {
    const spot = new DOMPoint(at.x, at.y).matrixTransform(svg.getScreenCTM());
    return document.elementsFromPoint(spot.x, spot.y).find((each) => each.classList.contains("traced")) ?? null;
  }

  function enter() {
    if (held) { const handle = held; held = null; doing.dragged(handle, { ...at }); }
    else if (doing.waits() === "part") {
      if (from) { doing.parted(from, { ...at }); from = null; }
      else from = { ...at };
    } else doing.touched({ ...at }, under());
  }

  svg.addEventListener("focus", () => { put(); seen(true); });
  svg.addEventListener("blur", () => { held?.classList.remove("held"); held = from = null; seen(false); });
  svg.addEventListener("keydown", (event) => {
    if (event.target !== svg || event.ctrlKey || event.metaKey || event.altKey) return;
    if (WAYS[event.key]) move(event.key, event.shiftKey);
    else if (event.key === "Enter" || event.key === " ") enter();
    else if (event.key.toLowerCase() === "c") { if (!hold(event.shiftKey ? -1 : 1)) return; }
    else if (event.key === "Escape") { held = from = null; doing.left(); }
    else return;
    event.preventDefault();
    event.stopPropagation();
  });
  // Corners are drawn anew after each change.
  return { forget: () => { held = null; } };
}
