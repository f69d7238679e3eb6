// Ticked clips stay ticked when the cards are drawn anew.
let ticked = new Set();
const boxes = () => [...document.querySelectorAll("#cards .pick input")];

document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target.id === "cards") ticked = new Set(boxes().filter((box) => box.checked).map((box) => box.value));
});
document.addEventListener("htmx:afterSwap", () => {
  for (const box of boxes()) if (ticked.has(box.value)) box.checked = true;
  ticked.clear();
});
