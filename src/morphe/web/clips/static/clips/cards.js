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

// Not every browser moves a node with its focus: a card that goes to another light is given it again.
function drawn(target, fragment) {
  const active = document.activeElement;
  const done = Idiomorph.morph(target, fragment.children, drawing);
  if (active !== document.activeElement && active.isConnected) active.focus({ preventScroll: true });
  return done;
}

htmx.defineExtension("cards", {
  isInlineSwap: (style) => style === "cards",
  handleSwap: (style, target, fragment) => style === "cards" && drawn(target, fragment),
});
