// The strip of judging frames: each says in a word what the grade does to it.
import { sendJson } from "../shell/send.js";

export async function markMoments(root, grade) {
  const answer = await sendJson(root.dataset.frames, { grade });
  if (!answer.ok) return;
  const { frames } = await answer.json();
  for (const { number, state } of frames) {
    const node = root.querySelector(`[data-moment="${number}"] [data-moment-state]`);
    const icon = document.createElement("i");
    icon.className = `bi bi-${state === "fits" ? "check-circle" : "exclamation-triangle"}`;
    icon.setAttribute("aria-hidden", "true");
    node.replaceChildren(icon, state);
    node.classList.toggle("lost", state !== "fits");
  }
}
