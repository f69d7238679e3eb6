// A clip or still that was filmed or chosen is sent at once; nothing else has to be pressed.
const form = document.querySelector("[data-check-begin]");
form.addEventListener("change", (event) => {
  if (!event.target.matches("input[type=file]") || !event.target.files.length) return;
  form.querySelector("[data-check-said]").hidden = false;
  form.requestSubmit();
});
