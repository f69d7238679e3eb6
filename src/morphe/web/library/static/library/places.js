// The card's box and the target's corners, drawn on their pictures and dragged, or moved with the arrow keys.
const form = document.querySelector("[data-places]");
const NUDGE = 0.005;
const SVG = "http://www.w3.org/2000/svg";
const clamp = (value) => Math.min(Math.max(value, 0), 1);

function shape(holder, names, corners, keep) {
  const svg = holder.querySelector("svg");
  const outline = document.createElementNS(SVG, "polygon");
  const handles = corners().map((_, index) => {
    const handle = document.createElementNS(SVG, "circle");
    handle.setAttribute("r", 9);
    handle.setAttribute("tabindex", 0);
    handle.setAttribute("role", "slider");
    handle.setAttribute("aria-label", names[index]);
    return handle;
  });
  svg.append(outline, ...handles);

  function draw() {
    const box = svg.getBoundingClientRect();
    const points = corners();
    outline.setAttribute("points", points.map(([x, y]) => `${x * box.width},${y * box.height}`).join(" "));
    handles.forEach((handle, index) => {
      handle.setAttribute("cx", points[index][0] * box.width);
      handle.setAttribute("cy", points[index][1] * box.height);
      handle.setAttribute("aria-valuenow", Math.round(100 * points[index][0]));
      handle.setAttribute("aria-valuetext", `${Math.round(100 * points[index][0])} % across, ${Math.round(100 * points[index][1])} % down`);
    });
  }
  const move = (index, x, y) => { keep(index, clamp(x), clamp(y)); draw(); };

  handles.forEach((handle, index) => {
    handle.addEventListener("pointerdown", (event) => { handle.setPointerCapture(event.pointerId); event.preventDefault(); });
    handle.addEventListener("pointermove", (event) => {
      if (!handle.hasPointerCapture(event.pointerId)) return;
      const box = svg.getBoundingClientRect();
      move(index, (event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
    });
    handle.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!by) return;
      event.preventDefault();
      const [x, y] = corners()[index];
      const step = NUDGE * (event.shiftKey ? 10 : 1);
      move(index, x + by[0] * step, y + by[1] * step);
    });
  });
  new ResizeObserver(draw).observe(svg);
}

const regionField = form.querySelector("[data-region]");
const cornersField = form.querySelector("[data-corners]");
const region = JSON.parse(regionField.value);
const corners = JSON.parse(cornersField.value);

const card = form.querySelector("[data-card]");
if (card) {
  const box = () => [[region[0], region[1]], [region[2], region[1]], [region[2], region[3]], [region[0], region[3]]];
  shape(card, ["Box, top left", "Box, top right", "Box, bottom right", "Box, bottom left"], box, (index, x, y) => {
    region[index === 0 || index === 3 ? 0 : 2] = x;
    region[index < 2 ? 1 : 3] = y;
    regionField.value = JSON.stringify(region);
  });
}
const target = form.querySelector("[data-target]");
if (target) {
  shape(target, ["Target, top left", "Target, top right", "Target, bottom right", "Target, bottom left"], () => corners, (index, x, y) => {
    corners[index] = [x, y];
    cornersField.value = JSON.stringify(corners);
  });
}
