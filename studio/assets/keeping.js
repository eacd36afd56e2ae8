// A change that is still being drawn and kept: whoever goes on meanwhile is led on once it is there, since the
// answer belongs to the panel that asked for it, and what comes next is made on the revision it makes.
import { spoken } from "./spoken.js";

export class Keeping {
  constructor(say) {
    Object.assign(this, { say, under: null, next: null });
    document.body.addEventListener("htmx:beforeRequest", ({ detail }) => {
      if (detail.elt.id !== "drawer" || detail.requestConfig.verb !== "post") return;
      this.under = detail.elt;
      for (const button of detail.elt.querySelectorAll("button.button-strong")) button.disabled = true;
      document.getElementById("work").setAttribute("aria-busy", "true");
    });
    document.body.addEventListener("htmx:afterRequest", ({ detail }) => {
      if (detail.elt !== this.under) return;
      this.under = null;
      for (const button of detail.elt.querySelectorAll("button.button-strong")) button.disabled = false;
      document.getElementById("work").removeAttribute("aria-busy");
      // Refused: its panel says why, and she stays with it.
      if (detail.xhr.status !== 204) this.next = null;
    });
  }

  // Does `act` now, or once what is under way is kept.
  after(act) {
    if (!this.under) { act(); return; }
    this.next = act;
    this.say(spoken`One moment: what you took is still being drawn and kept.`);
  }

  // The sheet shows what was kept.
  shown() {
    const act = this.under ? null : this.next;
    if (act) { this.next = null; act(); }
  }
}
