// The gauge row: four scopes, what falls outside in words, and lighting the pixels of an area.
import { sendJson } from "../shell/send.js";
import { drawHistogram, drawParade, drawVector, drawWaveform, fitCanvas, levelToY, planeToXY, theme, HIGH, LOW } from "./scopes.js";

const DRAW = {
  luma: (ctx, shown, box, colours, outline, ghost) => drawWaveform(ctx, shown.scopes.luma, box, colours, { zone: [0, 100], before: ghost?.luma }),
  parade: (ctx, shown, box, colours, outline, ghost) => drawParade(ctx, shown.scopes.parade, box, colours, ghost?.parade),
  vector: (ctx, shown, box, colours, outline, ghost) => drawVector(ctx, shown.scopes.vector, box, colours, { outline, before: ghost?.vector, skin: shown.skin ? [-5, 5] : null }),
  histogram: (ctx, shown, box, colours, outline, ghost) => drawHistogram(ctx, shown.scopes.histogram, box, colours, { before: ghost?.histogram }),
  strain: drawStrain,
};

// How far the file is bent, tone by tone from black to white, then hue by hue: the line is where it breaks.
function drawStrain(ctx, { strain }, box, colours) {
  const most = 1.6;
  const y = (value) => box.y + box.h * (1 - Math.min(value, most) / most);
  const bar = (value, x, width, colour) => {
    ctx.fillStyle = value > 1 ? colours.accent : colour;
    ctx.fillRect(x, y(value), width, box.y + box.h - y(value));
  };
  const tones = box.w * 0.62;
  strain.by_tone.forEach((value, at) => bar(value, box.x + (at * tones) / strain.by_tone.length, tones / strain.by_tone.length - 1, colours.trace));
  const [left, wide] = [box.x + tones + 8, box.w - tones - 8];
  const hues = JSON.parse(document.getElementById("ring").textContent);
  strain.by_hue.forEach((value, at) => bar(value, left + (at * wide) / strain.by_hue.length, wide / strain.by_hue.length - 1, hues[Math.round((at * hues.length) / strain.by_hue.length)]));
  ctx.strokeStyle = colours.label;
  ctx.setLineDash([4, 3]);
  ctx.beginPath(); ctx.moveTo(box.x, y(1)); ctx.lineTo(box.x + box.w, y(1)); ctx.stroke();
  ctx.setLineDash([]);
}

export function drawGauges(row, shown, outline, ghost) {
  const colours = theme();
  for (const canvas of row.querySelectorAll("[data-gauge]")) {
    const { ctx, width, height } = fitCanvas(canvas);
    ctx.clearRect(0, 0, width, height);
    DRAW[canvas.dataset.gauge](ctx, shown, { x: 0, y: 0, w: width, h: height }, colours, outline, ghost);
  }
  words(row, shown.marks, shown.strain);
  row.dataset.drawn = Number(row.dataset.drawn || 0) + 1;
}

// Where the pixel under the pointer lies on each scope: small marks above the canvases, which stay as they are.
export function markPoint(row, point) {
  for (const canvas of row.querySelectorAll("[data-gauge]")) {
    const box = { x: 0, y: 0, w: canvas.clientWidth, h: canvas.clientHeight };
    const places = point ? placesOn(canvas.dataset.gauge, point, box) : [];
    const marks = [...canvas.parentElement.querySelectorAll(".gauge-point")];
    while (marks.length < places.length) {
      const mark = document.createElement("span");
      mark.className = "gauge-point";
      canvas.parentElement.append(mark);
      marks.push(mark);
    }
    marks.forEach((mark, at) => {
      mark.hidden = !places[at];
      if (places[at]) mark.style.transform = `translate(${places[at][0] + canvas.offsetLeft}px, ${places[at][1] + canvas.offsetTop}px)`;
    });
  }
}

function placesOn(name, point, box) {
  const y = (level) => levelToY(level, box, [LOW, HIGH]);
  if (name === "luma") return [[point.x * box.w, y(point.luma)]];
  if (name === "vector") return [planeToXY(point.cb, point.cr, box, 0.55)];
  if (name === "strain") return [];
  if (name === "histogram") return [[((point.luma - LOW) / (HIGH - LOW)) * box.w, box.h / 2]];
  return ["r", "g", "b"].map((channel, at) => [((at + point.x) / 3) * box.w, y(point[channel])]);
}

function words(row, marks, strain) {
  const say = (name, text, outside) => {
    const node = row.querySelector(`[data-words="${name}"]`);
    node.textContent = text;
    node.classList.toggle("outside", outside);
    row.querySelector(`[data-gauge="${name}"]`).setAttribute("aria-label", text);
  };
  const [dark, white] = [marks.black.at[0], marks.white.at[0]];
  const beyond = [dark < -0.5 ? "below black" : "", white > 100.5 ? "above white" : ""].filter(Boolean).join(" and ");
  const whole = (level) => level.toFixed(0).replace("-0", "0").replace("-", "−");
  say("luma", `${whole(dark)} to ${whole(white)} %${beyond ? `, ${beyond}` : ""}`, Boolean(beyond));
  say("parade", `brightest ${whole(marks.exposure.at[0])} %`, marks.exposure.at[0] > 100.5);
  const cast = marks.balance;
  say("vector", cast.value === null ? "no neutrals here" : `neutrals ${cast.value.toFixed(1)} % off`, !cast.inside);
  say("strain", strain.sentence, strain.worst > 1);
  say("histogram", `middle ${whole(marks.mid.at[0])} %`, !marks.mid.inside);
}

// Touch an area of a scope: the picture darkens but for the pixels that lie there, as long as it is held.
export function lightUp(row, picture, url, order) {
  const reach = 0.035;
  let held = 0;
  let shownUrl = null;
  const clear = () => {
    held += 1;
    picture.hidden = true;
    if (shownUrl) URL.revokeObjectURL(shownUrl);
    shownUrl = null;
  };
  row.addEventListener("pointerdown", async (event) => {
    const canvas = event.target.closest("[data-gauge]");
    if (!canvas || canvas.dataset.gauge === "strain") return;
    clear();
    const mine = held;
    const box = canvas.getBoundingClientRect();
    const x = (event.clientX - box.left) / box.width;
    const y = (event.clientY - box.top) / box.height;
    const region = [x - reach, y - reach, x + reach, y + reach];
    const answer = await sendJson(url, { ...order(), scope: canvas.dataset.gauge, region });
    if (!answer.ok || mine !== held) return; // released before the answer came
    shownUrl = URL.createObjectURL(await answer.blob());
    picture.src = shownUrl;
    picture.hidden = mine !== held;
  });
  addEventListener("pointerup", clear);
  addEventListener("pointercancel", clear);
}
