// The gauge row: four scopes, what falls outside in words, and lighting the pixels of an area.
import { sendJson } from "../shell/send.js";
import { drawHistogram, drawParade, drawPointer, drawVector, drawWaveform, fitCanvas, levelToY, planeToXY, theme, HIGH, LOW } from "./scopes.js";

const DRAW = {
  luma: (ctx, shown, box, colours) => drawWaveform(ctx, shown.scopes.luma, box, colours, { zone: [0, 100] }),
  parade: (ctx, shown, box, colours) => drawParade(ctx, shown.scopes.parade, box, colours),
  vector: (ctx, shown, box, colours, outline) => drawVector(ctx, shown.scopes.vector, box, colours, { outline }),
  histogram: (ctx, shown, box, colours) => drawHistogram(ctx, shown.scopes.histogram, box, colours),
};

export function drawGauges(row, shown, outline, point) {
  const colours = theme();
  for (const canvas of row.querySelectorAll("[data-gauge]")) {
    const { ctx, width, height } = fitCanvas(canvas);
    const box = { x: 0, y: 0, w: width, h: height };
    ctx.clearRect(0, 0, width, height);
    DRAW[canvas.dataset.gauge](ctx, shown, box, colours, outline);
    if (point) markPoint(ctx, canvas.dataset.gauge, point, box, colours);
  }
  words(row, shown.marks);
}

function markPoint(ctx, name, point, box, colours) {
  const across = ((point.luma - LOW) / (HIGH - LOW)) * box.w;
  if (name === "luma") drawPointer(ctx, point.x * box.w, levelToY(point.luma, box, [LOW, HIGH]), colours);
  if (name === "vector") drawPointer(ctx, ...planeToXY(point.cb, point.cr, box, 0.55), colours);
  if (name === "histogram") drawPointer(ctx, across, box.h / 2, colours);
  if (name === "parade") {
    ["r", "g", "b"].forEach((channel, at) => {
      drawPointer(ctx, ((at + point.x) / 3) * box.w, levelToY(point[channel], box, [LOW, HIGH]), colours);
    });
  }
}

function words(row, marks) {
  const say = (name, text, outside) => {
    const node = row.querySelector(`[data-words="${name}"]`);
    node.textContent = text;
    node.classList.toggle("outside", outside);
    row.querySelector(`[data-gauge="${name}"]`).setAttribute("aria-label", text);
  };
  const [dark, white] = [marks.black.at[0], marks.white.at[0]];
  const beyond = [dark < -0.5 ? "below black" : "", white > 100.5 ? "above white" : ""].filter(Boolean).join(" and ");
  say("luma", `${dark.toFixed(0)} to ${white.toFixed(0)} %${beyond ? `, ${beyond}` : ""}`, Boolean(beyond));
  say("parade", `red, green, blue; brightest ${marks.exposure.at[0].toFixed(0)} %`, marks.exposure.at[0] > 100.5);
  const cast = marks.balance;
  say("vector", cast.value === null ? "no neutrals here" : `neutrals ${cast.value.toFixed(1)} % off`, !cast.inside);
  say("histogram", `middle ${marks.mid.at[0].toFixed(0)} %`, !marks.mid.inside);
}

// Touch an area of a scope: the picture darkens but for the pixels that lie there.
export function lightUp(row, picture, url, order) {
  const reach = 0.035;
  let shownUrl = null;
  const clear = () => { picture.hidden = true; if (shownUrl) URL.revokeObjectURL(shownUrl); shownUrl = null; };
  row.addEventListener("pointerdown", async (event) => {
    const canvas = event.target.closest("[data-gauge]");
    if (!canvas) return;
    const box = canvas.getBoundingClientRect();
    const x = (event.clientX - box.left) / box.width;
    const y = (event.clientY - box.top) / box.height;
    const region = [x - reach, y - reach, x + reach, y + reach];
    const answer = await sendJson(url, { ...order(), scope: canvas.dataset.gauge, region });
    if (!answer.ok) return;
    clear();
    shownUrl = URL.createObjectURL(await answer.blob());
    picture.src = shownUrl;
    picture.hidden = false;
  });
  addEventListener("pointerup", clear);
  addEventListener("pointercancel", clear);
}
