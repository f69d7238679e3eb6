// A folded part stays as the person left it when its piece of the page is swapped.
const left = new Map();
const apply = () => {
  for (const part of document.querySelectorAll("[data-keep-open]")) {
    if (left.has(part.id)) part.open = left.get(part.id);
  }
};
if (matchMedia("(max-width: 860px)").matches) {
  for (const part of document.querySelectorAll("[data-fold-narrow]")) left.set(part.id, false);
  apply();
}
document.addEventListener("click", (event) => {
  const part = event.target.closest("summary")?.parentElement;
  if (part?.matches("[data-keep-open]")) left.set(part.id, !part.open);
});
document.addEventListener("htmx:afterSwap", apply);
