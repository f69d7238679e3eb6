// Water: lights the pixels whose red is invented, until the button is pressed again or the ladder is drawn anew.
import { sendJson } from "../shell/send.js";

export function showInvented(root, picture, url, order) {
  let shownUrl = "";
  const clear = () => {
    if (!shownUrl) return;
    URL.revokeObjectURL(shownUrl);
    shownUrl = "";
    picture.hidden = true;
  };
  root.addEventListener("click", async (event) => {
    const button = event.target.closest("[data-invented]");
    if (!button) return;
    const on = button.getAttribute("aria-pressed") !== "true";
    button.setAttribute("aria-pressed", String(on));
    clear();
    if (!on) return;
    const answer = await sendJson(url, { ...order(), scope: "invented" });
    if (!answer.ok || button.getAttribute("aria-pressed") !== "true") return;
    shownUrl = URL.createObjectURL(await answer.blob());
    picture.src = shownUrl;
    picture.hidden = false;
  });
  root.addEventListener("htmx:afterSwap", clear);
}
