// The tone strip: a bar from black to white with three pins; a pin's height is its amount, sideways it turns its hue.
import { layerOf, withNumbers } from "./grade.js";

const SVG = "http://www.w3.org/2000/svg";
const PINS = [["dark", "Shadows", 66], ["mid", "Middle", 150], ["bright", "Lights", 234]]; // and where they stand of 300
const [FOOT, HIGH] = [70, 60]; // of 98: the bar’s upper edge, and how high a full pin stands above it
const FIRST = { dark_hue: 240, dark: 0, mid_hue: 60, mid: 0, bright_hue: 60, bright: 0 };
const [LAYER, KEY] = ["style", "tint"];
const round = (degrees) => ((Math.round(degrees) % 360) + 360) % 360;

function made(kind, attributes, ...inside) {
  const node = document.createElementNS(SVG, kind);
  for (const [name, value] of Object.entries(attributes)) node.setAttribute(name, value);
  node.append(...inside);
  return node;
}

export function toneStrip(root, store, orders, keepSoon, shown) {
  const box = () => root.querySelector("[data-strip]");
  const hues = () => JSON.parse(document.getElementById("ring").textContent);
  const colourOf = (hue) => { const all = hues(); return all[Math.round((hue / 360) * all.length) % all.length]; };
  const isOpposed = () => box()?.querySelector("[data-opposed]").checked;
  const tint = () => {
    const step = layerOf(store.grade, LAYER)?.steps.find((one) => one.step === KEY) ?? {};
    return Object.fromEntries(Object.entries(FIRST).map(([name, rest]) => [name, typeof step[name] === "number" ? step[name] : rest]));
  };
  const tintOnly = (values) => ({ ...tint(), ...values });

  function set(values) {
    if (isOpposed()) {
      if ("dark_hue" in values) values.bright_hue ??= round(values.dark_hue + 180);
      else if ("bright_hue" in values) values.dark_hue = round(values.bright_hue + 180);
    }
    store.edit((grade) => withNumbers(grade, LAYER, KEY, tintOnly(values), orders));
    draw();
  }
  const keep = (delay = 0) => keepSoon(delay, "region", "Tints by tone set by hand");

  function draw() {
    const place = box();
    if (!place) return;
    const svg = place.querySelector("svg");
    const held = document.activeElement?.dataset?.pin;
    const now = tint();
    const bar = (shown()?.strip ?? []).map((fill, at, all) => made("rect", { x: (300 * at) / all.length, y: FOOT, width: 300 / all.length + 0.5, height: 16, fill }));
    const pins = PINS.map(([name, label, x]) => {
      const y = FOOT - (HIGH * now[name]) / 100;
      const [hue, amount] = [Math.round(now[`${name}_hue`]), Math.round(now[name])];
      return made("g", {
        class: "pin", "data-pin": name, tabindex: 0, role: "slider", "aria-label": `${label}: amount; left and right turn the hue`,
        "aria-valuemin": 0, "aria-valuemax": 100, "aria-valuenow": amount, "aria-valuetext": `${amount} % at ${hue}°`,
      }, made("line", { x1: x, x2: x, y1: FOOT, y2: y }), made("circle", { cx: x, cy: y, r: 18, class: "reach" }),
      made("circle", { cx: x, cy: y, r: 9, fill: colourOf(hue) }), made("text", { x, y: 94 }, `${label} ${amount} %`));
    });
    svg.replaceChildren(...bar, ...pins);
    if (held) svg.querySelector(`[data-pin="${held}"]`)?.focus();
  }

  root.addEventListener("pointerdown", (event) => {
    const pin = event.target.closest?.("[data-pin]");
    if (!pin) return;
    const { pin: name } = pin.dataset;
    const svg = pin.ownerSVGElement;
    const scale = 300 / svg.getBoundingClientRect().width;
    const start = { x: event.clientX, y: event.clientY, hue: tint()[`${name}_hue`], amount: tint()[name] };
    store.dragging = true;
    svg.setPointerCapture(event.pointerId);
    const move = (moved) => {
      const amount = start.amount - ((moved.clientY - start.y) * scale * 100) / HIGH;
      set({ [name]: Math.round(Math.min(Math.max(amount, 0), 100)), [`${name}_hue`]: round(start.hue + (moved.clientX - start.x) * scale) });
    };
    svg.addEventListener("pointermove", move);
    svg.addEventListener("lostpointercapture", () => {
      svg.removeEventListener("pointermove", move);
      store.dragging = false;
      keep();
    }, { once: true });
    event.preventDefault();
    svg.querySelector(`[data-pin="${name}"]`)?.focus();
  });
  root.addEventListener("keydown", (event) => {
    const name = event.target.closest?.("[data-pin]")?.dataset.pin;
    const way = { ArrowUp: [1, 0], ArrowDown: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[event.key];
    if (!name || !way) return;
    event.preventDefault();
    event.stopPropagation();
    const by = event.shiftKey ? 10 : 2;
    if (way[0]) set({ [name]: Math.min(Math.max(tint()[name] + by * way[0], 0), 100) });
    else set({ [`${name}_hue`]: round(tint()[`${name}_hue`] + by * way[1]) });
    keep(500);
  });
  root.addEventListener("click", (event) => {
    const pair = event.target.closest("[data-pair]");
    if (!pair) return;
    const [dark, bright] = pair.dataset.pair.split(" ").map(Number);
    const now = tint();
    set({ dark_hue: dark, bright_hue: bright, dark: now.dark || 30, bright: now.bright || 25 });
    keep();
  });
  return { draw };
}
