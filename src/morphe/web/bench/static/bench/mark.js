// Marking an area of the picture shows it alone in the scopes; a neighbour clip's scopes can stand behind.
import { getJson } from "../shell/send.js";
import { unpack } from "./scopes.js";
import { pointIn } from "./stage.js";

export function marker(root, frame, store, look) {
  const button = root.querySelector("[data-mark-switch]");
  const box = frame.querySelector("[data-mark-box]");
  let on = false;
  let from = null;

  const clear = () => { store.box = null; box.hidden = true; look(); };
  button.addEventListener("click", () => {
    on = !on;
    button.setAttribute("aria-pressed", String(on));
    frame.classList.toggle("tapping", on);
    if (!on) clear();
  });
  const area = (one, other) => [Math.min(one.x, other.x), Math.min(one.y, other.y), Math.max(one.x, other.x), Math.max(one.y, other.y)].map((v) => Math.min(Math.max(v, 0), 1));
  frame.addEventListener("pointerdown", (event) => {
    if (!on || event.target.closest("button, [role=slider]")) return;
    from = pointIn(frame, event);
    frame.setPointerCapture(event.pointerId);
  });
  frame.addEventListener("pointermove", (event) => {
    if (!from) return;
    const [left, top, right, bottom] = area(from, pointIn(frame, event));
    Object.assign(box.style, { left: `${100 * left}%`, top: `${100 * top}%`, width: `${100 * (right - left)}%`, height: `${100 * (bottom - top)}%` });
    box.hidden = false;
  });
  frame.addEventListener("pointerup", (event) => {
    if (!from) return;
    const found = area(from, pointIn(frame, event));
    from = null;
    if (found[2] - found[0] < 0.01 || found[3] - found[1] < 0.01) { clear(); return; }
    store.box = found;
    look();
  });
}

export function ghostOf(root, draw) {
  const button = root.querySelector("[data-ghost]");
  let ghost = null;
  button?.addEventListener("click", async () => {
    if (ghost) { ghost = null; } else {
      const answer = await getJson(button.dataset.ghost);
      if (answer.ok) {
        const { scopes } = await answer.json();
        ghost = Object.fromEntries(Object.entries(scopes).map(([name, packed]) => [name, unpack(packed)]));
      }
    }
    button.setAttribute("aria-pressed", String(Boolean(ghost)));
    draw();
  });
  return { get scopes() { return ghost; } };
}
