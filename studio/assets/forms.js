// Forms: fields that depend on a choice, what is not lost by a slip, keys on drawn buttons.

// Keys press what is drawn as a button, as they press buttons.
export function drawnButtons() {
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    const drawn = event.target.closest?.('svg [role="button"]');
    if (!drawn) return;
    event.preventDefault();
    drawn.dispatchEvent(new MouseEvent("click", { bubbles: true }));
  });
}

// Each layout shows the fields it needs.
export function layoutFields() {
  const choice = document.getElementById("id_layout");
  if (!choice) return;
  const show = () => {
    for (const part of document.querySelectorAll("[data-layouts]")) part.hidden = !part.dataset.layouts.split(" ").includes(choice.value);
  };
  choice.addEventListener("change", show);
  show();
}

// What was typed and not kept is not lost by a slip of the finger.
export function guard() {
  const form = document.querySelector("form[data-guard]");
  if (!form) return;
  let dirty = false;
  form.addEventListener("input", () => { dirty = true; });
  form.addEventListener("submit", () => { dirty = false; });
  window.addEventListener("beforeunload", (event) => { if (dirty) event.preventDefault(); });
  form.elements.batting?.addEventListener("change", (event) => {
    document.getElementById("other-batting").hidden = event.target.value !== "other";
  });
}

// "3 3/8", "3-3/8", "3.375", "8.5 cm" as a number of what its field is in; NaN for what is none.
export function readNumber(text) {
  const parts = text.trim().replace(/\s*(cm|in|%)$/, "").replace(",", ".").match(/^(\d+(?:\.\d+)?)?(?:[\s-]*(\d+)\/(\d+))?$/);
  if (!parts || (!parts[1] && !parts[2])) return Number.NaN;
  return Number(parts[1] ?? 0) + (parts[2] ? Number(parts[2]) / Number(parts[3]) : 0);
}
