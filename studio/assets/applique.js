// Shapes on the sheet: a stamp that follows the pointer, and a pen of straight and smooth segments.
const SVG = "http://www.w3.org/2000/svg";

// The shape follows the pointer and is laid where the sheet is touched; `done` gets the place or none.
export function stamp(sheet, shape, done) {
  const ghost = shape.cloneNode();
  ghost.removeAttribute("id");
  ghost.setAttribute("class", "laying");
  ghost.style.visibility = "hidden";
  sheet.view.append(ghost);
  const end = (at) => { stop(); ghost.remove(); done(at); };
  const follow = (event) => {
    ghost.style.visibility = "";
    ghost.setAttribute("transform", `translate(${sheet.spot(event).join(" ")})`);
  };
  const stop = sheet.hold({
    pointermove: follow,
    pointerdown: (event) => { event.preventDefault(); follow(event); },
    pointerup: (event) => end(sheet.spot(event)),
    keydown: (event) => { if (event.key === "Escape") { event.stopPropagation(); end(null); } },
  }, () => ghost.remove());
}

// Nodes one by one; `kind` says whether the next is a corner or smooth, `turn` changes it.
export function pen(sheet, kind, turn, done) {
  const line = document.createElementNS(SVG, "path"), marks = document.createElementNS(SVG, "g");
  line.setAttribute("class", "stroke");
  sheet.view.append(line, marks);
  const nodes = [];
  let over = null;
  const near = () => 9 / sheet.transform().k;
  const show = () => {
    line.setAttribute("d", nodes.length ? outline(over ? [...nodes, [...over, kind()]] : nodes) : "");
    marks.replaceChildren(...nodes.map(([x, y, smooth], k) => {
      const mark = document.createElementNS(SVG, smooth === "s" ? "circle" : "rect"), r = near() * (k ? 0.45 : 0.7);
      mark.setAttribute("class", "pen-node");
      const at = smooth === "s" ? { cx: x, cy: y, r } : { x: x - r, y: y - r, width: 2 * r, height: 2 * r };
      for (const [name, value] of Object.entries(at)) mark.setAttribute(name, value);
      return mark;
    }));
  };
  const end = (made) => { stop(); line.remove(); marks.remove(); done(made); };
  const stop = sheet.hold({
    pointermove: (event) => { over = sheet.spot(event); show(); },
    pointerdown: (event) => event.preventDefault(),
    pointerup: (event) => {
      const at = sheet.spot(event);
      const closes = nodes.length > 2 && Math.hypot(at[0] - nodes[0][0], at[1] - nodes[0][1]) < near() * 1.6;
      if (closes) { end(nodes); return; }
      nodes.push([...at, kind()]);
      over = null;
      show();
    },
    keydown: (event) => {
      const key = event.key.toLowerCase();
      if (key === "escape") end(null);
      else if (key === "enter" && nodes.length > 2) end(nodes);
      else if (key === "backspace") { nodes.pop(); show(); }
      else if (key === "s") { turn(); show(); }
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
  }, () => { line.remove(); marks.remove(); });
}

// The closed outline through the nodes, as the core draws it: straight between corners, else smooth.
export function outline(nodes) {
  const count = nodes.length, at = (k) => nodes[(k + count) % count];
  const heading = (k) => {
    const way = [0, 1].map((i) => at(k + 1)[i] - at(k - 1)[i]), long = Math.hypot(...way) || 1;
    return way.map((each) => each / long);
  };
  let d = `M${nodes[0][0]} ${nodes[0][1]}`;
  for (let k = 0; k < count; k++) {
    const a = at(k), b = at(k + 1);
    if (a[2] !== "s" && b[2] !== "s") { d += `L${b[0]} ${b[1]}`; continue; }
    // Handles are a third of the side they belong to.
    const third = Math.hypot(b[0] - a[0], b[1] - a[1]) / 3;
    const handle = (node, n) => (node[2] === "s" ? heading(n).map((each) => each * third) : [0, 0]);
    const out = handle(a, k), back = handle(b, k + 1);
    d += `C${a[0] + out[0]} ${a[1] + out[1]} ${b[0] - back[0]} ${b[1] - back[1]} ${b[0]} ${b[1]}`;
  }
  return d + "Z";
}
