// The clip's length under the strip: a diamond for every moment of what is open, and where we are.
import { hasMoments, layerOf, moves } from "./grade.js";

// Moments of the open region, else of all numbers of the open rung.
function momentsOf(store, tools) {
  const region = layerOf(store.grade, store.region)?.region;
  if (region) return hasMoments(region) ? region.moments : [];
  const step = layerOf(store.grade, tools[store.open]?.layer)?.steps.find((one) => one.step === store.open);
  const times = Object.values(step ?? {}).filter(moves).flatMap((value) => value.moments.map(([seconds]) => seconds));
  return [...new Set(times)].sort((a, b) => a - b).map((seconds) => [seconds]);
}

export function momentsLine(line, span, store, tools, goTo) {
  function draw(time) {
    const rows = momentsOf(store, tools);
    line.hidden = !rows.length;
    const marks = rows.length > 12 ? rows.filter((_, at) => at % Math.ceil(rows.length / 12) === 0 || at === rows.length - 1) : rows;
    if (line.dataset.shown !== JSON.stringify(marks.map((row) => row[0]))) {
      line.dataset.shown = JSON.stringify(marks.map((row) => row[0]));
      line.replaceChildren(...marks.map(([seconds]) => {
        const mark = document.createElement("button");
        mark.type = "button";
        mark.className = "moment-mark";
        mark.style.left = `${(100 * (seconds - span.begin)) / span.length}%`;
        mark.setAttribute("aria-label", `Moment at ${seconds.toFixed(1)} s`);
        mark.addEventListener("click", () => goTo(seconds));
        return mark;
      }));
    }
    for (const mark of line.children) {
      const seconds = span.begin + (parseFloat(mark.style.left) / 100) * span.length;
      mark.classList.toggle("here", time !== null && Math.abs(seconds - time) < 0.05);
    }
  }
  return { draw };
}
