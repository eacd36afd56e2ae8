// What every page needs; the work view where there is one.
import htmx from "htmx.org";
import { askAgain } from "./again.js";
import { crossings } from "./crossings.js";
import { drawnButtons, guard, layoutFields } from "./forms.js";
import { motifs } from "./motif.js";
import { listed } from "./rows.js";
import { corners, touches } from "./trace.js";
import { stitch } from "./stitch.js";
import { work } from "./work.js";

window.htmx = htmx;
htmx.config.includeIndicatorStyles = false;
htmx.config.allowEval = false;
// What is put on the page listens at once: a hand (or a key) may be quicker than a pause.
htmx.config.defaultSettleDelay = 0;
htmx.config.responseHandling = [
  { code: "204", swap: false },
  { code: "[23]..", swap: true },
  { code: "4(09|22|00)", swap: true, error: false },
  { code: "[45]..", swap: false, error: true },
];

const place = document.getElementById("work");
// Who signs out leaves nothing of a client's on the device; what was tapped and not sent stays.
document.querySelector("form[action$='/sign-out/']")?.addEventListener("submit", () => {
  globalThis.caches?.keys().then((names) => names.filter((name) => name.startsWith("chorograph-stitch")).forEach((name) => caches.delete(name)));
});

const machine = document.getElementById("stitch");
if (machine) stitch(machine);
else if (place) work(place);
else document.body.addEventListener("board-changed", () => location.reload());
document.getElementById("print")?.addEventListener("click", () => window.print());
// What cannot be undone is asked about first.
document.addEventListener("submit", (event) => { const ask = event.submitter?.dataset.ask; if (ask && !confirm(ask)) event.preventDefault(); });
askAgain(htmx);
guard();
layoutFields();
listed();
crossings();
corners();
touches(htmx);
drawnButtons();
motifs();
