// The route unrolled in time: the profile below, the needle on the sheet.
import { addLine } from "./lines.js";
import { spoken } from "./spoken.js";

const TRAVEL = 1, TIE = 3, THREAD = 4, BOBBIN = 5, RULER = 7, ROLL = 8, SECURE = 10, MOVE = 14;
const SPEED = 240; // seconds of work shown in a second of play

export class Walk {
  constructor({ header, points }, repaint) {
    this.repaint = repaint;
    this.points = points;
    this.threads = header.threads;
    this.labels = header.labels;
    this.steps = [];
    let time = 0, at = 0;
    // How far the stitching reaches across: the veil over what is out of reach lies on the top alone.
    let left = Infinity, right = -Infinity;
    for (let k = 0; k < points.length; k += 2) { left = Math.min(left, points[k]); right = Math.max(right, points[k]); }
    this.across = [left - 0.13, right + 0.13];
    this.passes = new Map(header.passes.map(([number, top, bottom]) => [number, { top, bottom }]));
    for (const [code, thread, label, seconds, height, count, hidden, reach] of header.steps) {
      const step = { code, thread, label, from: time, seconds, height, count, hidden, reach, at };
      time += seconds;
      at += 2 * count;
      if (count > 1) {
        step.path = new Path2D();
        addLine(step.path, points, step.at, count, 0.015);
      }
      this.steps.push(step);
    }
    // Where basting is taken out, and when.
    this.outs = (header.outs ?? []).map(([number, path]) => ({ from: this.steps[number].from, path: new Path2D(path) }));
    // Laying the ruler belongs to the lines it is laid for.
    for (let k = this.steps.length - 2; k >= 0; k--) {
      if (this.steps[k].code === RULER) this.steps[k].height = this.steps[k + 1].height || this.steps[k + 2]?.height || 0;
    }
    this.total = time || 1;
    this.tallest = Math.max(1, ...this.steps.map((s) => s.height));
    this.at = this.total;
  }

  // --- on the sheet
  #window(pen, k) {
    // What is rolled up or not yet reached lies under a veil; the edges of the pass are ruled.
    const here = this.passes.get(this.steps[this.stepAt(this.at)]?.reach);
    if (!here || this.passes.size < 2 || this.at >= this.total) return;
    const [left, right] = this.across, wide = right - left, all = [...this.passes.values()];
    const first = Math.min(...all.map((p) => p.top)), last = Math.max(...all.map((p) => p.bottom));
    pen.save();
    pen.fillStyle = "#efe8d8";
    pen.globalAlpha = 0.62;
    pen.fillRect(left, first, wide, here.top - first);
    pen.fillRect(left, here.bottom, wide, last - here.bottom);
    pen.globalAlpha = 1;
    pen.strokeStyle = "#1e2b3c";
    pen.lineWidth = 1.2 / k;
    pen.setLineDash([7 / k, 4 / k]);
    pen.beginPath();
    for (const y of [here.top, here.bottom]) { pen.moveTo(left - 2, y); pen.lineTo(right + 2, y); }
    pen.stroke();
    pen.restore();
  }

  draw(pen, k) {
    const width = Math.max(0.03, 1 / k);
    const spot = this.needle();
    for (const step of this.steps) {
      if (!step.path || (step.code === SECURE && step.hidden)) continue;
      const done = step.from + step.seconds <= this.at;
      const now = !done && step.from <= this.at;
      pen.globalAlpha = done || now ? 1 : 0.16;
      if (step.code === TRAVEL) {
        if (!done && !now) continue;
        pen.strokeStyle = step.hidden ? "#2e7566" : "#a63a2b";
        pen.lineWidth = width * 1.15;
        pen.setLineDash([4 / k, 3 / k]);
        pen.globalAlpha = 0.75;
      } else {
        pen.strokeStyle = step.code === SECURE ? "#b9822b" : this.threads[step.thread]?.colour ?? "#1e2b3c";
        pen.lineWidth = width;
        pen.setLineDash(step.code === SECURE ? [2 / k, 5 / k] : []);
      }
      if (now) pen.stroke(this.#sofar(step, spot));
      else pen.stroke(step.path);
    }
    this.#basting(pen, k, width, spot);
    pen.setLineDash([]);
    pen.globalAlpha = 1;
    this.#window(pen, k);
    if (spot && this.at < this.total) {
      pen.fillStyle = "#a63a2b";
      pen.strokeStyle = "#fbf7ec";
      pen.lineWidth = 2 / k;
      pen.beginPath();
      pen.arc(spot.x, spot.y, 6.5 / k, 0, 2 * Math.PI);
      pen.fill();
      pen.stroke();
    }
  }

  #sofar(step, spot) {
    const part = new Path2D();
    addLine(part, this.points, step.at, Math.max(2, spot.index + 1), 0);
    part.lineTo(spot.x, spot.y);
    return part;
  }

  // Lines that hold the layers, as far as they are in and not out again.
  #basting(pen, k, width, spot) {
    pen.save();
    for (const out of this.outs) {
      if (out.from > this.at) break;
      const rest = new Path2D();
      rest.rect(-1e4, -1e4, 2e4, 2e4);
      rest.addPath(out.path);
      pen.clip(rest, "evenodd");
    }
    pen.strokeStyle = "#b9822b";
    pen.lineWidth = width;
    pen.setLineDash([2 / k, 5 / k]);
    for (const step of this.steps) {
      if (!step.path || step.code !== SECURE || !step.hidden) continue;
      const done = step.from + step.seconds <= this.at, now = !done && step.from <= this.at;
      pen.globalAlpha = done || now ? 1 : 0.16;
      pen.stroke(now ? this.#sofar(step, spot) : step.path);
    }
    pen.restore();
  }

  stepAt(time) {
    let low = 0, high = this.steps.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.steps[middle].from <= time) low = middle; else high = middle - 1;
    }
    return low;
  }

  needle() {
    let k = this.stepAt(this.at);
    const step = this.steps[k];
    if (step.count > 1) return this.#along(step, (this.at - step.from) / (step.seconds || 1));
    while (k >= 0 && !this.steps[k].count) k--;
    if (k < 0) return null;
    const before = this.steps[k], i = before.at + 2 * (before.count - 1);
    return { x: this.points[i], y: this.points[i + 1], index: before.count - 1 };
  }

  #along(step, share) {
    const p = this.points;
    let whole = 0;
    const legs = [];
    for (let i = 1; i < step.count; i++) {
      const a = step.at + 2 * (i - 1);
      const leg = Math.hypot(p[a + 2] - p[a], p[a + 3] - p[a + 1]);
      legs.push(leg);
      whole += leg;
    }
    let rest = Math.min(1, Math.max(0, share)) * whole;
    for (let i = 0; i < legs.length; i++) {
      if (rest <= legs[i] || i === legs.length - 1) {
        const a = step.at + 2 * i, t = legs[i] ? Math.min(1, rest / legs[i]) : 0;
        return { x: p[a] + t * (p[a + 2] - p[a]), y: p[a + 1] + t * (p[a + 3] - p[a + 1]), index: i };
      }
      rest -= legs[i];
    }
    return { x: p[step.at], y: p[step.at + 1], index: 0 };
  }

  // --- the profile
  attach(canvas) {
    this.canvas = canvas;
    const under = (event) => {
      const { left, width } = canvas.getBoundingClientRect();
      return ((event.clientX - left - EDGE) / (width - 2 * EDGE)) * this.total;
    };
    let began = 0;
    canvas.addEventListener("pointerdown", (event) => {
      this.hold();
      canvas.setPointerCapture(event.pointerId);
      const at = under(event);
      // A part that is marked is taken by the hand; anywhere else the needle is.
      this.taken = this.part?.whole && at > this.part.from && at < this.part.to ? at : null;
      began = event.clientX;
      if (this.taken === null) this.seek(at);
    });
    canvas.addEventListener("pointermove", (event) => {
      if (!event.buttons) return;
      if (this.taken === null) this.seek(under(event));
      else { this.carried = under(event) - this.taken; this.terrain(); }
    });
    canvas.addEventListener("pointerup", (event) => {
      if (this.taken === null) return;
      const at = under(event), far = Math.abs(event.clientX - began) > 8;
      this.taken = null;
      this.carried = 0;
      this.seek(at);
      if (far) this.dropped?.(this.at);
    });
    canvas.addEventListener("keydown", (event) => {
      const pace = { ArrowRight: 30, ArrowLeft: -30, PageUp: 600, PageDown: -600 }[event.key];
      if (pace) this.seek(this.at + pace);
      else if (event.key === "Home") this.seek(0);
      else if (event.key === "End") this.seek(this.total);
      else return;
      event.preventDefault();
      event.stopPropagation();
    });
    this.terrain();
  }

  seek(time) {
    this.at = Math.min(this.total, Math.max(0, time));
    this.moved = true;
    this.repaint();
    this.terrain();
  }

  // A part of the route: from here, to here.
  mark() {
    if (!this.part || this.part.whole) this.part = { from: this.at, to: this.at };
    else if (this.part.from !== this.at) this.part = { from: Math.min(this.part.from, this.at), to: Math.max(this.part.from, this.at), whole: true };
    this.terrain();
    return this.part;
  }

  unmark() {
    this.part = null;
    this.terrain();
  }

  play(button) {
    if (this.timer) return this.hold();
    if (this.at >= this.total) this.at = 0;
    let last = performance.now();
    this.button = button;
    this.#label("Hold");
    const tick = (now) => {
      this.seek(this.at + ((now - last) / 1000) * SPEED);
      last = now;
      if (this.at >= this.total) this.hold();
      else this.timer = requestAnimationFrame(tick);
    };
    this.timer = requestAnimationFrame(tick);
  }

  hold() {
    cancelAnimationFrame(this.timer);
    this.timer = 0;
    this.#label("Play");
  }

  #label(word) {
    const [sign, text] = this.button?.children ?? [];
    if (text) { text.textContent = word; sign.textContent = word === "Play" ? "▶" : "❙❙"; }
  }

  terrain() {
    const { canvas } = this;
    if (!canvas?.isConnected) return;
    const ratio = window.devicePixelRatio || 1, width = canvas.clientWidth, height = canvas.clientHeight;
    canvas.width = width * ratio;
    canvas.height = height * ratio;
    const pen = canvas.getContext("2d");
    const style = getComputedStyle(document.documentElement);
    const colour = (name) => style.getPropertyValue(`--color-${name}`).trim();
    pen.scale(ratio, ratio);
    const base = height - 40, top = 24, room = width - 2 * EDGE;
    const across = (time) => EDGE + (time / this.total) * room;
    const tall = (h) => Math.sqrt(h / this.tallest) * (base - top);
    // One bar for each pixel or so: the mean height of what is stitched in that time.
    const bins = Math.max(1, Math.floor(room / 3));
    if (this.part) {
      const whole = this.part.whole, from = across(Math.min(this.part.from, whole ? Infinity : this.at));
      const to = across(whole ? this.part.to : Math.max(this.part.from, this.at));
      const aside = ((this.carried || 0) / this.total) * room;
      pen.fillStyle = colour("ochre");
      pen.globalAlpha = 0.22;
      pen.fillRect(from + aside, top - 6, Math.max(2, to - from), base - top + 6);
      pen.globalAlpha = 1;
      pen.fillRect(from + aside, top - 6, 2, base - top + 6);
      if (whole) pen.fillRect(to + aside - 2, top - 6, 2, base - top + 6);
    }
    const sums = new Float64Array(bins), weights = new Float64Array(bins), threads = new Int16Array(bins);
    for (const step of this.steps) {
      if ((step.code > TRAVEL && step.code !== RULER) || !step.seconds) continue;
      const first = Math.floor((step.from / this.total) * bins);
      const last = Math.min(bins - 1, Math.floor(((step.from + step.seconds) / this.total) * bins));
      for (let b = first; b <= last; b++) {
        const lo = Math.max(step.from, (b / bins) * this.total);
        const hi = Math.min(step.from + step.seconds, ((b + 1) / bins) * this.total);
        sums[b] += Math.max(0, hi - lo) * step.height;
        weights[b] += Math.max(0, hi - lo);
        threads[b] = step.thread;
      }
    }
    for (let b = 0; b < bins; b++) {
      if (!weights[b]) continue;
      const h = Math.max(2, tall(sums[b] / weights[b]));
      pen.fillStyle = this.threads[threads[b]]?.colour ?? "#1e2b3c";
      pen.globalAlpha = ((b + 0.5) / bins) * this.total <= this.at ? 0.92 : 0.38;
      pen.fillRect(EDGE + (b / bins) * room, base - h, room / bins - 0.6, h);
    }
    pen.globalAlpha = 1;
    pen.strokeStyle = colour("ink");
    pen.beginPath();
    pen.moveTo(EDGE, base + 0.5);
    pen.lineTo(width - EDGE, base + 0.5);
    pen.stroke();
    if (this.done) {
      // What is behind her.
      pen.fillStyle = colour("verdigris");
      pen.fillRect(EDGE, base + 1, across(this.done) - EDGE, 4);
    }
    pen.font = "13px Commissioner, sans-serif";
    let named = -Infinity;
    for (const step of this.steps) {
      const x = across(step.from);
      if (step.code === TIE) {
        pen.strokeStyle = colour("madder");
        pen.beginPath();
        pen.moveTo(x, base + 1);
        pen.lineTo(x, base + 8);
        pen.stroke();
      } else if (step.code === ROLL) {
        // A roll: a short bar across the line, as of the roller.
        pen.fillStyle = colour("verdigris");
        pen.fillRect(x - 1.5, base + 1, 3, 11);
      } else if (step.code === MOVE) {
        // The quilt goes to the other machine: a line through all of the profile.
        pen.fillStyle = colour("ink");
        pen.fillRect(x - 1, 0, 2, base + 12);
        pen.fillText(this.labels[step.label], x + 7, 13);
      } else if (step.code === BOBBIN) {
        pen.fillStyle = colour("ochre");
        pen.beginPath();
        pen.moveTo(x, base + 4);
        pen.lineTo(x + 5, base + 12);
        pen.lineTo(x - 5, base + 12);
        pen.fill();
      } else if (step.code === THREAD) {
        pen.fillStyle = colour("soft");
        const name = this.threads[step.thread]?.name ?? "";
        const wide = pen.measureText(name).width, from = Math.min(x, width - EDGE - wide);
        // A name that would run into the last one is left out: its colour says the same.
        if (from > named + 8) {
          pen.fillText(name, from, height - 8);
          named = from + wide;
        }
      }
    }
    const x = across(this.at), here = this.steps[this.stepAt(this.at)];
    pen.strokeStyle = pen.fillStyle = colour("madder");
    pen.lineWidth = 2;
    pen.beginPath();
    pen.moveTo(x, top - 10);
    pen.lineTo(x, base + 14);
    pen.stroke();
    pen.beginPath();
    pen.arc(x, top - 11, 4, 0, 2 * Math.PI);
    pen.fill();
    const minutes = Math.floor(this.at / 60);
    const words = [spoken`${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")}`, this.labels[here.label]];
    const text = words.filter(Boolean).join(" · ");
    const wide = pen.measureText(text).width;
    pen.fillText(text, x + 10 + wide > width - EDGE ? x - 10 - wide : x + 10, top - 7);
    canvas.setAttribute("aria-valuenow", String(minutes));
    canvas.setAttribute("aria-valuetext", text);
  }
}

const EDGE = 12;
