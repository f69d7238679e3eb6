// The numbers of the ladder: sliders and boxes, loupes that are dragged, and keeping what was set.
import { layerOf, moves, setAt, turnMoment, withLayer, withNumbers } from "./grade.js";
import { dragged } from "./loupe.js";
import { heldUntilUp } from "./store.js";

export function numbers(root, store, tools, orders, keepUrl, now, look) {
  const rows = (key) => [...root.querySelectorAll(`[data-rung="${key}"] [data-control]`)];
  const ofRung = (key) => Object.fromEntries(rows(key).map((row) => [row.dataset.control, Number(row.querySelector("input[type=number]").value)]));

  function fill(row, value) {
    const box = row.querySelector("input[type=number]");
    const within = Math.min(Math.max(value, Number(box.min)), Number(box.max));
    box.value = Number(within.toFixed(2));
    const slide = row.querySelector("input[type=range]");
    if (slide) slide.value = within;
    markBeyond(row);
    const dial = row.closest("[data-rung]")?.querySelector(`[data-dial="${row.dataset.control}"]`);
    dial?.setAttribute("aria-valuenow", box.value);
    dial?.setAttribute("aria-valuetext", `${slide?.getAttribute("aria-label") ?? ""} ${box.value} ${row.querySelector(".unit")?.textContent ?? ""}`.trim());
    return Number(box.value);
  }
  function markBeyond(row) {
    if (!row.dataset.natural) return;
    const [low, high] = row.dataset.natural.split(" ").map(Number);
    const value = Number(row.querySelector("input[type=number]").value);
    row.classList.toggle("beyond", value < low || value > high);
  }

  function setRung(key, changed) {
    for (const row of rows(key)) if (row.dataset.control in changed) fill(row, changed[row.dataset.control]);
    const time = now();
    const all = ofRung(key);
    store.edit((grade) => {
      const step = stepIn(grade, tools[key].layer, key);
      const kept = Object.entries(all).map(([name, value]) => [name, moves(step?.[name]) && !(name in changed) ? step[name] : setAt(step?.[name], value, time)]);
      return withNumbers(grade, tools[key].layer, key, Object.fromEntries(kept), orders);
    });
  }
  const stepIn = (grade, layer, key) => layerOf(grade, layer)?.steps.find((one) => one.step === key);

  // Moments of one number of the open rung: here, or at each of several times.
  function setMoments(key, name, times, change) {
    const { layer } = tools[key];
    const value = ofRung(key)[name];
    store.edit((grade) => {
      const number = times.reduce((old, time) => change(old, value, time), stepIn(grade, layer, key)?.[name] ?? value);
      return withNumbers(grade, layer, key, { [name]: number }, orders);
    });
    keepSoon(0, key, "Moments set");
  }
  root.addEventListener("click", (event) => {
    const diamond = event.target.closest("[data-diamond]");
    const proposed = event.target.closest("[data-moments-proposed]");
    if (!diamond && !proposed) return;
    const { rung } = event.target.closest("[data-rung]").dataset;
    if (diamond) setMoments(rung, diamond.parentElement.dataset.control, [now()], turnMoment);
    else setMoments(rung, rows(rung)[0].dataset.control, proposed.dataset.momentsProposed.split(" ").map(Number), (old, value, time) => setAt(moves(old) ? old : { moments: [] }, value, time));
  });

  function setInside(row, value) {
    const { layer, step, control, ofRegion } = row.dataset;
    const number = fill(row, value);
    if (step) store.edit((grade) => withNumbers(grade, layer, step, { [control]: setAt(stepIn(grade, layer, step)?.[control], number, now()) }, orders));
    else if (ofRegion === "strength") store.edit((grade) => withLayer(grade, layer, (one) => { one.strength = number / 100; }));
    else store.edit((grade) => withLayer(grade, layer, (one) => { one.region.feather = number / 100; }));
  }

  // --- keeping ----------------------------------------------------------------------------------

  let waiting = null;
  let typed = false; // since the last keeping
  const wanted = {};
  function keepSoon(delay = 0, key = store.open, change = "") {
    Object.assign(wanted, { key, change });
    clearTimeout(waiting);
    waiting = setTimeout(keep, delay);
  }
  function keep() {
    clearTimeout(waiting);
    waiting = null;
    typed = false;
    const layer = store.region && layerOf(store.grade, store.region);
    const change = wanted.change || (wanted.key === "region" && layer ? `${layer.name || "Region"} set by hand` : "");
    htmx.ajax("POST", keepUrl, { target: "#ladder", swap: "innerHTML", values: { open: store.open, kept: wanted.key, change } });
  }

  // Push and return: the picture under one number at its far end, and back; nothing is set.
  const PUSH_MS = 1400;
  let pushing = 0;
  function push(row) {
    const { rung } = row.closest("[data-rung]").dataset;
    const { control: name } = row.dataset;
    const box = row.querySelector("input[type=number]");
    const slide = row.querySelector("input[type=range]");
    const start = Number(box.value);
    const end = Number(box.max) - start > start - Number(box.min) ? Number(box.max) : Number(box.min);
    const all = ofRung(rung);
    const at = (value) => withNumbers(store.grade, tools[rung].layer, rung, { ...all, [name]: value }, orders);
    pushing += 1;
    const [mine, began] = [pushing, performance.now()];
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    const step = () => {
      if (mine !== pushing) return;
      const share = Math.min((performance.now() - began) / PUSH_MS, 1);
      const way = still ? Number(share < 0.6) : Math.sin(Math.PI * share);
      slide.value = start + way * (end - start);
      if (share === 1) { slide.value = start; look(store.grade); return; }
      look(at(Number(slide.value)));
      setTimeout(step, 60);
    };
    step();
  }
  root.addEventListener("click", (event) => {
    const button = event.target.closest("[data-push]");
    if (button) push(button.closest("[data-control]"));
  });

  // --- hands ------------------------------------------------------------------------------------

  const rowOf = (event) => event.target.closest("[data-control], [data-of-region]");
  root.addEventListener("input", (event) => {
    const row = rowOf(event);
    if (!row || event.target.value === "") return;
    const value = Number(event.target.value);
    typed = true;
    if (row.dataset.layer) setInside(row, value);
    else setRung(row.closest("[data-rung]").dataset.rung, { [row.dataset.control]: value });
  });
  const keepRow = (row) => keepSoon(0, row.dataset.layer ? "region" : row.closest("[data-rung]").dataset.rung);
  root.addEventListener("change", (event) => {
    const row = rowOf(event);
    if (row) keepRow(row);
  });
  // A number typed over itself is no change to the browser, yet the page has counted its keys as edits.
  root.addEventListener("focusout", (event) => {
    const row = rowOf(event);
    if (row && typed) keepRow(row);
  });

  // A slider under a finger is not swapped away; its change, on letting go, keeps and brings a new ladder.
  root.addEventListener("pointerdown", (event) => {
    if (!event.target.matches("input[type=range]") || !rowOf(event)) return;
    heldUntilUp(store);
  });

  let drag = null;
  root.addEventListener("pointerdown", (event) => {
    const canvas = event.target.closest("[data-loupe]");
    const tool = canvas && tools[canvas.dataset.loupe];
    if (!tool || !tool.drags) return;
    canvas.setPointerCapture(event.pointerId);
    store.dragging = true;
    drag = { canvas, tool, x: event.clientX, y: event.clientY, start: ofRung(tool.key) };
  });
  root.addEventListener("pointermove", (event) => {
    if (drag) setRung(drag.tool.key, dragged(drag.tool, drag.start, event.clientX - drag.x, event.clientY - drag.y, drag.canvas));
  });
  const end = () => {
    if (!drag) return;
    const { key } = drag.tool;
    drag = null;
    store.dragging = false;
    keepSoon(0, key);
  };
  root.addEventListener("pointerup", end);
  root.addEventListener("pointercancel", end);

  function nudge(by) {
    const first = rows(store.open)[0];
    if (!first) return false;
    const name = first.dataset.control;
    setRung(store.open, { [name]: ofRung(store.open)[name] + by * Number(first.querySelector("input[type=range]").step) });
    keepSoon(500);
    return true;
  }

  // Boxes, sliders and diamonds as the grade has them, after edits were done again on a new ladder; of numbers
  // that move as they are at this moment, by layer, step and name.
  function refill(moving = {}, all = true) {
    root.querySelectorAll("[data-natural]").forEach(markBeyond);
    for (const row of root.querySelectorAll("[data-control]")) {
      const layer = row.dataset.layer || tools[row.closest("[data-rung]").dataset.rung].layer;
      const key = row.dataset.step || row.closest("[data-rung]").dataset.rung;
      const name = row.dataset.control;
      const value = stepIn(store.grade, layer, key)?.[name];
      const here = moves(value) ? moving[layer]?.[key]?.[name] : value;
      if (typeof here === "number" && (all || moves(value))) fill(row, here);
      const diamond = row.querySelector("[data-diamond]");
      diamond?.classList.toggle("moving", moves(value));
      diamond?.setAttribute("aria-pressed", String(moves(value) && value.moments.some(([seconds]) => Math.abs(seconds - now()) < 0.05)));
    }
  }
  return { keepSoon, nudge, refill, get waits() { return waiting !== null; } };
}
