// The scopes of a take that was looked at, as large as the page is wide.
import { drawHistogram, drawVector, drawWaveform, fitCanvas, theme, unpack } from "../bench/scopes.js";

const DRAW = {
  luma: (ctx, scopes, box, colours) => drawWaveform(ctx, scopes.luma, box, colours, { zone: [0, 100] }),
  vector: (ctx, scopes, box, colours, outline) => drawVector(ctx, scopes.vector, box, colours, { outline, skin: [-5, 5] }),
  histogram: (ctx, scopes, box, colours) => drawHistogram(ctx, scopes.histogram, box, colours),
};
let scopes = null;

function draw() {
  if (!scopes) return;
  const outline = JSON.parse(document.getElementById("outline").textContent);
  for (const canvas of document.querySelectorAll("[data-scope]")) {
    const { ctx, width, height } = fitCanvas(canvas);
    ctx.clearRect(0, 0, width, height);
    DRAW[canvas.dataset.scope](ctx, scopes, { x: 0, y: 0, w: width, h: height }, theme(), outline);
    canvas.dataset.drawn = "yes";
  }
}

async function load() {
  const place = document.querySelector("[data-scopes]");
  if (!place || scopes) return;
  const answer = await fetch(place.dataset.scopes);
  if (!answer.ok) return;
  scopes = Object.fromEntries(Object.entries((await answer.json()).scopes).map(([name, packed]) => [name, unpack(packed)]));
  draw();
  new ResizeObserver(draw).observe(place);
}

document.body.addEventListener("htmx:afterSettle", load);
document.addEventListener("theme-changed", draw);
load();
