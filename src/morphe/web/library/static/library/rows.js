// Another row for a list of entries: the last one again, emptied.
for (const button of document.querySelectorAll("[data-add-row]")) {
  button.hidden = false;
  button.addEventListener("click", () => {
    const body = button.closest("fieldset").querySelector("tbody");
    const row = body.lastElementChild.cloneNode(true);
    for (const input of row.querySelectorAll("input")) input.value = "";
    body.append(row);
    row.querySelector("input, select").focus();
  });
}
