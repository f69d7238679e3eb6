// Drag a clip onto another light; the same can be chosen from the list on its card.
let dragged = null;
const light = (event) => event.target.closest("[data-light]");

document.addEventListener("dragstart", (event) => {
  const card = event.target.closest?.("[data-move]");
  if (!card) return;
  dragged = card;
  event.dataTransfer.effectAllowed = "move";
  event.dataTransfer.setData("text/plain", card.dataset.clip);
  card.classList.add("dragged");
});
document.addEventListener("dragover", (event) => {
  const over = dragged && light(event);
  if (!over || !over.dataset.light) return;
  event.preventDefault();
  for (const other of document.querySelectorAll("[data-light]")) other.classList.toggle("over", other === over);
});
document.addEventListener("drop", (event) => {
  const over = dragged && light(event);
  if (!over || !over.dataset.light) return;
  event.preventDefault();
  if (over.contains(dragged)) return;
  // Sent by the page, not by the cards: a drawing anew that they wait for would push this out of their queue.
  htmx.ajax("POST", dragged.dataset.move, { source: document.body, target: "#cards", select: "#cards", swap: "cards", values: { group: over.dataset.light } });
});
document.addEventListener("dragend", () => {
  dragged?.classList.remove("dragged");
  dragged = null;
  for (const other of document.querySelectorAll("[data-light].over")) other.classList.remove("over");
});
