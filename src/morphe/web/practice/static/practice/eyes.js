// Left or right by the arrow keys; a screen that shows fewer colours than the web says so.
document.querySelector("[data-screen]").hidden = window.matchMedia("(color-gamut: srgb)").matches;
document.addEventListener("keydown", (event) => {
  const at = { ArrowLeft: 0, ArrowRight: 1, 1: 0, 2: 1 }[event.key];
  if (at === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
  const choice = document.querySelectorAll("[data-pair] [data-choice]")[at];
  if (choice) { event.preventDefault(); choice.click(); }
});
