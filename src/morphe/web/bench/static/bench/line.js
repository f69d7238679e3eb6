// The clip's length under the strip: a diamond for every moment of the open region, and where we are.
import { hasMoments, layerOf } from "./grade.js";

export function momentsLine(line, duration, store, goTo) {
  function draw(time) {
    const region = layerOf(store.grade, store.region)?.region;
    const rows = region && hasMoments(region) ? region.moments : [];
    line.hidden = !rows.length;
    const marks = rows.length > 12 ? rows.filter((_, at) => at % Math.ceil(rows.length / 12) === 0 || at === rows.length - 1) : rows;
    if (line.dataset.shown !== JSON.stringify(marks.map((row) => row[0]))) {
      line.dataset.shown = JSON.stringify(marks.map((row) => row[0]));
      line.replaceChildren(...marks.map(([seconds]) => {
        const mark = document.createElement("button");
        mark.type = "button";
        mark.className = "moment-mark";
        mark.style.left = `${(100 * seconds) / duration}%`;
        mark.setAttribute("aria-label", `Moment at ${seconds.toFixed(1)} s`);
        mark.addEventListener("click", () => goTo(seconds));
        return mark;
      }));
    }
    for (const mark of line.children) {
      const seconds = (parseFloat(mark.style.left) / 100) * duration;
      mark.classList.toggle("here", time !== null && Math.abs(seconds - time) < 0.05);
    }
  }
  return { draw };
}
