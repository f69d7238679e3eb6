// A tap in the picture: what the place is, is said before by a button, or after in a small menu beside it.
import { sendJson } from "../shell/send.js";
import { pointIn } from "./stage.js";

export function tapper(root, frame, store, say, taken) {
  const menu = root.querySelector("[data-tap-menu]");
  let meaning = null; // "" while any is possible
  let point = null;
  let places = []; // of two tones, the first that was tapped

  function end() {
    meaning = null;
    places = [];
    menu.hidden = true;
    frame.classList.remove("tapping");
    for (const button of root.querySelectorAll("[data-tap-switch]")) button.setAttribute("aria-pressed", "false");
  }
  function begin(button) {
    const same = button.getAttribute("aria-pressed") === "true";
    end();
    say("");
    if (same) return;
    meaning = button.dataset.tapSwitch;
    button.setAttribute("aria-pressed", "true");
    frame.classList.add("tapping");
    say(button.dataset.asks || "Tap a place in the picture, then say what it is.");
  }
  async function ask(what) {
    const answer = await sendJson(root.dataset.tap, { grade: store.grade, frame: store.frame, meaning: what, places, ...point });
    const data = await answer.json();
    if (!answer.ok) { say(data.problem, true); menu.hidden = true; places = []; return; }
    end();
    say(data.sentence);
    taken(data, what);
  }

  root.addEventListener("click", (event) => {
    const button = event.target.closest("[data-tap-switch]");
    if (button) begin(button);
    const said = event.target.closest("[data-tap-meaning]");
    if (said) ask(said.dataset.tapMeaning);
  });
  frame.addEventListener("click", (event) => {
    if (meaning === null || event.target.closest("[data-tap-menu]")) return;
    point = pointIn(frame, event);
    if (meaning === "tones") {
      places = [...places, [point.x, point.y]];
      if (places.length === 2) ask(meaning); else say("Now tap the other tone.");
      return;
    }
    if (meaning) { ask(meaning); return; }
    menu.hidden = false;
    menu.style.left = `${Math.min(100 * point.x, 70)}%`;
    menu.style.top = `${Math.min(100 * point.y, 60)}%`;
    menu.querySelector("button").focus();
  });
  menu.addEventListener("keydown", (event) => { if (event.key === "Escape") { end(); say(""); } });
  return { end };
}
