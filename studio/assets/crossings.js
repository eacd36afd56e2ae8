// Cornerstones are taken out, and put back, by touching their crossing on the preview.
export function crossings() {
  const field = document.getElementById("id_open_crossings");
  if (!field) return;
  document.addEventListener("click", (event) => {
    const touched = event.target.closest?.("[data-crossing]");
    if (!touched) return;
    const open = new Set(field.value.split(/[\s,]+/).filter(Boolean)), name = touched.dataset.crossing;
    if (!open.delete(name)) open.add(name);
    field.value = [...open].join(", ");
    field.dispatchEvent(new Event("input", { bubbles: true }));
  });
}
