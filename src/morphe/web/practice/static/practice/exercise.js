// One exercise: scopes are drawn, a place is tapped or a choice made, and the answer lights up in both.
import { bindKey } from "../shell/keys.js";
import { drawHistogram, drawParade, drawVector, drawWaveform, fitCanvas, levelToY, theme, unpack, HIGH, LOW } from "../bench/scopes.js";

const { scopes: packed, outline } = JSON.parse(document.getElementById("drawn").textContent);
const scopes = Object.fromEntries(Object.entries(packed).map(([name, one]) => [name, unpack(one)]));
const form = document.querySelector("[data-exercise]");
const target = form.querySelector("[data-tap]");
const mark = { x: 0.5, y: 0.5 };
let proof = null;

const DRAW = {
  luma: (ctx, box, colours) => drawWaveform(ctx, scopes.luma, box, colours),
  parade: (ctx, box, colours) => drawParade(ctx, scopes.parade, box, colours),
  vector: (ctx, box, colours) => drawVector(ctx, scopes.vector, box, colours, { outline, skin: [-5, 5] }),
  histogram: (ctx, box, colours) => drawHistogram(ctx, scopes.histogram, box, colours),
};

function drawArea(ctx, box, { left, right, low, high }, colours) {
  const [top, foot] = [high + 1, low - 1].map((level) => levelToY(level, box, [LOW, HIGH]));
  ctx.strokeStyle = colours.accent;
  ctx.lineWidth = 2.5;
  ctx.strokeRect(box.x + left * box.w, top, Math.max((right - left) * box.w, 6), Math.max(foot - top, 6));
  ctx.lineWidth = 1;
}

function draw() {
  const colours = theme();
  for (const canvas of form.querySelectorAll("[data-scope]")) {
    const { ctx, width, height } = fitCanvas(canvas);
    const box = { x: 0, y: 0, w: width, h: height };
    ctx.clearRect(0, 0, width, height);
    DRAW[canvas.dataset.scope](ctx, box, colours);
    const isWide = proof?.area && proof.area.left === 0 && proof.area.right === 1;
    if (proof?.area && (canvas.dataset.scope === "luma" || (isWide && canvas.dataset.scope === "parade"))) drawArea(ctx, box, proof.area, colours);
    canvas.dataset.drawn = "yes";
  }
}

const surface = () => target.querySelector("canvas, img");

function placeMark() {
  let dot = target.querySelector(".tap-mark");
  if (!dot) {
    dot = document.createElement("span");
    dot.className = "tap-mark";
    target.append(dot);
  }
  const on = surface();
  dot.style.left = `${on.offsetLeft + mark.x * on.clientWidth}px`;
  dot.style.top = `${on.offsetTop + mark.y * on.clientHeight}px`;
}

function answer() {
  form.elements.x.value = mark.x.toFixed(4);
  form.elements.y.value = (form.dataset.taps === "waveform" ? HIGH - mark.y * (HIGH - LOW) : mark.y).toFixed(4);
  form.requestSubmit();
}

if (target) {
  target.addEventListener("click", (event) => {
    if (proof) return;
    const box = surface().getBoundingClientRect();
    mark.x = Math.min(Math.max((event.clientX - box.left) / box.width, 0), 1);
    mark.y = Math.min(Math.max((event.clientY - box.top) / box.height, 0), 1);
    placeMark();
    answer();
  });
  target.addEventListener("keydown", (event) => {
    const by = event.shiftKey ? 0.1 : 0.02;
    const moves = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] };
    if (proof) return;
    if (event.key === "Enter" || event.key === " ") { event.preventDefault(); answer(); return; }
    if (!moves[event.key]) return;
    event.preventDefault();
    mark.x = Math.min(Math.max(mark.x + moves[event.key][0], 0), 1);
    mark.y = Math.min(Math.max(mark.y + moves[event.key][1], 0), 1);
    placeMark();
  });
}

form.querySelectorAll("[data-choice]").forEach((choice, at) => bindKey(`${at + 1}`, () => choice.click()));

// The answer: nothing can be changed any more, and what it speaks of lights up.
document.body.addEventListener("htmx:afterSettle", () => {
  const found = document.getElementById("proof");
  if (!found || proof) return;
  proof = JSON.parse(found.textContent);
  for (const one of form.querySelectorAll("[data-choice]")) {
    one.disabled = true;
    one.classList.toggle("choice-right", Number(one.value) === proof.right);
    one.classList.toggle("choice-chosen", Number(one.value) === proof.chosen);
  }
  if (proof.lit) {
    const lit = new Image();
    lit.className = "lit-picture";
    lit.alt = "What answers, lit";
    lit.src = `data:image/png;base64,${proof.lit}`;
    const shown = form.querySelector("[data-shown]") || form.querySelectorAll(".picture")[proof.scope_of];
    shown.append(lit);
  }
  draw();
  document.querySelector("[data-next]").focus();
});

document.addEventListener("theme-changed", draw);
new ResizeObserver(draw).observe(form);
draw();
