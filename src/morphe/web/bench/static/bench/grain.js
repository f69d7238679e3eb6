// The loupe for noise: a part of the frame at full size, asked for while its rung is open.
import { sendJson } from "../shell/send.js";
import { same } from "./store.js";

export function grainLoupe(root, store, say) {
  let last = null;
  let flying = false;
  let shownUrl = "";

  async function draw() {
    const picture = root.querySelector("[data-grain]");
    if (!picture || store.open !== "denoise" || store.dragging || flying) return;
    const order = { grade: store.grade, frame: store.frame };
    if (same(order, last) && picture.src === shownUrl) return;
    flying = true;
    try {
      const answer = await sendJson(root.dataset.grain, order);
      last = order;
      if (answer.ok) {
        if (shownUrl) URL.revokeObjectURL(shownUrl);
        shownUrl = URL.createObjectURL(await answer.blob());
        picture.src = shownUrl;
        picture.hidden = false;
      } else {
        say((await answer.json()).problem, true);
      }
    } catch { /* the next change asks again */ }
    flying = false;
    if (!same(last?.grade, store.grade)) draw();
  }
  return { draw };
}
