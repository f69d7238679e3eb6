// Bring clips in: dropped or chosen, sent one after the other in an order that can be changed; paused, held until the
// device is charging or on Wi-Fi, and gone on with after sleep, another network, or this page loaded anew.
import { conditions } from "./conditions.js";
import { forget, keep, kept } from "./kept-files.js";
import { begin, ended, send } from "./sending.js";

const drop = document.querySelector("[data-drop]");
const input = drop.querySelector("input[type=file]");
const panel = document.querySelector("[data-sending]");
const arrivals = document.querySelector("[data-arrivals]");
const pauseButton = panel.querySelector("[data-pause]");
const leftWords = panel.querySelector("[data-left]");
const leftBehind = kept(); // by an earlier page; asked for before anything new is kept
const line = []; // files on their way, in the order they are sent
let busy = false;
let paused = false;
let wake = () => {};
let current = null; // the entry that is sent now, with what holds it
let speed = 0; // bytes a second, of the last pieces
let lock = null;

const woken = () => new Promise((done) => { wake = done; });
let mayNot = () => ""; // until it is known what the device tells of itself
const say = (entry, text) => { entry.node.querySelector("[data-said]").textContent = text; };

function row(file) {
  const node = document.getElementById("arrival").content.firstElementChild.cloneNode(true);
  node.querySelector("[data-name]").textContent = file.name;
  node.querySelector("progress").setAttribute("aria-label", `${file.name}, sent`);
  arrivals.append(node);
  const entry = { file, node, at: 0, url: "" };
  node.querySelector("[data-first]").addEventListener("click", () => sendFirst(entry));
  return entry;
}

function sendFirst(entry) {
  line.splice(line.indexOf(entry), 1);
  line.unshift(entry);
  arrivals.prepend(entry.node);
  current?.hold();
  show();
}

function end(entry, isKept = false) {
  const at = line.indexOf(entry);
  if (at >= 0) line.splice(at, 1);
  if (!isKept) forget(entry.file);
  show();
}

function refuse(entry, sentence, isKept = false) {
  entry.node.querySelector("progress").remove();
  entry.node.querySelector("[data-first]").remove();
  say(entry, sentence);
  entry.node.classList.add("notice-error");
  end(entry, isKept);
}

// Megabytes below a gigabyte, and minutes once a few pieces have told how fast it goes.
function show() {
  panel.hidden = !line.length;
  for (const entry of line) entry.node.querySelector("[data-first]").hidden = entry === line[0];
  const left = line.reduce((sum, { file, at }) => sum + file.size - at, 0);
  const size = left < 1e9 ? `${Math.max(left / 1e6, 0.1).toFixed(left < 1e7 ? 1 : 0)} MB` : `${(left / 1e9).toFixed(1)} GB`;
  const minutes = speed ? `, about ${Math.max(Math.round(left / speed / 60), 1)} min` : "";
  leftWords.textContent = `Left to send: ${line.length} ${line.length === 1 ? "clip" : "clips"}, ${size}${minutes}.`;
}

async function told(entry) {
  const outing = drop.dataset.outing;
  const answer = await begin(drop.dataset.begin, entry.file, { outing, say: (text) => say(entry, text) });
  if (answer.problem) return refuse(entry, answer.problem);
  Object.assign(entry, { url: answer.url, at: answer.at });
  document.querySelector(`[data-unfinished="${answer.url}"]`)?.remove();
  if (entry.at === entry.file.size) await arrived(entry);
  else say(entry, entry.at ? percent(entry) : "Waits its turn.");
  return show();
}

const percent = ({ at, file }) => `${Math.round((100 * at) / file.size)} %`;

async function arrived(entry) {
  const { problem } = await ended(entry.url, (text) => say(entry, text));
  if (problem) { refuse(entry, problem); return; }
  entry.node.remove();
  end(entry);
  htmx.trigger("#cards", "refresh");
}

async function sendOn(entry) {
  let began = performance.now();
  const moved = (at) => {
    const pace = (1000 * (at - entry.at)) / (performance.now() - began);
    if (pace > 0) speed = speed ? 0.8 * speed + 0.2 * pace : pace;
    [entry.at, began] = [at, performance.now()];
    entry.node.querySelector("progress").value = at / entry.file.size;
    say(entry, percent(entry));
    show();
  };
  current = send(entry.file, entry.url, { say: (text) => say(entry, text), moved });
  const { held, problem, isOurs } = await current.done;
  current = null;
  if (problem) refuse(entry, problem, isOurs);
  else if (!held) await arrived(entry);
}

async function heldBack() {
  for (let why = holds(); why; why = holds()) {
    say(line[0], why);
    await woken();
  }
}

const holds = () => (paused ? "Paused." : mayNot());
const look = () => { if (holds()) current?.hold(); wake(); };

// A screen that sleeps stops what is sent; while something is, it is asked to stay awake.
async function stayAwake(on) {
  if (on && !lock) lock = await navigator.wakeLock?.request("screen").catch(() => null);
  if (!on) { lock?.release(); lock = null; }
}
document.addEventListener("visibilitychange", () => { if (!document.hidden && busy) { lock = null; stayAwake(true); } });

async function carefully(entry, act) {
  try {
    await act(entry);
  } catch { // an answer that is none of ours: the next file is sent all the same
    refuse(entry, "The server gave an answer that cannot be read; load this page anew and bring the clip in again.");
  }
}

async function work() {
  if (busy) return;
  busy = true;
  stayAwake(true);
  while (line.length) {
    const untold = line.find((entry) => !entry.url); // all are told first, so that what is left is known everywhere
    if (untold) await carefully(untold, told);
    else {
      await heldBack();
      await carefully(line[0], sendOn);
    }
  }
  busy = false;
  stayAwake(false);
}

function take(files, isKept = false) {
  for (const file of files) {
    line.push(row(file));
    if (!isKept) keep(file);
  }
  show();
  work();
}

pauseButton.addEventListener("click", () => {
  paused = !paused;
  pauseButton.setAttribute("aria-pressed", String(paused));
  pauseButton.querySelector("span").textContent = paused ? "Go on" : "Pause";
  look();
});
drop.querySelector("[data-choose]").addEventListener("click", () => input.click());
for (const button of document.querySelectorAll("[data-choose-again]")) button.addEventListener("click", () => input.click());
input.addEventListener("change", () => { take([...input.files]); input.value = ""; });
drop.addEventListener("dragover", (event) => { event.preventDefault(); drop.classList.add("over"); });
drop.addEventListener("dragleave", () => drop.classList.remove("over"));
drop.addEventListener("drop", (event) => {
  event.preventDefault();
  drop.classList.remove("over");
  take([...event.dataTransfer.files]);
});
// Last, so that what is chosen at once is not missed.
mayNot = await conditions(panel, look);
const again = await leftBehind;
if (again.length) take(again, true);
