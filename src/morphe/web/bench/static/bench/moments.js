// The strip of judging frames: what the grade does to each, how the open rung reads there, and which frame the
// rung's proposal would hurt.
import { sendJson } from "../shell/send.js";

export async function markMoments(root, grade, rung) {
  const answer = await sendJson(root.dataset.frames, { grade, rung });
  if (!answer.ok) return;
  const { frames, hurts } = await answer.json();
  for (const { number, state, reading } of frames) {
    const node = root.querySelector(`[data-moment="${number}"] [data-moment-state]`);
    if (!node) continue;
    const fits = state === "fits" && (!reading || reading.inside);
    const icon = document.createElement("i");
    icon.className = `bi bi-${fits ? "check-circle" : "exclamation-triangle"}`;
    icon.setAttribute("aria-hidden", "true");
    const read = reading ? ` ${reading.value.toFixed(1).replace("-", "−")} ${reading.unit}` : "";
    node.replaceChildren(icon, `${state}${read}`);
    node.classList.toggle("lost", !fits);
  }
  const words = root.querySelector(`[data-hurts="${rung}"]`);
  if (!words) return;
  words.hidden = !hurts;
  words.textContent = hurts ? `The proposal would hurt the frame at ${hurts.time_s.toFixed(1)} s most: ${hurts.by} ${hurts.unit} further out.` : "";
}
