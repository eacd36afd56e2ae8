// At the machine: the plan is followed leg by leg, with gloves on, with or without a line to the server.
import htmx from "htmx.org";
import { LegSheet } from "./legsheet.js";
import { fetchPacked } from "./packed.js";
import { Taps } from "./taps.js";
import { LANGUAGE, spoken } from "./spoken.js";

const REST_AFTER = 50 * 60, IDLE = 60000, MOST_PLACES = 40;
const MADE = { done: "x", other: "o", skip: "s", back: ".", rip: "." };
const STOPS = { thread: spoken`thread`, bobbin: spoken`bobbin`, roll: spoken`rolling`, move: spoken`the other machine` };
const MODES = { regulated: spoken`regulated`, constant: spoken`constant` };
const byId = (id) => document.getElementById(`s-${id}`);

export function stitch(place) {
  let data = null, sheet = null, stands = [], at = 0, taps = null, fresh = true, worked = 0, lock = null;
  const paces = [], looked = new Set(), key = `stitch-${place.dataset.job}`;
  const options = { checks: true, ...JSON.parse(localStorage.getItem("stitch-options") ?? "{}") };

  async function load() {
    const answer = await fetch(place.dataset.plan, { credentials: "same-origin" });
    if (!answer.ok) throw new Error(String(answer.status));
    const [found, steps] = await Promise.all([answer.json(), fetchPacked(place.dataset.steps)]);
    data = found;
    sheet = new LegSheet(byId("sheet"), data, steps);
    stands = [...data.stands];
    // Without a line the plan is as it was loaded last; what was done since is known here.
    const known = JSON.parse(localStorage.getItem(`${key}-stands`) ?? "null");
    if (answer.headers.get("X-Kept") && known?.plan === data.plan) stands = [...known.stands];
    if (taps) for (const tap of await taps.waiting()) apply(tap);
    go(first());
  }

  const apply = ({ plan, leg, kind }) => { if (plan === data.plan && MADE[kind] && leg < stands.length) stands[leg] = MADE[kind]; };
  const first = () => {
    const open = stands.indexOf(".");
    if (open >= 0) return open;
    const later = stands.indexOf("s");
    return later >= 0 ? later : stands.length;
  };
  const next = (from) => {
    const open = stands.indexOf(".", from + 1);
    return open >= 0 ? open : first();
  };

  function go(leg) {
    at = leg;
    show();
    remember();
    const here = data.legs[at];
    // What is said of this very quilt comes with the first list.
    const list = here ? [...(looked.size ? [] : data.first), ...here.check] : [];
    if (list.length && options.checks && !looked.has(`${data.plan}/${at}`)) check(spoken`Before you go on`, list);
    else if (worked > REST_AFTER && here && (here.starts || STOPS[here.kind])) byId("rest").showModal();
    if (options.speak && here) say(here);
  }

  function check(title, list) {
    looked.add(`${data.plan}/${at}`);
    byId("check-title").textContent = title;
    byId("check-list").replaceChildren(...list.map((text) => Object.assign(document.createElement("li"), { textContent: text, className: "border-t border-rule py-2" })));
    byId("check").showModal();
  }

  // --- what is shown
  function show() {
    const { legs } = data, leg = legs[at], done = at >= legs.length;
    sheet.show(at, stands, options.all);
    place.dataset.at = String(at);
    byId("title").textContent = done ? spoken`All is stitched` : leg.title;
    byId("detail").textContent = done ? "" : leg.detail;
    // The two things that come next; what comes several times in a row is one of them.
    const coming = [];
    for (const { n, title } of legs) {
      if (n <= at || stands[n] !== ".") continue;
      if (coming.at(-1)?.title === title) coming.at(-1).times += 1;
      else if (coming.length === 2) break;
      else coming.push({ title, times: 1 });
    }
    byId("then").replaceChildren();
    if (coming.length) {
      const word = document.createElement("i");
      word.className = "font-serif text-soft";
      word.textContent = `${spoken`then`} `;
      byId("then").append(word, coming.map(({ title, times }) => (times > 1 ? `${title} × ${times}` : title)).join(" · "));
    }
    if (done) {
      byId("where").textContent = spoken`${legs.length} of ${legs.length}`;
      byId("next").textContent = byId("until").textContent = "";
      if (options.checks && !looked.has("last")) { looked.add("last"); check(spoken`At the end`, data.last); }
      return;
    }
    byId("where").textContent = where(leg);
    const ahead = legs.filter((each) => each.n >= at && stands[each.n] === ".");
    const stop = ahead.findIndex((each, k) => k > 0 && STOPS[each.kind]);
    const until = ahead.slice(0, stop < 0 ? ahead.length : stop).reduce((sum, each) => sum + each.seconds, 0) * pace();
    byId("next").textContent = minutes(until);
    byId("until").textContent = stop < 0 ? spoken`to the end` : spoken`to the next stop: ${STOPS[ahead[stop].kind]}`;
    thread(leg);
    places();
  }

  function where(leg) {
    const told = [];
    if (leg.on) told.push(leg.on);
    else if (data.passes > 1) told.push(spoken`pass ${leg.reach} of ${data.passes}`);
    if (leg.path && leg.path !== "seams") {
      const there = visits().filter((each) => each.path === leg.path);
      const number = there.findIndex((each) => at >= each.from && at <= each.to) + 1;
      told.push(spoken`path ${leg.path}, ${data.paths[leg.path] ?? ""}`);
      if (number && there.length > 1) told.push(spoken`${number} of ${there.length}`);
    }
    if (leg.place && !leg.title.includes(leg.place)) told.push(leg.place);
    return told.join(" · ") || spoken`${at + 1} of ${data.legs.length}`;
  }

  // Places gone through one after the other, for paths and the strip.
  function visits() {
    const found = [];
    for (const leg of data.legs) {
      if (leg.kind !== "ditch" && leg.kind !== "fill") continue;
      const last = found.at(-1);
      if (last && last.station === leg.station && last.path === leg.path && last.reach === leg.reach && last.thread === leg.thread && last.kind === leg.kind) last.to = leg.n;
      else found.push({ station: leg.station, path: leg.path, reach: leg.reach, thread: leg.thread, kind: leg.kind, from: leg.n, to: leg.n });
    }
    return found;
  }

  function places() {
    const all = visits(), mine = all.findIndex((each) => at >= each.from && at <= each.to);
    const like = mine >= 0 ? all[mine] : all.find((each) => each.from > at);
    const part = like ? all.filter((each) => each.reach === like.reach && each.thread === like.thread && each.kind === like.kind) : [];
    const here = Math.max(0, part.indexOf(like) - Math.floor(MOST_PLACES / 2));
    byId("places").replaceChildren(...part.slice(here, here + MOST_PLACES).map((each) => {
      const item = document.createElement("li");
      const some = stands.slice(each.from, each.to + 1);
      item.className = "place";
      item.dataset.is = at >= each.from && at <= each.to ? "now" : some.every((s) => s === "x" || s === "o") ? "done" : "";
      item.textContent = each.path === "seams" ? "—" : each.path || "·";
      item.title = data.stations[each.station] ?? "";
      return item;
    }));
  }

  function thread(leg) {
    const mine = data.threads[leg.thread] ?? { name: "", colour: "#1e2b3c" };
    byId("thread").textContent = mine.name;
    byId("colour").style.background = mine.colour;
    byId("colour").hidden = !mine.name;
    byId("set").textContent = [setting(leg), leg.starts ? spoken`bobbin thread on top first` : ""].filter(Boolean).join(" · ");
    // Below lies the same thread as on top: with another thread the last bobbin is put aside, with what is left on it.
    let [left, full] = data.bobbin, threaded = data.threaded;
    let aside = { ...data.aside };
    for (const each of data.legs) {
      const gone = stands[each.n] === "x" || stands[each.n] === "o";
      if (each.n === data.fresh) left = full;
      if (each.n >= at) break;
      if (each.kind === "bobbin") left = full;
      else if (gone && each.kind === "move") {
        // The other machine has bobbins of its own.
        left = full = data.away_bobbin;
        threaded = "";
        aside = {};
      } else if (gone && each.kind === "thread" && each.thread !== threaded) {
        if (threaded) aside[threaded] = left;
        left = aside[each.thread] ?? (threaded ? full : left);
        threaded = each.thread;
      } else if (gone) left -= each.took;
    }
    const share = Math.max(0, Math.min(1, left / full));
    byId("bobbin").style.width = `${Math.round(100 * share)}%`;
    byId("bobbin-box").setAttribute("aria-label", spoken`Left on the bobbin: ${Math.round(100 * share)} of 100`);
    const waiting = new Map();
    for (const each of data.legs) if (each.n > at && each.kind === "fill" && each.reach === leg.reach && each.thread !== leg.thread && stands[each.n] === ".") waiting.set(each.thread, (waiting.get(each.thread) ?? new Set()).add(each.station));
    byId("parked").textContent = [...waiting].map(([name, there]) => there.size === 1 ? spoken`1 place waits for ${data.threads[name]?.name ?? name}` : spoken`${there.size} places wait for ${data.threads[name]?.name ?? name}`).join("; ");
    clock();
  }

  // How it was set last for this thread and kind of work, here or on an earlier quilt.
  const usual = (leg) => data.usual?.[`${leg.thread}/${leg.part}`] ?? {};
  const kept = (leg) => data.settings[`${leg.thread}/${leg.part}`];
  function setting(leg) {
    const { settings = usual(leg), of = "" } = kept(leg) ?? {};
    const spi = settings.spi || close(leg);
    const told = [MODES[settings.mode] ?? settings.mode, spi && (data.units === "cm" ? spoken`${spi} stitches a centimetre` : spoken`${spi} stitches an inch`), settings.speed && spoken`speed ${settings.speed}`, settings.needle && spoken`needle ${settings.needle}`, settings.foot && spoken`${settings.foot} foot`, settings.tension && spoken`tension ${settings.tension}`, settings.bobbin && spoken`${settings.bobbin} below`].filter(Boolean).join(" · ");
    return told + (of ? ` (${spoken`as on ${of}`})` : "");
  }

  const close = (leg) => leg.spi ? String(data.units === "cm" ? Math.round(leg.spi / 0.254) / 10 : leg.spi) : "";

  function setCard() {
    const leg = data.legs[Math.min(at, data.legs.length - 1)], form = byId("set-form"), { settings = usual(leg), of = "" } = kept(leg) ?? {};
    byId("options").close();
    byId("set-of").textContent = [data.threads[leg.thread]?.name, { ditch: spoken`in the ditch`, ruler: spoken`by ruler`, hand: spoken`by hand` }[leg.part], of ? spoken`as on ${of}` : kept(leg) ? "" : spoken`proposed; the machine’s manual comes first`].filter(Boolean).join(", ");
    for (const field of form.querySelectorAll("[name]")) field.value = settings[field.name] ?? (field.name === "spi" ? close(leg) : "");
    byId("set-card").showModal();
  }

  async function setKept(submit) {
    submit.preventDefault();
    const settings = Object.fromEntries([...new FormData(submit.target)].filter(([, value]) => value.trim()));
    const leg = data.legs[Math.min(at, data.legs.length - 1)];
    byId("set-card").close();
    if (!Object.keys(settings).length) return;
    data.settings[`${leg.thread}/${leg.part}`] = { settings, of: "" };
    show();
    await taps.add("set", leg.n, data.plan, "", fresh, { settings });
  }

  // Marks that fade have a clock.
  function clock() {
    const made = Number(localStorage.getItem(`${key}-marked`) ?? 0);
    if (!made || !data.pen.minutes) return;
    const left = data.pen.minutes - (Date.now() - made) / 60000;
    if (left > -120) line(left > 0 ? spoken`Marks fade in about ${Math.round(left)} min; on a humid day sooner.` : spoken`The marks may be gone by now; draw anew what is still needed.`);
  }

  const pace = () => paces.length < 3 ? 1 : [...paces].sort((a, b) => a - b)[paces.length >> 1];
  const minutes = (seconds) => { const all = Math.max(1, Math.round(seconds / 60)); return all < 90 ? `${all} min` : spoken`${Math.floor(all / 60)} h ${String(all % 60).padStart(2, "0")}`; };
  function line(text) { byId("line").textContent = text ?? ""; byId("line").hidden = !text; }
  function say(leg) {
    speechSynthesis.cancel();
    speechSynthesis.speak(Object.assign(new SpeechSynthesisUtterance(`${leg.title}. ${leg.detail}`), { lang: LANGUAGE }));
  }
  // When she was where, and how the legs stand; an answer of the server is no sign of her.
  function remember(hers = true) {
    if (hers) localStorage.setItem(key, JSON.stringify({ at, when: Date.now() }));
    localStorage.setItem(`${key}-stands`, JSON.stringify({ plan: data.plan, stands: stands.join("") }));
  }

  // --- what is tapped
  async function tap(kind, leg = at, text = "") {
    if (leg < data.legs.length && MADE[kind]) stands[leg] = MADE[kind];
    const made = await taps.add(kind, leg, data.plan, text, fresh);
    fresh = false;
    return made;
  }

  async function done() {
    if (at >= data.legs.length) return;
    const leg = data.legs[at];
    if (leg.kind === "mark") localStorage.setItem(`${key}-marked`, String(Date.now()));
    const from = at;
    stands[at] = "x";
    go(next(at));
    const { lasted } = await tap("done", from);
    if (lasted !== null && lasted < 3 * leg.seconds + 300) worked += lasted;
    if (lasted && leg.seconds > 5 && lasted > leg.seconds / 5 && lasted < leg.seconds * 5) { paces.push(lasted / leg.seconds); paces.splice(0, paces.length - 15); }
  }

  async function back() {
    let leg = Math.min(at, stands.length) - 1;
    while (leg >= 0 && stands[leg] === ".") leg--;
    if (leg < 0) return;
    stands[leg] = ".";
    at = leg;
    show();
    remember();
    await tap("back", leg);
  }

  async function stop() {
    const leg = data.legs[at];
    stopped(spoken`Stopped`, leg, `${spoken`Tie off and cut, or leave the needle down for a minute.`} `);
    await tap("stop", at);
  }

  function stopped(title, leg, text) {
    byId("stopped-title").textContent = title;
    const mine = data.threads[leg?.thread]?.name ?? "";
    byId("stopped-text").textContent = text + (leg ? [leg.on ? spoken`On the ${leg.on}.` : data.passes > 1 ? spoken`Pass ${leg.reach} is under the machine.` : "", mine ? spoken`${mine} in the needle.` : "", leg.place ? spoken`At ${leg.place}.` : ""].filter(Boolean).join(" ") : "");
    byId("stopped-next").textContent = leg ? spoken`Next: ${leg.title}${leg.detail ? ` (${leg.detail})` : ""}.` : "All is stitched.";
    byId("stopped").showModal();
  }

  function otherwise() {
    const leg = data.legs[at];
    byId("otherwise-of").textContent = leg ? leg.title : "";
    byId("text").value = "";
    byId("otherwise").showModal();
  }

  async function event(kind) {
    const text = byId("text").value.trim();
    byId("otherwise").close();
    if (kind === "rip") {
      let leg = at - 1;
      while (leg >= 0 && stands[leg] !== "x" && stands[leg] !== "o") leg--;
      if (leg < 0) { line(spoken`There is nothing stitched before this.`); return; }
      stands[leg] = ".";
      at = leg;
      show();
      remember();
      await tap("rip", leg, text);
      return;
    }
    const from = at;
    if (kind === "other" || kind === "skip") {
      if (from >= data.legs.length) return;
      stands[from] = MADE[kind];
      go(next(from));
    }
    if (kind === "bobbin") { data.fresh = from; show(); }
    await tap(kind, from, text);
    line({ other: spoken`Kept as stitched otherwise.`, skip: spoken`Left for later; it comes again at the end.`, note: spoken`Written down.` }[kind] ?? spoken`Written down. Go on where you are.`);
  }

  const ACTS = { done, back, stop, otherwise };
  // A pedal is a key: whatever was touched last, it means *done*.
  const ready = () => place.querySelector("[data-tap=done]").focus({ preventScroll: true });
  for (const dialog of document.querySelectorAll("dialog")) dialog.addEventListener("close", ready);
  place.addEventListener("click", (click) => {
    // Before the plan is there, there is nothing to tap on.
    const act = data && ACTS[click.target.closest("[data-tap]")?.dataset.tap];
    if (!act) return;
    act();
    if (!document.querySelector("dialog[open]")) ready();
  });
  const KEYS = { " ": done, Enter: done, PageDown: done, ArrowRight: done, PageUp: back, ArrowLeft: back, Backspace: back, s: stop, n: otherwise };
  addEventListener("keydown", (press) => {
    if (!data || press.repeat || press.ctrlKey || press.metaKey || press.altKey || document.querySelector("dialog[open]")) return;
    // A dialog that was closed this moment still has the focus.
    const on = press.target.closest?.("button, a");
    if ((press.key === " " || press.key === "Enter") && on && !on.matches("[data-tap=done]") && !on.closest("dialog")) return;
    const act = KEYS[press.key] ?? KEYS[press.key.toLowerCase()];
    if (!act) return;
    press.preventDefault();
    act();
  });
  // The key was taken when it went down; some browsers would press the button once more when it comes up.
  addEventListener("keyup", (press) => { if (press.key === " " && press.target.closest?.("[data-tap=done]")) press.preventDefault(); });
  let began = null;
  byId("sheet").addEventListener("pointerdown", (down) => { began = { x: down.clientX, y: down.clientY }; });
  byId("sheet").addEventListener("pointerup", (up) => {
    if (!began || !data) return;
    const dx = up.clientX - began.x, dy = up.clientY - began.y;
    began = null;
    if (Math.abs(dx) > 70 && Math.abs(dx) > 2 * Math.abs(dy)) (dx < 0 ? done : back)();
  });
  document.addEventListener("click", (click) => {
    const from = click.target.closest("button");
    if (!from) return;
    if ("close" in from.dataset) from.closest("dialog").close();
    if (!data) return;
    if (from.dataset.event) event(from.dataset.event);
    if (from.dataset.option) {
      options[from.dataset.option] = !options[from.dataset.option];
      localStorage.setItem("stitch-options", JSON.stringify(options));
      opted();
      show();
    }
  });
  byId("more").addEventListener("click", () => byId("options").showModal());
  byId("stopped").addEventListener("close", () => tap("go", at));
  byId("rest").addEventListener("close", () => { worked = 0; tap("rest", at); });
  byId("setting").addEventListener("click", setCard);
  byId("set-form").addEventListener("submit", setKept);
  byId("design").addEventListener("click", design);
  byId("change").addEventListener("close", () => taps.send());
  byId("replan").addEventListener("click", () => { byId("options").close(); replan(); });
  new ResizeObserver(() => sheet?.paint()).observe(byId("sheet"));

  async function replan() {
    await taps.send();
    if ((await taps.waiting()).length) { line(spoken`There is no line to the server. The rest is planned anew when it is back.`); return; }
    const answer = await fetch(place.dataset.rest, { method: "POST", credentials: "same-origin", headers: { "X-CSRFToken": token() }, body: new URLSearchParams({ stitch: "1" }) });
    line(answer.ok ? spoken`The rest is being planned anew; go on meanwhile.` : spoken`That could not be planned anew just now; go on as it is.`);
  }

  // Another design for what is at hand, drawn by the server; without a line there is none.
  async function design() {
    byId("otherwise").close();
    await taps.send();
    if ((await taps.waiting()).length) { line(spoken`There is no line to the server. Stitch it as you like and say so; the design can be changed later.`); return; }
    try {
      await htmx.ajax("GET", place.dataset.change, { target: "#s-change-card", swap: "innerHTML", values: { plan: data.plan, leg: at } });
    } catch { line(spoken`The designs could not be loaded just now.`); return; }
    byId("change").showModal();
  }

  function opted() {
    document.documentElement.toggleAttribute("data-night", Boolean(options.night));
    for (const button of document.querySelectorAll("[data-option]")) button.setAttribute("aria-pressed", String(Boolean(options[button.dataset.option])));
    if (!options.speak) speechSynthesis?.cancel();
  }

  // Signed in anew, the page that was kept has an old one.
  const token = () => /chorograph-csrf-[^=]+=([^;]+)/.exec(document.cookie)?.[1] ?? place.dataset.token;

  async function awake() {
    try { lock = lock && !lock.released ? lock : await navigator.wakeLock?.request("screen"); } catch { lock = null; }
  }
  document.addEventListener("visibilitychange", () => { if (document.visibilityState === "visible") awake(); });

  async function answered(said, left) {
    if (!data) return;
    if (said.plan !== data.plan) {
      if (!said.ready) { line(spoken`The rest is being planned anew; go on meanwhile.`); return; }
      await load().catch(() => line(spoken`The new plan could not be loaded; go on as it is.`));
      line(spoken`The rest was planned anew: look where you go on.`);
      return;
    }
    stands = [...said.stands];
    for (const tap of left) apply(tap);
    remember(false);
    // Somebody else tapped on: this device goes along.
    if (stands[at] === "x" || stands[at] === "o" || at >= stands.length) { const now = first(); if (now !== at) go(now); }
  }

  function told(waiting, text) {
    const gone = text === null;
    byId("pending").textContent = waiting ? (waiting === 1 ? spoken`1 tap kept here until the line is back.` : spoken`${waiting} taps kept here until the line is back.`) : spoken`Everything you tapped is with the server.`;
    place.dataset.waiting = String(waiting);
    if (gone && waiting) line(spoken`No line to the server. Go on: what you tap is kept here.`);
    else if (text) line(text);
    else if (!gone && byId("line").textContent === spoken`No line to the server. Go on: what you tap is kept here.`) line("");
  }

  opted();
  awake();
  navigator.serviceWorker?.register(place.dataset.worker, { scope: "/" }).then(() => { place.dataset.kept = "1"; }).catch(() => {});
  taps = new Taps({ job: place.dataset.job, address: place.dataset.taps, token, answered, told });
  const last = JSON.parse(localStorage.getItem(key) ?? "null");
  load().then(() => {
    place.dataset.loaded = "1";
    if (at && last && Date.now() - last.when > IDLE) stopped(spoken`Where was I?`, data.legs[at], `${spoken`You were here ${new Date(last.when).toLocaleString(LANGUAGE, { weekday: "long", hour: "2-digit", minute: "2-digit" })}.`} `);
    remember();
    taps.send();
  }).catch(() => line(spoken`The plan is not on this device yet. Open this page once with a line to the server.`));
}
