// Tick all new clips of a card, or none.
const form = document.querySelector("[data-card]");
form?.querySelector("[data-all]").addEventListener("change", (event) => {
  for (const box of form.querySelectorAll("[name=clip]:not([data-known])")) box.checked = event.target.checked;
});
