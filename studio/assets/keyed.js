// What is done on the sheet by touching it, by keys: arrows move a cross, and touch where it stands.
const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const STEP = 0.5, FINE = 0.125; // inches of the top

// Until `signal` says so, keys on the sheet are touches of it. Where it is drawn on (`draws`), the line goes straight
// from point to point: the space bar sets one, Enter the last.
export function keyed(sheet, signal, draws) {
  const { svg, view } = sheet, box = svg.getBoundingClientRect();
  const middle = sheet.spot({ clientX: box.left + box.width / 2, clientY: box.top + box.height / 2 });
  const at = middle.map((each) => Math.round(each / STEP) * STEP);
  const cross = document.createElementNS("http://www.w3.org/2000/svg", "path");
  cross.setAttribute("class", "cross");
  cross.setAttribute("visibility", "hidden");
  view.append(cross);
  const before = document.activeElement, byKeys = before?.matches(":focus-visible");
  svg.setAttribute("tabindex", "-1");
  svg.focus({ preventScroll: true });
  let from = null;

  const tell = (name) => {
    const spot = new DOMPoint(...at).matrixTransform(view.getScreenCTM());
    svg.dispatchEvent(new PointerEvent(name, { clientX: spot.x, clientY: spot.y, bubbles: true, cancelable: true }));
  };
  const show = () => {
    const size = 12 / sheet.transform().k;
    const leg = from ? `M${from}L${at}` : "";
    cross.setAttribute("d", `${leg}M${at[0] - size},${at[1]}h${2 * size}M${at[0]},${at[1] - size}v${2 * size}`);
    cross.setAttribute("visibility", "visible");
  };
  const moved = (event, [right, down_]) => {
    const step = event.shiftKey ? FINE : STEP;
    at[0] += right * step;
    at[1] += down_ * step;
    show();
    if (!from) tell("pointermove");
  };
  // Who came here by a key sees at once where she is, and what she is about to lay there.
  if (byKeys) requestAnimationFrame(() => { if (!signal.aborted) { show(); tell("pointermove"); } });
  const touched = (last) => {
    tell("pointermove");
    if (!from) tell("pointerdown");
    if (!draws || (from && last)) { from = null; tell("pointerup"); } else from = [...at];
    if (!signal.aborted) show();
  };
  document.addEventListener("keydown", (event) => {
    // Fields and buttons keep their keys; who acts on a key itself has done so before.
    if (event.defaultPrevented || !svg.contains(event.target) || event.altKey || event.ctrlKey || event.metaKey) return;
    const way = WAYS[event.key];
    if (way) moved(event, way);
    else if (event.key === " " || event.key === "Enter") touched(event.key === "Enter");
    else return;
    event.preventDefault();
    event.stopPropagation();
  }, { capture: true, signal });
  signal.addEventListener("abort", () => {
    cross.remove();
    svg.removeAttribute("tabindex");
    if (before?.isConnected && (document.activeElement === svg || document.activeElement === document.body)) before.focus({ preventScroll: true });
  });
}
