// The palette of this frame: swatches before → after, and the edit of the chosen one on a ring of hues.
import { layerOf, withNumbers } from "./grade.js";
import { fitCanvas, theme } from "./scopes.js";
import { heldUntilUp } from "./store.js";

const FIELDS = ["at", "below", "above", "hue", "strength", "depth", "tone"];
const KEY = "families";
const SVG = "http://www.w3.org/2000/svg";
const SPANS = { below: [8, 90], above: [8, 90], hue: [-25, 25] }; // how far the ring's handles go, in degrees
const away = (from, to) => ((to - from + 540) % 360) - 180;
const radians = (degrees) => ((degrees - 90) * Math.PI) / 180;

export function palette(root, store, orders, keepSoon, shown) {
  let chosen = null; // the hue of the chosen colour: it stays chosen while the list is drawn anew
  const box = () => root.querySelector("[data-palette]");
  const rows = () => shown()?.palette?.rows ?? [];
  const edits = () => layerOf(store.grade, "clip")?.steps.find((step) => step.step === KEY)?.edits ?? [];
  const editOf = (row) => edits().find((edit) => Math.abs(edit[0] - row.at) < 0.5) ?? [row.at, row.below, row.above, 0, 0, 0, 0];
  const isChosen = (row) => chosen !== null && Math.abs(row.at - chosen) < 0.6;
  const current = () => rows().find(isChosen) ?? rows()[0];

  function set(changed) {
    const row = current();
    if (!row) return;
    const edit = FIELDS.map((name, at) => changed[name] ?? editOf(row)[at]);
    store.edit((grade) => {
      const kept = layerOf(grade, "clip")?.steps.find((step) => step.step === KEY)?.edits ?? [];
      return withNumbers(grade, "clip", KEY, { edits: [...kept.filter((one) => Math.abs(one[0] - edit[0]) >= 0.5), edit] }, orders);
    });
  }

  function draw() {
    const place = box();
    if (!place || store.open !== KEY) return;
    const row = current();
    const list = place.querySelector("[data-swatches]");
    list.replaceChildren(...rows().map((one) => swatch(one, one === row)));
    place.querySelector("[data-palette-rest]").textContent = shown()?.palette ? `All other colours moved by ${shown().palette.rest.toFixed(1)} (ΔE).` : "";
    place.querySelector("[data-edit-controls]").hidden = !row;
    if (!row) return;
    const edit = editOf(row);
    for (const control of place.querySelectorAll("[data-edit]")) {
      if (control.contains(document.activeElement) && store.dragging) continue;
      for (const input of control.querySelectorAll("input")) input.value = Number(edit[FIELDS.indexOf(control.dataset.edit)].toFixed(1));
    }
    ring(place.querySelector("[data-ring]"), row, edit);
  }

  function swatch(row, pressed) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "swatch";
    button.dataset.swatch = row.key;
    button.setAttribute("aria-pressed", String(pressed));
    const colour = document.createElementNS(SVG, "svg"); // its colours are attributes: styles of its own are not allowed
    colour.setAttribute("class", "swatch-colour");
    [row.before, row.after].forEach((fill, at) => {
      const half = document.createElementNS(SVG, "rect");
      for (const [name, value] of Object.entries({ x: `${50 * at}%`, width: "50%", height: "100%", fill })) half.setAttribute(name, value);
      colour.append(half);
    });
    const words = document.createElement("span");
    words.textContent = row.label;
    const share = document.createElement("span");
    share.className = "quiet";
    share.textContent = `${row.share} %${row.beyond > 2 ? ", beyond the outline" : ""}`;
    button.append(colour, words, share);
    return button;
  }

  // Hues around, the reach of the edit as an arc inside, and where its middle is turned to.
  function ring(canvas, row, edit) {
    const { ctx, width, height } = fitCanvas(canvas);
    const colours = theme();
    const [cx, cy, outer] = [width / 2, height / 2, height / 2 - 4];
    const hues = JSON.parse(document.getElementById("ring").textContent);
    ctx.clearRect(0, 0, width, height);
    ctx.lineWidth = 16;
    hues.forEach((colour, at) => {
      const from = radians((360 * at) / hues.length);
      ctx.strokeStyle = colour;
      ctx.beginPath(); ctx.arc(cx, cy, outer - 8, from - 0.01, from + (2 * Math.PI) / hues.length + 0.01); ctx.stroke();
    });
    const [at, below, above, turn] = edit;
    ctx.strokeStyle = colours.accent;
    ctx.lineWidth = 3;
    ctx.beginPath(); ctx.arc(cx, cy, outer - 24, radians(at - below), radians(at + above)); ctx.stroke();
    const spoke = (hue, from, to, colour) => {
      ctx.strokeStyle = colour;
      ctx.beginPath();
      ctx.moveTo(cx + from * Math.cos(radians(hue)), cy + from * Math.sin(radians(hue)));
      ctx.lineTo(cx + to * Math.cos(radians(hue)), cy + to * Math.sin(radians(hue)));
      ctx.stroke();
    };
    for (const end of [at - below, at + above]) {
      ctx.fillStyle = colours.accent;
      ctx.beginPath(); ctx.arc(cx + (outer - 24) * Math.cos(radians(end)), cy + (outer - 24) * Math.sin(radians(end)), 6, 0, 2 * Math.PI); ctx.fill();
    }
    spoke(at, outer - 32, outer - 16, colours.before);
    spoke(at + turn, outer - 32, outer, colours.accent);
    ctx.fillStyle = row.after;
    ctx.beginPath(); ctx.arc(cx, cy, outer - 44, 0, 2 * Math.PI); ctx.fill();
  }

  // The ring by hand: an end of the arc widens or narrows the reach, the spoke turns the hue.
  function hueUnder(canvas, event) {
    const { left, top, width, height } = canvas.getBoundingClientRect();
    const angle = Math.atan2(event.clientY - top - height / 2, event.clientX - left - width / 2);
    return ((angle * 180) / Math.PI + 450) % 360;
  }
  function handleNear(hue) {
    const [at, below, above, turn] = editOf(current());
    const apart = (place) => Math.abs(away(place, hue));
    const places = [["below", at - below], ["above", at + above], ["hue", at + turn]];
    return places.sort((one, other) => apart(one[1]) - apart(other[1]))[0][0];
  }
  function pull(name, hue) {
    const by = away(editOf(current())[0], hue) * (name === "below" ? -1 : 1);
    const [low, high] = SPANS[name];
    set({ [name]: Math.min(Math.max(Math.round(by), low), high) });
    draw();
  }
  root.addEventListener("pointerdown", (event) => {
    const canvas = event.target.closest("[data-ring]");
    if (!canvas || !current()) return;
    const name = handleNear(hueUnder(canvas, event));
    const move = (moved) => pull(name, hueUnder(canvas, moved));
    store.dragging = true;
    canvas.setPointerCapture(event.pointerId);
    canvas.addEventListener("pointermove", move);
    canvas.addEventListener("lostpointercapture", () => {
      canvas.removeEventListener("pointermove", move);
      store.dragging = false;
      keepSoon(0, KEY);
    }, { once: true });
  });
  root.addEventListener("click", (event) => {
    const button = event.target.closest("[data-swatch]");
    if (button) {
      chosen = rows().find((row) => row.key === button.dataset.swatch)?.at ?? null;
      draw();
      box().querySelector(`[data-swatch="${button.dataset.swatch}"]`)?.focus();
    }
    if (event.target.closest("[data-edit-reset]")) { set({ hue: 0, strength: 0, depth: 0, tone: 0 }); keepSoon(0, KEY); draw(); }
  });
  root.addEventListener("input", (event) => {
    const control = event.target.closest("[data-edit]");
    if (!control || event.target.value === "") return;
    const limit = event.target;
    const value = Math.min(Math.max(Number(limit.value), Number(limit.min)), Number(limit.max));
    for (const input of control.querySelectorAll("input")) if (input !== event.target) input.value = value;
    set({ [control.dataset.edit]: value });
  });
  root.addEventListener("change", (event) => { if (event.target.closest("[data-edit]")) keepSoon(0, KEY); });
  root.addEventListener("pointerdown", (event) => {
    if (!event.target.closest("[data-edit]") || event.target.type !== "range") return;
    heldUntilUp(store);
  });
  return { draw, choose(at) { chosen = at; } };
}
