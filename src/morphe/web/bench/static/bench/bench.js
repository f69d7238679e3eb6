// The Bench: ties ladder, picture, loupe and gauges to one grade.
import { bindKey } from "../shell/keys.js";
import { sendJson } from "../shell/send.js";
import { drawGauges, lightUp } from "./gauges.js";
import { readGrade, withNumbers } from "./grade.js";
import { liveStill, opened } from "./live.js";
import { dragged, drawLoupe } from "./loupe.js";
import { markMoments } from "./moments.js";
import { player } from "./play.js";
import { beforeEdge, fitFrame, pointIn, probe } from "./stage.js";

const root = document.querySelector("[data-bench]");
const find = (selector) => root.querySelector(selector);
const tools = JSON.parse(document.getElementById("instruments").textContent);
const outline = JSON.parse(document.getElementById("outline").textContent);
const order = Object.keys(tools);
const { steps: sorted, scopes } = JSON.parse(document.getElementById("orders").textContent);
const frame = find("[data-frame]");
const after = find("[data-after]");
const gauges = find("[data-gauges]");
const said = find("[data-said]");

const bench = { grade: readGrade(), frame: 0, shown: null, before: new Map(), open: find("#ladder").dataset.open, point: null, tapping: false };

const say = (text, problem = false) => {
  said.textContent = text;
  said.classList.toggle("problem", problem);
  said.classList.toggle("fresh", Boolean(text));
};

const still = liveStill(root.dataset.still, (shown, asked) => {
  bench.shown = shown;
  after.src = shown.picture;
  root.dataset.shown = JSON.stringify(asked.grade);
  draw();
  motion.changed();
}, (problem) => say(problem, true));

const look = () => still(bench.grade, bench.frame);

function draw() {
  if (!bench.shown) return;
  if (!gauges.hidden) drawGauges(gauges, bench.shown, outline, bench.point);
  const canvas = find(`[data-loupe="${bench.open}"]`);
  if (canvas) drawLoupe(canvas, tools[bench.open], bench.shown, bench.before.get(bench.frame), outline);
  now();
}

// The number that the open rung is judged by, as it stands at this moment.
function now() {
  const node = find(`[data-now="${bench.open}"]`);
  const tool = tools[bench.open];
  const mark = bench.shown.marks[bench.open];
  if (!node || !mark || mark.value === null || !tool.drags) return;
  node.textContent = `Now ${mark.value.toFixed(1).replace("-", "−")} ${mark.unit}.`;
}

async function readBefore() {
  find("[data-before]").src = find(`[data-moment="${bench.frame}"]`).dataset.beforeUrl;
  if (bench.before.has(bench.frame)) return;
  const asked = bench.frame;
  const empty = { ...bench.grade, source: [], layers: [] };
  const answer = await sendJson(root.dataset.still, { grade: empty, frame: asked });
  if (answer.ok) { bench.before.set(asked, opened(await answer.json())); look(); }
}

// --- numbers -----------------------------------------------------------------------------------

const controls = (key) => [...root.querySelectorAll(`[data-rung="${key}"] [data-control]`)];

function numbersOf(key) {
  const numbers = {};
  for (const row of controls(key)) numbers[row.dataset.control] = Number(row.querySelector("input[type=number]").value);
  return numbers;
}

function setNumbers(key, numbers) {
  for (const row of controls(key)) {
    const name = row.dataset.control;
    if (!(name in numbers)) continue;
    const box = row.querySelector("input[type=number]");
    const value = Math.min(Math.max(numbers[name], Number(box.min)), Number(box.max));
    box.value = Number(value.toFixed(2));
    row.querySelector("input[type=range]").value = value;
  }
  bench.grade = withNumbers(bench.grade, tools[key].layer, key, numbersOf(key), sorted, scopes);
  look();
}

let waiting = null;
function keepSoon(key, delay = 0) {
  clearTimeout(waiting);
  waiting = setTimeout(() => keep(bench.grade, key), delay);
}

function keep(grade, key, change = "") {
  clearTimeout(waiting);
  htmx.ajax("POST", root.dataset.keep, { target: "#ladder", swap: "outerHTML", values: { grade: JSON.stringify(grade), open: key, change } });
}

function nudge(by) {
  const first = controls(bench.open)[0];
  if (!first) return false;
  const name = first.dataset.control;
  const step = Number(first.querySelector("input[type=range]").step);
  setNumbers(bench.open, { [name]: numbersOf(bench.open)[name] + by * step });
  keepSoon(bench.open, 500);
  return true;
}

// --- ladder ------------------------------------------------------------------------------------

function openRung(key, focus = false) {
  bench.open = key;
  for (const rung of root.querySelectorAll("[data-rung]")) {
    const here = rung.dataset.rung === key;
    rung.classList.toggle("open", here);
    rung.querySelector(".rung-name").setAttribute("aria-expanded", String(here));
    if (here && focus) rung.querySelector(".rung-name").focus();
  }
  tap(false);
  draw();
}

function stepRung(by) {
  const at = order.indexOf(bench.open) + by;
  if (at >= 0 && at < order.length) openRung(order[at]);
}

root.addEventListener("click", (event) => {
  const name = event.target.closest(".rung-name");
  if (name) openRung(name.closest("[data-rung]").dataset.rung);
  const step = event.target.closest("[data-rung-step]");
  if (step) stepRung(Number(step.dataset.rungStep));
  if (event.target.closest("[data-tap-switch]")) tap(!bench.tapping);
  const moment = event.target.closest("[data-moment]");
  if (moment) goTo(Number(moment.dataset.moment));
});

root.addEventListener("input", (event) => {
  const row = event.target.closest("[data-control]");
  if (!row || event.target.value === "") return;
  setNumbers(row.closest("[data-rung]").dataset.rung, { [row.dataset.control]: Number(event.target.value) });
});
root.addEventListener("change", (event) => {
  const row = event.target.closest("[data-control]");
  if (row) keepSoon(row.closest("[data-rung]").dataset.rung);
});

document.body.addEventListener("htmx:configRequest", (event) => {
  const box = event.detail.parameters;
  if (!box.has?.("open") && !("open" in box)) box.open = bench.open;
});
document.body.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id !== "ladder") return;
  bench.grade = readGrade();
  openRung(find("#ladder").dataset.open);
  look();
  markMoments(root, bench.grade);
});

// --- loupe -------------------------------------------------------------------------------------

let drag = null;
root.addEventListener("pointerdown", (event) => {
  const canvas = event.target.closest("[data-loupe]");
  const tool = canvas && tools[canvas.dataset.loupe];
  if (!tool || !tool.drags) return;
  canvas.setPointerCapture(event.pointerId);
  drag = { canvas, tool, x: event.clientX, y: event.clientY, start: numbersOf(tool.key) };
});
root.addEventListener("pointermove", (event) => {
  if (!drag) return;
  setNumbers(drag.tool.key, dragged(drag.tool, drag.start, event.clientX - drag.x, event.clientY - drag.y, drag.canvas));
});
const endDrag = () => { if (drag) { keepSoon(drag.tool.key); drag = null; } };
root.addEventListener("pointerup", endDrag);
root.addEventListener("pointercancel", endDrag);

// --- picture -----------------------------------------------------------------------------------

function goTo(number) {
  const moments = [...root.querySelectorAll("[data-moment]")];
  bench.frame = Math.min(Math.max(number, 0), moments.length - 1);
  motion.leave();
  for (const m of moments) m.setAttribute("aria-checked", String(Number(m.dataset.moment) === bench.frame));
  look();
  readBefore();
}

function tap(on) {
  bench.tapping = on;
  frame.classList.toggle("tapping", on);
  find("[data-tap-switch]")?.setAttribute("aria-pressed", String(on));
  if (on) say("Tap something in the picture that is white or grey.");
}

frame.addEventListener("click", async (event) => {
  if (!bench.tapping) return;
  const answer = await sendJson(root.dataset.tap, { grade: bench.grade, frame: bench.frame, ...pointIn(frame, event) });
  const data = await answer.json();
  if (!answer.ok) { say(data.problem, true); return; }
  tap(false);
  say(data.sentence);
  keep(data.grade, "balance", "White balance by tapping");
});

fitFrame(find("[data-surround]"), frame);
const motion = player(root, frame, () => ({ grade: bench.grade }), say);
const edge = beforeEdge(frame, find("[data-compare]"));
probe(frame, root.dataset.probe, () => ({ grade: bench.grade, frame: bench.frame }), (point) => { bench.point = point; draw(); });
lightUp(gauges, find("[data-lit-picture]"), root.dataset.lit, () => ({ grade: bench.grade, frame: bench.frame }));

const gaugeSwitch = find("[data-gauges-switch]");
function showGauges(on) {
  gauges.hidden = !on;
  gaugeSwitch.setAttribute("aria-expanded", String(on));
  draw();
}
gaugeSwitch.addEventListener("click", () => showGauges(gauges.hidden));

// --- keys --------------------------------------------------------------------------------------

const press = (selector) => () => { const button = find(selector); if (button && !button.disabled) button.click(); };
const inOpen = (selector) => () => press(`[data-rung="${bench.open}"] ${selector}`)();
for (let n = 1; n <= 9; n += 1) bindKey(String(n), () => openRung(order[n - 1], true));
bindKey("a", inOpen("[data-accept]"));
bindKey("x", inOpen("[data-switch]"));
bindKey("u", press("[data-undo]"));
bindKey("r", press("[data-redo]"));
bindKey("g", () => showGauges(gauges.hidden));
bindKey("p", motion.toggle);
bindKey(",", () => goTo(bench.frame - 1));
bindKey(".", () => goTo(bench.frame + 1));
for (const key of ["b", "B"]) bindKey(key, (event) => { if (!event.repeat) edge.hold(true); });
addEventListener("keyup", (event) => { if (event.key.toLowerCase() === "b") edge.hold(false); });
const arrows = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 };
for (const [key, by] of Object.entries(arrows)) {
  bindKey(key, (event) => {
    if (event.target.matches("input, select, [data-moment]")) return false;
    return nudge(by * (event.shiftKey ? 10 : 1));
  });
}

new ResizeObserver(draw).observe(gauges);
document.addEventListener("theme-changed", draw);
if (matchMedia("(max-width: 700px)").matches) showGauges(false);
look();
readBefore();
markMoments(root, bench.grade);
