// What is typed into a form and not sent yet stays when its piece of the page is swapped.
const typed = new Map();
const forms = (piece) => [...piece.querySelectorAll("form[hx-post]:has(button:not([type=button]))")];
const fields = (form) => [...form.elements].filter((field) => field.name && field.type !== "hidden" && "value" in field);
const key = (form, field) => `${form.getAttribute("hx-post")} ${field.name} ${field.type === "radio" ? field.value : ""}`;
const isChanged = (field) => {
  if (field.matches("select")) return [...field.options].some((option) => option.selected !== option.defaultSelected);
  return field.checked !== field.defaultChecked || field.value !== field.defaultValue;
};

document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  typed.clear();
  for (const form of forms(detail.target)) {
    const sent = form === detail.requestConfig?.elt ? detail.requestConfig.parameters : null;
    for (const field of fields(form)) {
      if (isChanged(field) && sent?.[field.name] !== field.value) typed.set(key(form, field), [field.value, field.checked]);
    }
  }
});
document.addEventListener("htmx:afterSwap", ({ detail }) => {
  for (const form of typed.size ? forms(detail.target) : []) {
    for (const field of fields(form)) {
      const kept = typed.get(key(form, field));
      if (kept && field.type !== "file") [field.value, field.checked] = kept;
    }
  }
});
