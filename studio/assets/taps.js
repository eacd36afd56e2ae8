// What was tapped, kept on the device until the server has it: in order, once, through a lost line.
import { get, update } from "idb-keyval";
import { spoken } from "./spoken.js";

const RETRY = 15000;

export class Taps {
  constructor({ job, address, token, answered, told }) {
    Object.assign(this, { job, address, token, answered, told });
    this.store = `taps-${job}`;
    this.device = localStorage.getItem("device") ?? crypto.randomUUID();
    localStorage.setItem("device", this.device);
    this.last = performance.now();
    addEventListener("online", () => this.send());
    setInterval(() => this.send(), RETRY);
  }

  // Seconds since the tap before come from a clock that does not jump; a page that was opened anew does not know them.
  async add(kind, leg, plan, text = "", fresh = false, more = {}) {
    this.told(1, "");
    const now = performance.now();
    const tap = { key: crypto.randomUUID(), kind, leg, plan, text, at: Date.now(), lasted: fresh ? null : (now - this.last) / 1000, ...more };
    this.last = now;
    await update(this.store, (kept = { seq: 0, waiting: [] }) => {
      tap.seq = ++kept.seq;
      kept.waiting.push(tap);
      return kept;
    });
    this.told((await this.waiting()).length, "");
    this.send();
    return tap;
  }

  async waiting() { return (await get(this.store))?.waiting ?? []; }

  async send() {
    if (this.sending) { this.again = true; return; }
    this.sending = true;
    try {
      do {
        this.again = false;
        const taps = (await this.waiting()).slice(0, 200);
        const answer = await fetch(this.address, {
          method: "POST", credentials: "same-origin", redirect: "manual", signal: AbortSignal.timeout(20000),
          headers: { "Content-Type": "application/json", "X-CSRFToken": this.token() },
          body: JSON.stringify({ device: this.device, now: Date.now(), taps }),
        });
        if (answer.type === "opaqueredirect" || answer.status === 403) {
          this.told((await this.waiting()).length, spoken`Sign in again: what you tapped is kept here and sent then.`);
          return;
        }
        if (!answer.ok) throw new Error(String(answer.status));
        const said = await answer.json(), sent = new Set(taps.map((tap) => tap.key));
        // What the server has, or will never take, is done with; what was tapped meanwhile stays.
        await update(this.store, (kept = { seq: 0, waiting: [] }) => ({ ...kept, waiting: kept.waiting.filter((tap) => !sent.has(tap.key)) }));
        const left = await this.waiting();
        this.told(left.length, Object.values(said.refused)[0] ?? said.says);
        this.answered(said, left);
        if (left.length) this.again = true;
      } while (this.again);
    } catch {
      this.told((await this.waiting()).length, null);
    } finally { this.sending = false; }
  }
}
