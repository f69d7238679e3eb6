// The Bench: ties ladder, picture, loupe and gauges to the one grade of the store.
import { bindKey } from "../shell/keys.js";
import { showAside } from "./aside.js";
import { curves } from "./curves.js";
import { drawGauges, lightUp, markPoint } from "./gauges.js";
import { readGrade, withLayer } from "./grade.js";
import { grainLoupe } from "./grain.js";
import { liveStill } from "./live.js";
import { momentsLine } from "./line.js";
import { drawLoupe } from "./loupe.js";
import { ghostOf, marker } from "./mark.js";
import { markMoments } from "./moments.js";
import { numbers } from "./numbers.js";
import { palette } from "./palette.js";
import { player } from "./play.js";
import { regionEditor } from "./regions.js";
import { beforeEdge, fitFrame, probe } from "./stage.js";
import { keyOf, makeStore } from "./store.js";
import { toneStrip } from "./strip.js";
import { tapper } from "./tap.js";
import { pinchable, swipeable } from "./touch.js";
import { showInvented } from "./water.js";

const root = document.querySelector("[data-bench]");
const find = (selector) => root.querySelector(selector);
const read = (id) => JSON.parse(document.getElementById(id).textContent);
const [tools, outline, orders] = ["instruments", "outline", "orders"].map(read);
const order = () => [...root.querySelectorAll("[data-rung]")].map((rung) => rung.dataset.rung);
const frame = find("[data-frame]");
const surround = find("[data-surround]");
const gauges = find("[data-gauges]");
const said = find("[data-said]");
const moments = () => [...root.querySelectorAll("[data-moment]")];

const store = makeStore(readGrade());
store.open = find("#rungs").dataset.open;
store.under = find("#rungs").dataset.under;
const before = new Map();
let shown = null;

const say = (text, problem = false) => {
  said.textContent = text;
  said.classList.toggle("problem", problem);
};

const leftOut = find("[data-left-out]");
const still = liveStill(root.dataset.still, before, (answer, asked) => {
  shown = answer;
  find("[data-after]").src = answer.picture;
  root.dataset.shown = JSON.stringify(asked.grade);
  root.dataset.stills = Number(root.dataset.stills || 0) + 1;
  if (!store.dragging) hand.refill(answer.numbers, false);
  draw();
}, (problem) => say(problem, true), (busy) => root.toggleAttribute("data-looking", busy));
const asked = () => ({ grade: store.grade, frame: store.frame, hdr: store.hdr, measure: store.box ? { box: store.box } : store.measure && store.region ? { layer: store.region, side: store.measure } : null });
const look = (grade = store.grade) => still(grade, store.frame, asked().measure, { hdr: store.hdr, palette: store.open === "families", curve: store.open === "curves" ? curve.channel : "" });

function draw() {
  if (!shown) return;
  showAside(shown.aside);
  leftOut.textContent = shown.left_out;
  leftOut.parentElement.hidden = !shown.left_out;
  if (!gauges.hidden) drawGauges(gauges, shown, outline, ghost.scopes);
  const canvas = find(`[data-loupe="${store.open}"]`);
  if (canvas) drawLoupe(canvas, tools[store.open], shown, before.get(keyOf(asked())), outline);
  nowAt();
  skinNow();
  colours.draw();
  curve.draw();
  grain.draw();
  strip.draw();
  region.draw();
  line.draw(time());
}

// How skin fares through the whole grade, and which step moves it off its line.
function skinNow() {
  const { skin } = shown;
  const watch = find("[data-watch]");
  watch.hidden = !skin?.warning;
  watch.textContent = skin?.warning ?? "";
  const node = find("[data-skin-now]");
  if (node) node.textContent = skin ? `At the end of the work skin lies ${Math.abs(skin.off_deg).toFixed(1)}° off its line, lit at ${skin.luma.toFixed(0)} %.` : "";
}

// The number that the open rung is judged by, as it stands at this moment.
function nowAt() {
  const node = find(`[data-now="${store.open}"]`);
  const mark = shown.marks[store.open];
  if (!node || !mark || mark.value === null || !tools[store.open].drags) return;
  node.textContent = `Now ${mark.value.toFixed(1).replace("-", "−")} ${mark.unit}.`;
}

// Where the clip lies in its file, in seconds: a shot is a part of it.
const [begin, end] = [Number(root.dataset.begin), Number(root.dataset.end)];
const span = { begin, end, length: Math.max(end - begin, 0.001) };
const motion = player(root, frame, store, say, span);
const time = () => motion.time ?? Number(moments()[store.frame]?.dataset.time ?? 0);
const hand = numbers(root, store, tools, orders, root.dataset.keep, time, (grade) => look(grade));
const region = regionEditor(frame, store, () => shown?.regions ?? {}, time, (delay) => hand.keepSoon(delay, "region"));
const colours = palette(root, store, orders, hand.keepSoon, () => shown);
const strip = toneStrip(root, store, orders, hand.keepSoon, () => shown);
const curve = curves(root, store, orders, hand.keepSoon, () => shown);
const ghost = ghostOf(root, () => draw());
marker(root, frame, store, () => look());
const grain = grainLoupe(root, store, say);
const line = momentsLine(find("[data-moments-line]"), span, store, tools, (seconds) => motion.seek(seconds));

store.on("grade", () => {
  root.toggleAttribute("data-unsaved", store.unsaved);
  look();
});
store.on("time", () => {
  const at = (100 * (motion.time - span.begin)) / span.length;
  const now = find("[data-time-now]");
  if (now) for (const end of ["x1", "x2"]) now.setAttribute(end, at);
  if (shown) Object.assign(shown.regions, motion.places());
  region.draw();
  line.draw(motion.time);
});

// --- ladder ------------------------------------------------------------------------------------

function openRung(key, focus = false) {
  store.open = key;
  for (const rung of root.querySelectorAll("[data-rung]")) {
    const here = rung.dataset.rung === key;
    rung.classList.toggle("open", here);
    rung.querySelector(".rung-name").setAttribute("aria-expanded", String(here));
    if (here && focus) rung.querySelector(".rung-name").focus();
  }
  taps.end();
  look();
  draw();
  markMoments(root, store.grade, store.open);
}

function stepRung(by) {
  const keys = order();
  const at = keys.indexOf(store.open) + by;
  if (at >= 0 && at < keys.length) openRung(keys[at]);
}

// What gauges and marks are read from: all of the picture, the open region's inside, or all but it.
function measure(side) {
  store.measure = store.region ? side : "";
  for (const button of root.querySelectorAll("[data-measure]")) button.setAttribute("aria-pressed", String(button.dataset.measure === store.measure));
  look();
}

function openRegion() {
  store.region = find("[data-region][open]")?.dataset.region ?? "";
  frame.classList.toggle("with-region", Boolean(store.region));
  measure(store.measure);
  find("[data-region][open]")?.scrollIntoView({ block: "nearest" });
  region.draw();
  line.draw(time());
}

root.addEventListener("click", (event) => {
  const at = (selector) => event.target.closest(selector);
  if (at(".rung-name")) openRung(at("[data-rung]").dataset.rung);
  if (at("[data-rung-step]")) stepRung(Number(at("[data-rung-step]").dataset.rungStep));
  if (at("[data-moment]")) goTo(Number(at("[data-moment]").dataset.moment));
  if (at("[data-measure]")) measure(at("[data-measure]").dataset.measure);
  if (at("[data-set-moment]")) region.setMoment(at("[data-set-moment]").dataset.setMoment);
});
root.addEventListener("toggle", (event) => {
  if (!event.target.matches?.("[data-region]")) return;
  if (event.target.open) for (const other of root.querySelectorAll("[data-region][open]")) if (other !== event.target) other.open = false;
  openRegion();
}, true);

// Held, a layer is taken out of the picture; let go, it is there again.
const without = (event, held) => {
  const id = event.target.closest?.("[data-without]")?.dataset.without;
  const key = event.target.closest?.("[data-without-step]")?.dataset.withoutStep;
  if (key) look(held ? withLayer(store.grade, tools[key].layer, (layer) => { layer.steps = layer.steps.filter((step) => step.step !== key); }) : store.grade);
  if (id) look(held ? withLayer(store.grade, id, (layer) => { layer.on = false; }) : store.grade);
};
for (const [kind, held] of [["pointerdown", true], ["pointerup", false], ["pointerout", false]]) root.addEventListener(kind, (event) => without(event, held));
for (const [kind, held] of [["keydown", true], ["keyup", false]]) root.addEventListener(kind, (event) => { if (event.key === " " || event.key === "Enter") without(event, held); });

document.body.addEventListener("htmx:configRequest", (event) => {
  if (["parts", "shots", "still-said"].includes(event.detail.target?.id)) event.detail.parameters.time = time().toFixed(3);
  if (event.detail.target?.id !== "ladder") return;
  event.detail.openThen = store.open;
  const box = event.detail.parameters;
  const set = (name, value) => { if (!(name in box) && !box.has?.(name)) box[name] = value; };
  set("open", store.open);
  set("region", store.region);
  set("revision", store.revision);
  set("under", store.under);
  set("time", time().toFixed(3));
  // As it is when it is sent, which may be later than it was asked for; what was set just now is kept first.
  if (store.unsaved || event.detail.path === root.dataset.keep) box.grade = JSON.stringify(store.grade);
});
// Answers may come in another order than they were asked for: what is newer stays, and is asked for once more.
let [sent, drawn] = [0, 0];
document.body.addEventListener("htmx:beforeSwap", (event) => {
  const { target, xhr } = event.detail;
  if (target.id !== "ladder") return;
  const isOld = xhr.turn < drawn;
  if (isOld) htmx.trigger(document.body, "ladder-is-old");
  if (isOld || store.dragging) event.detail.shouldSwap = false; // under the hand it stays; letting go brings a new one
  else drawn = xhr.turn;
});
document.body.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id !== "ladder") return;
  const { parameters: asked, openThen, verb } = event.detail.requestConfig;
  const carried = verb === "get" ? 0 : Number(asked.revision ?? asked.get?.("revision") ?? store.revision); // fetching keeps no edit
  const rest = store.answered(readGrade(), carried);
  store.under = find("#rungs").dataset.under;
  lightAnew();
  openRung(store.open === openThen ? find("#rungs").dataset.open : store.open); // opened since then: it stays open
  openRegion();
  hand.refill(shown?.numbers, rest);
  if (rest) hand.keepSoon(500);
});
// The chart of light over time comes along with a ladder. It is put in its place by hand: a button that was swapped
// away while it waited for its answer has no page around it that a swap out of band could be made in.
function lightAnew() {
  const [chart, place] = [find("[data-over-time]")?.content.firstElementChild, document.getElementById("over-time")];
  if (!chart || !place) return;
  place.replaceWith(chart);
  htmx.process(chart);
}
document.body.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target.id === "ladder") draw(); // settling empties a canvas that was there before
});
// Another device changed the clip: once nothing of this page is on its way, it is told, and what is new is fetched.
const other = find("[data-elsewhere]");
let underWay = 0;
const ofLadder = (event) => event.detail.target?.id === "ladder" || event.detail.target?.closest?.("#ladder");
function nowUnderWay(by) {
  underWay += by;
  root.toggleAttribute("data-asking", underWay > 0);
}
// A button that is swapped away while it waits has no page that would hear of its answer: the request itself is asked.
document.body.addEventListener("htmx:beforeSend", (event) => {
  if (!ofLadder(event)) return;
  event.detail.xhr.turn = sent += 1;
  nowUnderWay(1);
  event.detail.xhr.addEventListener("loadend", () => nowUnderWay(-1), { once: true });
});
async function askElsewhere() {
  if (store.unsaved || store.dragging || underWay > 0) { setTimeout(askElsewhere, 500); return; }
  const answer = await fetch(`${other.dataset.elsewhere}?under=${store.under}`);
  if (answer.status !== 200) return;
  other.textContent = (await answer.json()).sentence;
  htmx.trigger(document.body, "ladder-is-old");
}
other.addEventListener("refresh", askElsewhere);

document.body.addEventListener("ladder-is-old", () => {
  htmx.ajax("GET", `${root.dataset.ladder}?open=${store.open}&region=${store.region}`, { target: "#ladder", swap: "innerHTML" });
});

// --- picture -----------------------------------------------------------------------------------

function goTo(number) {
  const all = moments();
  store.frame = Math.min(Math.max(number, 0), all.length - 1);
  motion.leave();
  for (const one of all) {
    const here = Number(one.dataset.moment) === store.frame;
    one.setAttribute("aria-checked", String(here));
    one.tabIndex = here ? 0 : -1;
  }
  find("[data-before]").src = all[store.frame].dataset.beforeUrl;
  look();
}

const taps = tapper(root, frame, store, say, (data, meaning) => {
  store.edit(() => data.grade);
  if (meaning === "colour" || meaning === "green") { const edits = data.grade.layers.find((layer) => layer.id === "clip").steps.find((step) => step.step === "families").edits; colours.choose(edits.at(-1)[0]); }
  if (data.step) openRung(data.step);
  if (data.region) store.region = data.region;
  hand.keepSoon(0, data.step || "finish", data.change || "Set by a tap");
});

fitFrame(surround, frame);
const edge = beforeEdge(frame, find("[data-compare]"));
probe(frame, root.dataset.probe, asked, (point) => markPoint(gauges, point));
lightUp(gauges, find("[data-lit-picture]"), root.dataset.lit, asked);
showInvented(root, find("[data-lit-picture]"), root.dataset.lit, asked);

const isSmall = matchMedia("(max-width: 700px), (max-height: 500px)");
pinchable(surround, frame, find("[data-whole]"));
swipeable(surround, (by) => { if (!surround.hasAttribute("data-near") && !frame.matches(".tapping, .with-region, .marking")) goTo(store.frame + by); }, "[data-edge], [data-handle], [data-play-bar], button");
swipeable(find("#ladder"), (by) => { if (isSmall.matches) stepRung(by); }, "input, select, textarea, canvas, svg, table, [role=slider]");

const hdrSwitch = find("[data-hdr-switch]");
hdrSwitch?.addEventListener("click", () => {
  store.hdr = !store.hdr;
  hdrSwitch.setAttribute("aria-pressed", String(store.hdr));
  look();
});
const gaugeSwitch = find("[data-gauges-switch]");
function showGauges(on) {
  gauges.hidden = !on;
  gaugeSwitch.setAttribute("aria-expanded", String(on));
  draw();
}
const isSilent = () => find("#rungs").hasAttribute("data-silent"); // a school by eye has its scopes folded
let silent = isSilent();
document.body.addEventListener("htmx:afterSettle", () => {
  if (silent !== isSilent()) showGauges(silent);
  silent = isSilent();
});
gaugeSwitch.addEventListener("click", () => showGauges(gauges.hidden));

// --- keys --------------------------------------------------------------------------------------

const press = (selector) => () => { const button = find(selector); if (button && !button.disabled) button.click(); };
const inOpen = (selector) => () => press(`[data-rung="${store.open}"] ${selector}`)();
for (let n = 1; n <= 9; n += 1) bindKey(String(n), () => openRung(order()[n - 1], true));
bindKey("0", () => openRung(order()[9], true));
bindKey("]", () => stepRung(1));
bindKey("[", () => stepRung(-1));
bindKey("a", inOpen("[data-accept]"));
bindKey("x", inOpen("[data-switch]"));
bindKey("u", press("[data-undo]"));
bindKey("r", press("[data-redo]"));
bindKey("g", () => showGauges(gauges.hidden));
bindKey("p", motion.toggle);
bindKey("t", press(".stage-tools [data-tap-switch]"));
bindKey(",", () => goTo(store.frame - 1));
bindKey(".", () => goTo(store.frame + 1));
for (const key of ["b", "B"]) bindKey(key, (event) => { if (!event.repeat) edge.hold(true); });
addEventListener("keyup", (event) => { if (event.key.toLowerCase() === "b") edge.hold(false); });
const arrows = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 };
for (const [key, by] of Object.entries(arrows)) {
  bindKey(key, (event) => {
    if (event.target.matches("input, select, [data-moment], [data-handle], [data-curves]")) return false;
    return hand.nudge(by * (event.shiftKey ? 10 : 1));
  });
}

// Judging frames are one choice: the tab key comes to the chosen one, arrows choose another.
find("[role=radiogroup]").addEventListener("keydown", (event) => {
  const by = arrows[event.key] && (["ArrowRight", "ArrowDown"].includes(event.key) ? 1 : -1);
  if (!by) return;
  event.preventDefault();
  goTo(store.frame + by);
  moments()[store.frame].focus();
});

new ResizeObserver(draw).observe(gauges);
document.addEventListener("theme-changed", draw);
if (isSmall.matches || isSilent()) showGauges(false);
find("[data-before]").src = moments()[0]?.dataset.beforeUrl ?? "";
const part = document.getElementById(`shared-${new URLSearchParams(location.search).get("open")}`);
if (part) { part.open = true; part.scrollIntoView({ block: "nearest" }); }
openRegion();
look();
markMoments(root, store.grade, store.open);
