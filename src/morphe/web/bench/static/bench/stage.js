// The picture: its size, the edge between before and after, the probe, and tapping something white.
import { sendJson } from "../shell/send.js";

export function fitFrame(surround, frame) {
  const [w, h] = frame.dataset.aspect.split("/").map(Number);
  const fit = () => {
    const style = getComputedStyle(surround);
    const width = surround.clientWidth - parseFloat(style.paddingLeft) * 2;
    const height = surround.clientHeight - parseFloat(style.paddingTop) * 2;
    const scale = Math.min(width / w, height / h);
    frame.style.width = `${Math.floor(w * scale)}px`;
    frame.style.height = `${Math.floor(h * scale)}px`;
  };
  new ResizeObserver(fit).observe(surround);
  fit();
}

export function beforeEdge(frame, button) {
  const before = frame.querySelector("[data-before]");
  const edge = frame.querySelector("[data-edge]");
  let way = 0; // nothing, an edge, side by side
  let at = 50;

  const show = (whole) => {
    before.hidden = !(way || whole);
    edge.hidden = way !== 1 || whole;
    frame.classList.toggle("beside", way === 2 && !whole);
    before.style.clipPath = whole || way === 2 ? "none" : `inset(0 ${100 - at}% 0 0)`;
    edge.style.left = `${at}%`;
    edge.setAttribute("aria-valuenow", Math.round(at));
    button.setAttribute("aria-pressed", String(way > 0));
    button.querySelector("[data-compare-word]").textContent = ["Before", "Edge", "Beside"][way];
  };
  const move = (to) => { at = Math.min(Math.max(to, 0), 100); show(false); };

  button.addEventListener("click", () => { way = (way + 1) % 3; show(false); });
  edge.addEventListener("pointerdown", (event) => { edge.setPointerCapture(event.pointerId); event.stopPropagation(); });
  edge.addEventListener("pointermove", (event) => {
    if (!edge.hasPointerCapture(event.pointerId)) return;
    const box = frame.getBoundingClientRect();
    move((100 * (event.clientX - box.left)) / box.width);
  });
  edge.addEventListener("keydown", (event) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by) { event.preventDefault(); event.stopPropagation(); move(at + by * (event.shiftKey ? 10 : 1)); }
  });
  return { hold: (on) => show(on) };
}

export function probe(frame, url, order, marked) {
  const out = frame.querySelector("[data-reading]");
  let flying = false;
  let next = null;

  async function ask(point) {
    flying = true;
    try {
      const answer = await sendJson(url, { ...order(), ...point });
      if (answer.ok) {
        const r = await answer.json();
        const n = (value, digits = 1) => value.toFixed(digits).padStart(5);
        out.textContent = `R${n(r.r)}  G${n(r.g)}  B${n(r.b)} %\nluma${n(r.luma)} %   hue${n(r.angle, 0)}°\nfrom neutral${n(r.from_neutral)} %`;
        out.hidden = false;
        marked(r);
      }
    } catch { /* the next move asks again */ }
    flying = false;
    if (next) { const waiting = next; next = null; ask(waiting); }
  }

  const leave = () => { next = null; out.hidden = true; marked(null); };
  frame.addEventListener("pointermove", (event) => {
    const point = pointIn(frame, event);
    if (flying) next = point; else ask(point);
  });
  frame.addEventListener("pointerleave", leave);
}

export function pointIn(frame, event) {
  const box = frame.getBoundingClientRect();
  return { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
}
