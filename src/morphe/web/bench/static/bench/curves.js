// Curves by hand: points dragged, typed or moved by keys; the way between them is what the server computed.
import { layerOf, withNumbers } from "./grade.js";
import { drawHistogram, fitCanvas, theme, HIGH, LOW } from "./scopes.js";

const KEY = "curves";
const STRAIGHT = [[0, 0], [100, 100]];
const GRAB = 14; // pixels from a point
const LEAST = 1.2; // percent between two points: a little more than the grade asks for, as numbers are rounded

export function curves(root, store, orders, keepSoon, shown) {
  let channel = "luma";
  let point = 0;
  let dragging = false;
  const canvas = () => root.querySelector("[data-curves]");
  const step = (grade = store.grade) => layerOf(grade, "clip")?.steps.find((one) => one.step === KEY);
  const points = () => step()?.[channel] ?? STRAIGHT;
  const x = (level) => ((level - LOW) / (HIGH - LOW)) * canvas().clientWidth;
  const y = (level) => (1 - (level - LOW) / (HIGH - LOW)) * canvas().clientHeight;
  const levelAt = (event) => {
    const box = canvas().getBoundingClientRect();
    const level = (share) => LOW + share * (HIGH - LOW);
    return [level((event.clientX - box.left) / box.width), level(1 - (event.clientY - box.top) / box.height)];
  };

  function set(list) {
    const rounded = list.map((pair) => pair.map((level) => Number(level.toFixed(1))));
    store.edit((grade) => withNumbers(grade, "clip", KEY, { [channel]: rounded }, orders));
    draw();
  }

  // A point between its neighbours: never beside or below the one before, nor above the one after.
  function moved(list, at, [to, level]) {
    const [low, high] = [list[at - 1], list[at + 1]];
    const within = (value, least, most) => Math.min(Math.max(value, least), most);
    const next = [within(to, low ? low[0] + LEAST : -10, high ? high[0] - LEAST : 110), within(level, low ? low[1] : -10, high ? high[1] : 110)];
    return list.map((one, n) => (n === at ? next : one));
  }

  function draw() {
    if (!canvas() || store.open !== KEY || !shown()) return;
    const { ctx, width, height } = fitCanvas(canvas());
    const colours = theme();
    const line = channel === "luma" ? colours.trace : colours.channels[["red", "green", "blue"].indexOf(channel)];
    ctx.clearRect(0, 0, width, height);
    drawHistogram(ctx, shown().scopes.histogram, { x: 0, y: 0, w: width, h: height }, { ...colours, trace: colours.before }, { plain: true });
    const way = shown().curve?.channel === channel ? shown().curve.levels : null;
    ctx.strokeStyle = line;
    ctx.lineWidth = 2;
    ctx.beginPath();
    (way ?? points()).forEach(([from, to], n) => (n ? ctx.lineTo(x(from), y(to)) : ctx.moveTo(x(from), y(to))));
    ctx.stroke();
    points().forEach(([from, to], n) => {
      ctx.fillStyle = n === point ? colours.accent : line;
      ctx.beginPath(); ctx.arc(x(from), y(to), n === point ? 7 : 5, 0, 2 * Math.PI); ctx.fill();
    });
    const [from, to] = points()[point] ?? points()[0];
    for (const [name, level] of [["in", from], ["out", to]]) {
      const input = root.querySelector(`[data-curve-${name}]`);
      if (input && input !== document.activeElement) input.value = level;
    }
    for (const tab of root.querySelectorAll("[data-curve-channel]")) tab.setAttribute("aria-pressed", String(tab.dataset.curveChannel === channel));
    canvas().setAttribute("aria-valuetext", `Point ${point + 1} of ${points().length}: ${from} % becomes ${to} %`);
  }

  const nearest = (event) => {
    const box = canvas().getBoundingClientRect();
    const away = points().map(([from, to]) => Math.hypot(x(from) - (event.clientX - box.left), y(to) - (event.clientY - box.top)));
    const best = away.indexOf(Math.min(...away));
    return away[best] <= GRAB ? best : -1;
  };

  root.addEventListener("pointerdown", (event) => {
    if (event.target !== canvas()) return;
    canvas().setPointerCapture(event.pointerId);
    canvas().focus();
    point = nearest(event);
    if (point < 0) {
      const [to, level] = levelAt(event);
      point = points().filter(([from]) => from < to).length;
      set(moved([...points().slice(0, point), [to, level], ...points().slice(point)], point, [to, level]));
    }
    dragging = store.dragging = true;
    draw();
  });
  root.addEventListener("pointermove", (event) => { if (dragging) set(moved(points(), point, levelAt(event))); });
  const end = (event) => {
    if (!dragging) return;
    dragging = store.dragging = false;
    const box = canvas().getBoundingClientRect();
    const isOut = event.clientX < box.left - 30 || event.clientX > box.right + 30 || event.clientY < box.top - 30 || event.clientY > box.bottom + 30;
    if (isOut) remove(); else keepSoon(0, KEY);
  };
  root.addEventListener("pointerup", end);
  root.addEventListener("pointercancel", end);

  function remove() {
    if (points().length > 2) { set(points().filter((_, n) => n !== point)); point = Math.max(point - 1, 0); }
    keepSoon(0, KEY);
  }
  root.addEventListener("keydown", (event) => {
    if (event.target !== canvas()) return;
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (by) {
      event.preventDefault();
      event.stopPropagation();
      const size = event.shiftKey ? 5 : 0.5;
      const [from, to] = points()[point];
      set(moved(points(), point, [from + by[0] * size, to + by[1] * size]));
      keepSoon(500, KEY);
    }
    if (event.key === "Delete" || event.key === "Backspace") { event.preventDefault(); remove(); }
    if (event.key === "PageDown" || event.key === "PageUp") {
      event.preventDefault();
      point = (point + (event.key === "PageDown" ? 1 : points().length - 1)) % points().length;
      draw();
    }
  });
  root.addEventListener("click", (event) => {
    const tab = event.target.closest("[data-curve-channel]");
    if (tab) { channel = tab.dataset.curveChannel; point = 0; store.tell("grade"); draw(); }
  });
  root.addEventListener("change", (event) => {
    if (!event.target.matches("[data-curve-in], [data-curve-out]")) return;
    const value = (name) => Number(root.querySelector(`[data-curve-${name}]`).value);
    set(moved(points(), point, [value("in"), value("out")]));
    keepSoon(0, KEY);
  });
  return { draw, get channel() { return channel; } };
}
