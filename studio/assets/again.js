// What waits for an answer asks again when the server was away: each answer brings the next asking along,
// so that one lost on its way would have ended it.
const PAUSE = 3000;

export function askAgain(htmx) {
  const waits = (element) => element?.matches?.("[hx-get][hx-trigger*='load delay']");
  const later = (element) => setTimeout(() => {
    if (element.isConnected) htmx.ajax("GET", element.getAttribute("hx-get"), { source: element });
  }, PAUSE);
  document.body.addEventListener("htmx:sendError", (event) => { if (waits(event.target)) later(event.target); });
  document.body.addEventListener("htmx:responseError", (event) => {
    // Away as well: a server in front of one that is started again says so.
    if (event.detail.xhr.status >= 502 && waits(event.target)) later(event.target);
  });
}
