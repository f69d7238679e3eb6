// Cards that are drawn anew are drawn into those that are there: what has the focus, is unfolded, ticked or being
// dragged stays as it is.
const isTheirs = (name, node) => (
  (name === "open" && node.matches("details")) || (name === "checked" && node.matches(".pick input"))
  || (name === "class" && node.matches(".dragged, .over"))
);
const drawing = {
  morphStyle: "outerHTML",
  ignoreActiveValue: true,
  callbacks: { beforeAttributeUpdated: (name, node) => !isTheirs(name, node) },
};

htmx.defineExtension("cards", {
  isInlineSwap: (style) => style === "cards",
  handleSwap: (style, target, fragment) => style === "cards" && Idiomorph.morph(target, fragment.children, drawing),
});
