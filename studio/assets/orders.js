// The things of a path, put in another order: by buttons, by keys on them, or dragged.

function renumber(list) {
  [...list.children].forEach((thing, k) => { thing.querySelector("b").textContent = String(k + 1); });
  const price = document.getElementById("order-price");
  if (price) price.hidden = true;
}

export function moved(button, by) {
  const thing = button.closest("li"), list = thing.parentElement;
  const other = by < 0 ? thing.previousElementSibling : thing.nextElementSibling;
  if (!other) return;
  if (by < 0) other.before(thing); else other.after(thing);
  renumber(list);
  button.focus();
}

export function dragging() {
  let held = null;
  document.addEventListener("dragstart", (event) => { held = event.target.closest?.("#things li") ?? null; });
  document.addEventListener("dragover", (event) => {
    const over = event.target.closest?.("#things li");
    if (!held || !over || over === held) return;
    event.preventDefault();
    const { top, height } = over.getBoundingClientRect();
    if (event.clientY < top + height / 2) over.before(held); else over.after(held);
  });
  document.addEventListener("dragend", () => { if (held) renumber(held.parentElement); held = null; });
}
