// Blocks are laid where the sheet is touched; drawn over several, they are laid in all of them.
export function brush(sheet, touched, left) {
  let spots = null;
  const passed = new Set();
  const over = (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest?.(".zone")?.dataset.block ?? "";
  const show = (block) => {
    for (const zone of sheet.zones) {
      const here = zone.dataset.block;
      zone.classList.toggle("told", here !== "" && (here === block || passed.has(here)));
    }
  };
  const follow = (event) => {
    const block = over(event);
    if (spots) {
      const spot = sheet.spot(event), last = spots[spots.length - 1];
      // Every inch is near enough to miss no block.
      if (!last || Math.hypot(spot[0] - last[0], spot[1] - last[1]) > 1) spots.push(spot);
      if (block) passed.add(block);
    }
    show(block);
  };
  const stop = sheet.hold({
    pointerdown: (event) => { event.preventDefault(); spots = []; follow(event); },
    pointermove: follow,
    pointerup: (event) => {
      if (!spots) return;
      follow(event);
      const made = spots;
      spots = null;
      passed.clear();
      touched(made);
    },
    pointerleave: () => show(""),
    pointercancel: () => { spots = null; passed.clear(); show(""); },
    keydown: (event) => { if (event.key === "Escape") { event.stopPropagation(); stop(); show(""); left(); } },
  });
  return () => { stop(); show(""); };
}
