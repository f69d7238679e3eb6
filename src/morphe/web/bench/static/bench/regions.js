// Regions on the picture: the outline of the open one with few, large handles, for mouse, touch and keys.
import { hasMoments, layerOf, put, withLayer } from "./grade.js";

const SVG = "http://www.w3.org/2000/svg";
const node = (name, attributes) => {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  return made;
};
const rotated = ([x, y], turn) => [x * Math.cos(turn) - y * Math.sin(turn), x * Math.sin(turn) + y * Math.cos(turn)];

// Points of a shape about its middle, in heights of the frame; a line reaches beyond the frame.
export function outlineOf(shape) {
  if (shape.kind === "line") return [[-3, 0], [3, 0]];
  if (shape.kind === "outline") return shape.points;
  return Array.from({ length: 64 }, (_, at) => {
    const angle = (at / 64) * 2 * Math.PI;
    return [shape.wide * Math.cos(angle), shape.tall * Math.sin(angle)];
  });
}

// Handles beside the middle: [name, x, y] about the middle; dragging one sets what it is named for.
export function handlesOf(shape) {
  if (shape.kind === "ellipse") return [["wide", shape.wide, 0], ["tall", 0, -shape.tall]];
  if (shape.kind === "line") return [["turn", 0.3, 0]];
  return [["size", Math.max(...shape.points.map(([x]) => x)), 0]];
}

export function regionEditor(frame, store, places, now, keepSoon) {
  const drawing = node("svg", { class: "region-drawing", "aria-hidden": "true" });
  const holder = document.createElement("div");
  holder.className = "region-handles";
  holder.hidden = true;
  frame.append(drawing, holder);
  let drag = null;

  const open = () => layerOf(store.grade, store.region);
  const size = () => frame.getBoundingClientRect();
  const placed = () => {
    const layer = open();
    if (!layer?.region) return null;
    const [, ...row] = layer.region.moments[0];
    return layer.region.moments.length > 1 ? places()[layer.id] ?? row : row;
  };
  const toFrame = (point, [x, y, factor, turn], box) => {
    const [dx, dy] = rotated(point, (turn * Math.PI) / 180);
    return [x * box.width + dx * factor * box.height, y * box.height + dy * factor * box.height];
  };

  function draw() {
    const layer = open();
    const place = placed();
    drawing.replaceChildren();
    holder.hidden = !place;
    if (!place) { holder.replaceChildren(); return; }
    const box = size();
    const { shape, feather } = layer.region;
    const points = outlineOf(shape).map((point) => toFrame(point, place, box).map((v) => v.toFixed(1)).join(","));
    for (const kind of ["shade", "edge"]) {
      drawing.append(node(shape.kind === "line" ? "polyline" : "polygon", { points: points.join(" "), class: `region-${kind}` }));
    }
    drawing.dataset.feather = feather;
    const handles = [["middle", 0, 0], ...handlesOf(shape)];
    if (holder.childElementCount !== handles.length || holder.dataset.of !== layer.id) {
      holder.dataset.of = layer.id;
      holder.replaceChildren(...handles.map(([name]) => {
        const handle = document.createElement("button");
        handle.type = "button";
        handle.className = `region-handle region-${name}`;
        handle.dataset.handle = name;
        return handle;
      }));
    }
    handles.forEach(([name, x, y], at) => {
      const [left, top] = toFrame([x, y], place, box);
      const handle = holder.children[at];
      handle.style.left = `${left}px`;
      handle.style.top = `${top}px`;
      handle.setAttribute("aria-label", `${layer.name || "Region"}: ${{ middle: "move", wide: "width", tall: "height", turn: "turn", size: "size" }[name]}`);
    });
  }

  function moveTo(name, x, y) {
    const layer = open();
    const [px, py, factor, turn] = placed();
    const box = size();
    const away = [(x - px * box.width) / box.height, (y - py * box.height) / box.height];
    const angle = Math.atan2(away[1], away[0]);
    const reach = Math.min(Math.max(Math.hypot(...away), 0.03), 3);
    const degrees = (angle * 180) / Math.PI;
    const time = now();
    store.edit((grade) => withLayer(grade, layer.id, ({ region }) => {
      if (name === "middle") put(region, [x / box.width, y / box.height, factor, turn], time);
      else if (name === "turn") put(region, [px, py, factor, degrees], time);
      else if (name === "wide") { region.shape.wide = reach / factor; put(region, [px, py, factor, degrees], time); }
      else if (name === "tall") region.shape.tall = reach / factor;
      else put(region, [px, py, Math.min(Math.max(reach / handlesOf(region.shape)[0][1], 0.05), 20), degrees], time);
    }));
    places()[layer.id] = layerOf(store.grade, layer.id).region.moments.length > 1 ? nearest(layer.id, time) : undefined;
    draw();
  }
  const nearest = (id, time) => {
    const rows = layerOf(store.grade, id).region.moments;
    return rows.reduce((best, row) => (Math.abs(row[0] - time) < Math.abs(best[0] - time) ? row : best)).slice(1);
  };

  holder.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest("[data-handle]");
    if (!handle) return;
    event.preventDefault();
    handle.focus();
    handle.setPointerCapture(event.pointerId);
    store.dragging = true;
    drag = handle.dataset.handle;
  });
  holder.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const box = size();
    moveTo(drag, event.clientX - box.left, event.clientY - box.top);
  });
  const end = () => {
    if (!drag) return;
    drag = null;
    store.dragging = false;
    keepSoon(0);
  };
  holder.addEventListener("pointerup", end);
  holder.addEventListener("pointercancel", end);
  holder.addEventListener("keydown", (event) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const handle = event.target.closest("[data-handle]");
    if (!by || !handle) return;
    event.preventDefault();
    event.stopPropagation();
    const step = (event.shiftKey ? 20 : 4);
    moveTo(handle.dataset.handle, parseFloat(handle.style.left) + by[0] * step, parseFloat(handle.style.top) + by[1] * step);
    keepSoon(500);
  });
  new ResizeObserver(draw).observe(frame);

  // A moment at this time, where the region lies now.
  function setMoment(id) {
    const time = now();
    const place = placed();
    store.edit((grade) => withLayer(grade, id, ({ region }) => {
      if (hasMoments(region)) put(region, place, time);
      else region.moments = [[Math.max(time, 0.001), ...place]];
    }));
    keepSoon(0);
  }
  return { draw, setMoment };
}
