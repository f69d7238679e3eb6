// Match: stages scaled while the picture follows, the clip as it is while held, both halves in one picture.
const LATER_MS = 120;
let timer = 0;
const board = () => document.getElementById("board");
const find = (selector) => board()?.querySelector(selector);

function shares() {
  const form = find("[data-stages]");
  const pairs = [...new FormData(form)].filter(([name]) => name.startsWith("share-"));
  return new URLSearchParams(pairs).toString();
}

function follow() {
  for (const mark of ["[data-matched]", "[data-scopes]"]) {
    const picture = find(mark);
    if (picture) picture.src = `${picture.src.split("?")[0]}?${shares()}`;
  }
}

function now(shown) {
  const [matched, is] = [find("[data-matched]"), find("[data-now]")];
  if (!is) return;
  matched.hidden = shown;
  is.hidden = !shown;
}

// The reference over the clip, up to an edge that is dragged, or moved by arrow keys.
function halves(button) {
  const view = find("[data-clip-view]"), half = view.querySelector("[data-half]");
  button.setAttribute("aria-pressed", String(!half));
  if (half) { half.remove(); view.querySelector("[data-edge]").remove(); return; }
  const reference = find("[data-reference]").cloneNode();
  reference.removeAttribute("data-reference");
  reference.dataset.half = "";
  reference.alt = "";
  const edge = document.createElement("div");
  Object.assign(edge, { tabIndex: 0, className: "edge" });
  edge.dataset.edge = "";
  for (const [name, value] of Object.entries({ role: "slider", "aria-label": "Edge between reference and clip", "aria-valuemin": 0, "aria-valuemax": 100 })) edge.setAttribute(name, value);
  view.prepend(reference, edge);
  edgeTo(edge, 50);
}

function edgeTo(edge, percent) {
  const at = Math.min(Math.max(percent, 0), 100);
  edge.setAttribute("aria-valuenow", String(Math.round(at)));
  edge.style.left = `${at}%`;
  edge.parentElement.querySelector("[data-half]").style.clipPath = `inset(0 ${100 - at}% 0 0)`;
}

document.addEventListener("pointerdown", (event) => { if (event.target.matches("[data-edge]")) event.target.setPointerCapture(event.pointerId); });
document.addEventListener("pointermove", (event) => {
  if (!event.target.matches?.("[data-edge]") || !event.target.hasPointerCapture(event.pointerId)) return;
  const box = event.target.parentElement.getBoundingClientRect();
  edgeTo(event.target, (100 * (event.clientX - box.left)) / box.width);
});
document.addEventListener("keydown", (event) => {
  const by = { ArrowLeft: -2, ArrowRight: 2 }[event.key];
  if (!by || !event.target.matches("[data-edge]")) return;
  event.preventDefault();
  edgeTo(event.target, Number(event.target.getAttribute("aria-valuenow")) + by);
});

document.addEventListener("input", (event) => {
  if (!event.target.matches("[data-stages] input[type=range]")) return;
  event.target.nextElementSibling.value = `${event.target.value} %`;
  clearTimeout(timer);
  timer = setTimeout(follow, LATER_MS);
});
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-split]");
  if (button) halves(button);
});
for (const [kind, shown] of [["pointerdown", true], ["pointerup", false], ["pointercancel", false]]) {
  document.addEventListener(kind, (event) => {
    if (!shown || event.target.closest("[data-hold]")) now(shown);
  });
}
document.addEventListener("keydown", (event) => {
  if (event.key === " " && event.target.closest("[data-hold]")) { event.preventDefault(); now(true); }
});
document.addEventListener("keyup", (event) => {
  if (event.key === " " && event.target.closest("[data-hold]")) now(false);
});

function inView() {
  for (const chosen of document.querySelectorAll(".strip a[aria-current]")) {
    const strip = chosen.closest(".strip");
    strip.scrollLeft = chosen.parentElement.offsetLeft - strip.offsetLeft - (strip.clientWidth - chosen.offsetWidth) / 2;
  }
}
document.body.addEventListener("htmx:afterSettle", inView);
inView();
