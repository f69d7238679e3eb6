// The loupe of the open rung: drawn from the scopes, dragged to move the number.
import { drawHistogram, drawPointer, drawVector, drawWaveform, fitCanvas, levelToY, planeToXY, theme, HIGH, LOW } from "./scopes.js";

export function drawLoupe(canvas, tool, shown, before, outline) {
  const { ctx, width, height } = fitCanvas(canvas);
  const colours = theme();
  const box = { x: 0, y: 0, w: width, h: height };
  ctx.clearRect(0, 0, width, height);
  const { at: mark = [], zone = null } = shown.marks[tool.key] || {};
  if (tool.scope === "luma") {
    drawWaveform(ctx, shown.scopes.luma, box, colours, { window: tool.window, zone, before: before?.scopes.luma });
    if (mark.length) levelMark(ctx, levelToY(clamp(mark[tool.mark], tool.window), box, tool.window), width, colours);
  } else if (tool.scope === "histogram") {
    drawHistogram(ctx, shown.scopes.histogram, box, colours, { before: before?.scopes.histogram, plain: true });
    mark.forEach((level, at) => {
      const x = ((clamp(level, [LOW, HIGH]) - LOW) / (HIGH - LOW)) * width;
      ctx.strokeStyle = colours.accent;
      ctx.beginPath(); ctx.moveTo(x, 0); ctx.lineTo(x, height); ctx.stroke();
      if (at === tool.mark && tool.drags) drawPointer(ctx, x, height / 2, colours);
    });
  } else {
    const reach = tool.window[1] * 1.08;
    const outer = tool.key === "saturation";
    const isSkin = tool.scope === "skin";
    drawVector(ctx, shown.scopes.vector, box, colours, { reach, zone: isSkin ? null : zone, before: before?.scopes.vector, outline: outer || tool.key === "families" ? outline : null, skin: isSkin ? zone ?? [-5, 5] : null });
    if (!mark.length) return;
    if (outer) {
      const [cx, cy] = planeToXY(0, 0, box, reach);
      const radius = (mark[0] / reach) * (height / 2);
      ctx.strokeStyle = colours.accent;
      ctx.lineWidth = 2;
      ctx.beginPath(); ctx.arc(cx, cy, radius, 0, 2 * Math.PI); ctx.stroke();
      drawPointer(ctx, cx + radius, cy, colours);
    } else {
      drawPointer(ctx, ...planeToXY(mark[0], mark[1], box, reach), colours);
    }
  }
}

const clamp = (value, [low, high]) => Math.min(Math.max(value, low), high);

function levelMark(ctx, y, width, colours) {
  ctx.strokeStyle = colours.accent;
  ctx.lineWidth = 2;
  ctx.beginPath(); ctx.moveTo(0, y); ctx.lineTo(width, y); ctx.stroke();
  ctx.lineWidth = 1;
  drawPointer(ctx, width - 16, y, colours);
}

// How far the numbers move for a drag of (dx, dy) CSS pixels.
export function dragged(tool, start, dx, dy, canvas) {
  const height = canvas.clientHeight;
  if (tool.scope === "luma") {
    const percent = (-dy / height) * (tool.window[1] - tool.window[0]);
    return { [tool.drags]: start[tool.drags] + percent * tool.perPercent };
  }
  if (tool.scope === "histogram") {
    const percent = (dx / canvas.clientWidth) * (HIGH - LOW);
    return { [tool.drags]: start[tool.drags] + percent * tool.perPercent };
  }
  const reach = tool.window[1] * 1.08;
  const cb = (dx / (height / 2)) * reach;
  const cr = (-dy / (height / 2)) * reach;
  if (tool.key === "saturation") return { amount: start.amount + 100 * cb * tool.perPercent };
  const [a, b, c, d] = tool.plane;
  return { warmth: start.warmth + a * cb + b * cr, tint: start.tint + c * cb + d * cr };
}
