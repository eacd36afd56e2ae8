// One leg of the route, large: what is done in verdigris, what is done now in madder, what comes dashed and numbered.
const AT_THE_RULER = 0.3; // inches from the line within which it lies there
const TRAVEL = 1, START = 2, SECURE = 10;
const SPEAKS = "600 17px Commissioner, sans-serif";

export class LegSheet {
  constructor(canvas, data, { header, points }) {
    Object.assign(this, { canvas, data, points });
    const before = header.steps.length - data.legs.reduce((most, leg) => Math.max(most, leg.stop), 0);
    let at = 0;
    this.steps = header.steps.map(([code, thread, , seconds, , count, hidden]) => {
      const step = { code, thread, seconds, hidden, at, count };
      at += 2 * count;
      return step;
    });
    this.before = this.steps.slice(0, before);
    this.outs = (header.outs ?? []).map(([number, path]) => [number - before, new Path2D(path)]);
    this.legs = data.legs.map((leg) => this.steps.slice(before + leg.first, before + leg.stop));
    this.lines = this.legs.map((steps) => this.#line(steps));
    this.patches = data.patches.map(([path, colour]) => [new Path2D(path), colour]);
    this.still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  }

  // Everything a leg moves through as one line, with the seconds at each point.
  #line(steps) {
    const spots = [], p = this.points;
    let time = 0;
    for (const step of steps) {
      let whole = 0;
      for (let k = 1; k < step.count; k++) whole += Math.hypot(p[step.at + 2 * k] - p[step.at + 2 * k - 2], p[step.at + 2 * k + 1] - p[step.at + 2 * k - 1]);
      let gone = 0;
      for (let k = 0; k < step.count; k++) {
        const i = step.at + 2 * k;
        if (k) gone += Math.hypot(p[i] - p[i - 2], p[i + 1] - p[i - 1]);
        // After a cut one is somewhere else: nothing leads there.
        spots.push({ x: p[i], y: p[i + 1], time: time + (whole ? gone / whole : 0) * step.seconds, travel: step.code === TRAVEL, jump: step.code === START || (step.code === SECURE && k === 0) });
      }
      time += step.seconds;
    }
    return spots;
  }

  // Basting is drawn as far as no leg took it out.
  #withoutWhatIsOut(pen, ratio, k, left, top) {
    pen.setTransform(ratio * k, 0, 0, ratio * k, ratio * left, ratio * top);
    for (const [step, path] of this.outs) {
      const leg = this.data.legs.find((each) => each.first <= step && step < each.stop);
      if (!leg || !"xo".includes(this.stands[leg.n])) continue;
      const rest = new Path2D();
      rest.rect(-1e4, -1e4, 2e4, 2e4);
      rest.addPath(path);
      pen.clip(rest, "evenodd");
    }
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  }

  show(number, stands, whole) {
    Object.assign(this, { number, stands, whole });
    this.began = performance.now();
    cancelAnimationFrame(this.frame);
    this.paint();
    if (!this.still && (this.lines[number] ?? []).length > 1) this.frame = requestAnimationFrame(() => this.#tick());
  }

  #tick() {
    if (document.visibilityState === "visible") this.paint();
    if ((performance.now() - this.began) / 1000 < this.data.legs[this.number]?.seconds) this.frame = requestAnimationFrame(() => this.#tick());
  }

  paint() {
    const { canvas, data } = this, leg = data.legs[Math.min(this.number, data.legs.length - 1)];
    const ratio = devicePixelRatio || 1, wide = canvas.clientWidth, tall = canvas.clientHeight;
    if (!wide || !tall || !leg) return;
    canvas.width = wide * ratio;
    canvas.height = tall * ratio;
    const pen = canvas.getContext("2d"), style = getComputedStyle(document.documentElement);
    const colour = (name) => style.getPropertyValue(`--color-${name}`).trim();
    let [x0, y0, x1, y1] = leg.box;
    if (this.whole) for (const each of data.legs) if (each.reach === leg.reach) { x0 = Math.min(x0, each.box[0]); y0 = Math.min(y0, each.box[1]); x1 = Math.max(x1, each.box[2]); y1 = Math.max(y1, each.box[3]); }
    const room = 34, k = Math.min((wide - 2 * room) / Math.max(x1 - x0, 0.5), (tall - 2 * room) / Math.max(y1 - y0, 0.5));
    const left = wide / 2 - (k * (x0 + x1)) / 2, top = tall / 2 - (k * (y0 + y1)) / 2;
    const dx = (x) => left + k * x, dy = (y) => top + k * y;
    const near = (box) => box[0] < x1 + room / k && box[2] > x0 - room / k && box[1] < y1 + room / k && box[3] > y0 - room / k;
    pen.setTransform(ratio * k, 0, 0, ratio * k, ratio * left, ratio * top);
    for (const [path, fabric] of this.patches) {
      pen.fillStyle = fabric;
      pen.fill(path);
      pen.strokeStyle = colour("rule");
      pen.lineWidth = 1.2 / k;
      pen.stroke(path);
    }
    // Dyed cloth must not hide the stitching: it is seen through a veil.
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.fillStyle = colour("sheet");
    pen.globalAlpha = 0.5;
    pen.fillRect(0, 0, wide, tall);
    pen.globalAlpha = 1;
    pen.lineCap = pen.lineJoin = "round";
    const trace = (spots, to = Infinity, ways = null) => {
      pen.beginPath();
      let last = null;
      for (const spot of spots) {
        if (spot.jump || (ways !== null && spot.travel !== ways)) { last = ways === null || spot.jump ? null : spot; if (last) pen.moveTo(dx(spot.x), dy(spot.y)); if (spot.jump) { last = spot; pen.moveTo(dx(spot.x), dy(spot.y)); } continue; }
        if (spot.time > to) {
          if (last && spot.time > last.time) {
            const share = (to - last.time) / (spot.time - last.time);
            pen.lineTo(dx(last.x + share * (spot.x - last.x)), dy(last.y + share * (spot.y - last.y)));
          }
          break;
        }
        if (last) pen.lineTo(dx(spot.x), dy(spot.y)); else pen.moveTo(dx(spot.x), dy(spot.y));
        last = spot;
      }
      pen.stroke();
    };
    const line = (width, name, dash = []) => { pen.lineWidth = width; pen.strokeStyle = colour(name); pen.setLineDash(dash); };
    line(2.5, "verdigris");
    for (const step of this.before) trace(this.#line([step]));
    for (const each of data.legs) if (each.n !== leg.n && near(each.box) && "xo".includes(this.stands[each.n])) {
      if (each.kind === "secure") {
        line(1.5, "verdigris", [2, 6]);
        for (const step of this.legs[each.n]) {
          pen.save();
          if (step.hidden) this.#withoutWhatIsOut(pen, ratio, k, left, top);
          trace(this.#line([step]));
          pen.restore();
        }
        continue;
      }
      line(3, "verdigris");
      trace(this.lines[each.n], Infinity, false);
      line(1.2, "verdigris", [3, 4]);
      trace(this.lines[each.n], Infinity, true);
    }
    const coming = data.legs.filter((each) => each.n > leg.n && this.stands[each.n] === "." && each.station === leg.station && each.reach === leg.reach && each.thread === leg.thread && this.lines[each.n].length > 1).slice(0, 12);
    line(1.6, "soft", [5, 5]);
    for (const each of coming) trace(this.lines[each.n]);
    this.#ruler(pen, leg, dx, dy, k, colour);
    let needle = null;
    const spots = this.lines[leg.n], finished = this.number >= data.legs.length;
    if (spots.length > 1 && !finished) {
      line(2.2, "ink", [7, 5]);
      trace(spots);
      const gone = this.still ? Infinity : Math.min((performance.now() - this.began) / 1000, leg.seconds);
      line(4.5, "madder");
      trace(spots, this.still ? Infinity : gone);
      pen.setLineDash([]);
      this.#arrows(pen, spots, dx, dy, colour);
      needle = this.still ? spots[0] : spotAt(spots, gone);
    }
    pen.setLineDash([]);
    coming.forEach((each, number) => this.#number(pen, dx(this.lines[each.n][0].x), dy(this.lines[each.n][0].y), number + 2, colour));
    if (needle) {
      pen.fillStyle = colour("madder");
      pen.strokeStyle = colour("sheet");
      pen.lineWidth = 3;
      pen.beginPath();
      pen.arc(dx(needle.x), dy(needle.y), 11, 0, 2 * Math.PI);
      pen.fill();
      pen.stroke();
    }
  }

  // Which way it goes, told without colour as well: heads along the line.
  #arrows(pen, spots, dx, dy, colour) {
    let gone = 0, next = 46;
    pen.fillStyle = colour("madder");
    for (let i = 1; i < spots.length; i++) {
      const ax = dx(spots[i - 1].x), ay = dy(spots[i - 1].y), bx = dx(spots[i].x), by = dy(spots[i].y), long = Math.hypot(bx - ax, by - ay);
      while (long && gone + long >= next) {
        const t = (next - gone) / long, x = ax + t * (bx - ax), y = ay + t * (by - ay), ux = (bx - ax) / long, uy = (by - ay) / long;
        pen.beginPath();
        pen.moveTo(x + 8 * ux, y + 8 * uy);
        pen.lineTo(x - 5 * ux - 6 * uy, y - 5 * uy + 6 * ux);
        pen.lineTo(x - 5 * ux + 6 * uy, y - 5 * uy - 6 * ux);
        pen.fill();
        next += 150;
      }
      gone += long;
    }
  }

  #ruler(pen, leg, dx, dy, k, colour) {
    if (!leg.rulers.length) return;
    const spots = this.lines[leg.n], gone = this.still ? 0 : Math.min((performance.now() - this.began) / 1000, leg.seconds);
    const at = spotAt(spots, gone);
    let best = null, least = Infinity;
    for (const [edge, line] of leg.rulers) {
      const far = apart(line, at.x, at.y);
      if (far < least - 1e-6) { least = far; best = [edge, line]; }
    }
    if (least > AT_THE_RULER) return;
    const [edge, line] = best, mean = (list, from) => { let sum = 0; for (let i = from; i < list.length; i += 2) sum += list[i]; return sum / (list.length / 2); };
    let ax = mean(edge, 0) - mean(line, 0), ay = mean(edge, 1) - mean(line, 1);
    const far = Math.hypot(ax, ay) || 1, broad = 1.6;
    ax = (ax / far) * broad;
    ay = (ay / far) * broad;
    pen.setLineDash([]);
    pen.beginPath();
    for (let i = 0; i < edge.length; i += 2) pen.lineTo(dx(edge[i]), dy(edge[i + 1]));
    for (let i = edge.length - 2; i >= 0; i -= 2) pen.lineTo(dx(edge[i] + ax), dy(edge[i + 1] + ay));
    pen.closePath();
    pen.fillStyle = colour("ochre");
    pen.globalAlpha = 0.24;
    pen.fill();
    pen.globalAlpha = 1;
    pen.strokeStyle = colour("ochre-deep");
    pen.lineWidth = 1.6;
    pen.stroke();
  }

  #number(pen, x, y, number, colour) {
    pen.beginPath();
    pen.arc(x, y, 14, 0, 2 * Math.PI);
    pen.fillStyle = colour("sheet");
    pen.fill();
    pen.strokeStyle = colour("ink");
    pen.lineWidth = 2;
    pen.stroke();
    pen.fillStyle = colour("ink");
    pen.font = SPEAKS;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.fillText(String(number), x, y + 1);
  }
}

function spotAt(spots, time) {
  let i = 1;
  while (i < spots.length - 1 && spots[i].time < time) i++;
  const a = spots[i - 1], b = spots[i] ?? a, share = b.time > a.time ? Math.min(1, Math.max(0, (time - a.time) / (b.time - a.time))) : 1;
  return { x: a.x + share * (b.x - a.x), y: a.y + share * (b.y - a.y) };
}

function apart(line, x, y) {
  let least = Infinity;
  for (let i = 2; i < line.length; i += 2) {
    const ax = line[i - 2], ay = line[i - 1], bx = line[i] - ax, by = line[i + 1] - ay, all = bx * bx + by * by;
    const t = all ? Math.min(1, Math.max(0, ((x - ax) * bx + (y - ay) * by) / all)) : 0;
    least = Math.min(least, Math.hypot(x - ax - t * bx, y - ay - t * by));
  }
  return least;
}
