// Draws linework on the canvas above the sheet, thinned to the zoom.
const LINK = 1, DITCH = 3;
const THIN_BELOW = 16; // pixels an inch under which close points are left out
const THIN = 0.07;

export class Lines {
  constructor() {
    this.groups = [];
    this.extra = null; // linework being tried in the drawer
    this.hidden = null; // entry it stands in for
    this.walk = null; // the needle's walk, when a route is shown
  }

  load({ header, points }) {
    this.groups = toPaths(header, points);
  }

  tryOut(packed, entry) {
    this.extra = packed && toPaths(packed.header, packed.points);
    this.hidden = packed ? entry : null;
    this.paint();
  }

  attach(canvas, transform) {
    this.canvas = canvas;
    this.transform = transform; // () => {k, x, y} from inches to canvas pixels
  }

  paint() {
    if (!this.canvas || this.waiting) return;
    this.waiting = requestAnimationFrame(() => { this.waiting = 0; this.#draw(); });
  }

  #draw() {
    const { canvas } = this;
    if (!canvas.isConnected) return;
    const ratio = window.devicePixelRatio || 1;
    const width = Math.round(canvas.clientWidth * ratio), height = Math.round(canvas.clientHeight * ratio);
    if (canvas.width !== width || canvas.height !== height) { canvas.width = width; canvas.height = height; }
    const pen = canvas.getContext("2d");
    pen.setTransform(1, 0, 0, 1, 0, 0);
    pen.clearRect(0, 0, width, height);
    const { k, x, y } = this.transform();
    const scale = k * ratio;
    pen.setTransform(scale, 0, 0, scale, x * ratio, y * ratio);
    pen.lineJoin = pen.lineCap = "round";
    const coarse = k < THIN_BELOW;
    if (this.walk) { this.walk.draw(pen, k); return; }
    for (const group of this.groups) {
      if (group.entry === this.hidden) continue;
      this.#stroke(pen, group, k, coarse, this.hidden === null ? 1 : 0.35);
    }
    for (const group of this.extra ?? []) this.#stroke(pen, group, k, coarse, 1);
  }

  #stroke(pen, group, k, coarse, strength) {
    // About as wide as thread lies, but never too fine to see.
    const thread = Math.max(0.028, 0.95 / k);
    pen.globalAlpha = strength * (group.kind === LINK ? 0.55 : 1);
    pen.strokeStyle = group.colour;
    pen.lineWidth = group.kind === DITCH ? thread * 0.8 : thread;
    pen.setLineDash(group.kind === DITCH ? [3 / k, 2.4 / k] : []);
    pen.stroke(coarse ? group.thin : group.full);
    pen.setLineDash([]);
    pen.globalAlpha = 1;
  }
}

function toPaths(header, points) {
  let at = 0;
  return header.map((group) => {
    const full = new Path2D(), thin = new Path2D();
    for (const count of group.lines) {
      addLine(full, points, at, count, 0);
      addLine(thin, points, at, count, THIN);
      at += 2 * count;
    }
    return { ...group, full, thin };
  });
}

export function addLine(path, points, at, count, closer) {
  let lastX = points[at], lastY = points[at + 1];
  path.moveTo(lastX, lastY);
  for (let i = 1; i < count; i++) {
    const x = points[at + 2 * i], y = points[at + 2 * i + 1];
    if (closer && i < count - 1 && Math.abs(x - lastX) + Math.abs(y - lastY) < closer) continue;
    path.lineTo(x, y);
    lastX = x; lastY = y;
  }
}
