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

export function touches(htmx) {
  const svg = document.getElementById("trace");
  if (!svg) return;
  const send = (address, values) => htmx.ajax("POST", address, { target: "#traced", values });
  const takeOut = (shape) => send(document.getElementById("drop-form").getAttribute("hx-post"), { number: shape.dataset.number });
  svg.addEventListener("click", (event) => {
    const shape = event.target.closest(".traced");
    if (shape) { takeOut(shape); return; }
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    send(svg.dataset.touch, { x: at.x, y: at.y, likeness: document.getElementById("likeness").value });
  });
  svg.addEventListener("keydown", (event) => {
    const shape = event.target.closest(".traced");
    if (shape && (event.key === "Enter" || event.key === "Delete")) takeOut(shape);
  });
  document.getElementById("strength").addEventListener("input", (event) => {
    document.getElementById("flat").setAttribute("opacity", event.target.value / 100);
  });
}
