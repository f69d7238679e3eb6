// A choice of two versions is shown at once; without script the button does it.
const form = document.getElementById("compare");
for (const radio of document.querySelectorAll("[form=compare]")) radio.addEventListener("change", () => form.requestSubmit());
