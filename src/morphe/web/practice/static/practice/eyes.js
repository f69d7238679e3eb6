// Left or right by the arrow keys; a screen that shows fewer colours than the web says so.
import { bindKey } from "../shell/keys.js";

document.querySelector("[data-screen]").hidden = window.matchMedia("(color-gamut: srgb)").matches;
const choose = (at) => () => document.querySelectorAll("[data-pair] [data-choice]")[at]?.click();
for (const [key, at] of [["ArrowLeft", 0], ["ArrowRight", 1], ["1", 0], ["2", 1]]) bindKey(key, choose(at));
