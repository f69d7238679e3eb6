// Drawing of scopes: pure functions of the numbers, the context and the theme's colours.
export const LOW = -7;
export const HIGH = 109;
export const REACH = 0.55;

export function theme() {
  const style = getComputedStyle(document.documentElement);
  const role = (name) => style.getPropertyValue(name).trim();
  return {
    ground: role("--scope-ground"), grid: role("--scope-grid"), label: role("--scope-label"),
    trace: role("--scope-trace"), before: role("--scope-before"), zone: role("--zone"), accent: role("--accent"),
    channels: [role("--scope-red"), role("--scope-green"), role("--scope-blue")],
  };
}

export function unpack(packed) {
  const text = atob(packed.data);
  const bytes = new Uint8ClampedArray(text.length);
  for (let i = 0; i < text.length; i += 1) bytes[i] = text.charCodeAt(i);
  return { shape: packed.shape, bytes };
}

export function fitCanvas(canvas) {
  const scale = window.devicePixelRatio || 1;
  const width = Math.max(1, Math.round(canvas.clientWidth * scale));
  const height = Math.max(1, Math.round(canvas.clientHeight * scale));
  if (canvas.width !== width || canvas.height !== height) { canvas.width = width; canvas.height = height; }
  const ctx = canvas.getContext("2d");
  ctx.setTransform(scale, 0, 0, scale, 0, 0);
  return { ctx, width: canvas.clientWidth, height: canvas.clientHeight };
}

const rgb = (colour) => {
  const hex = colour.slice(1);
  return [0, 2, 4].map((at) => parseInt(hex.slice(at, at + 2), 16));
};

// Brightness bytes (rows x columns, from `offset`) become a small tinted picture with that much cover.
function tinted(bytes, rows, columns, offset, colour) {
  const tile = document.createElement("canvas");
  tile.width = columns;
  tile.height = rows;
  const ctx = tile.getContext("2d");
  const image = ctx.createImageData(columns, rows);
  const [r, g, b] = rgb(colour);
  for (let i = 0; i < rows * columns; i += 1) {
    image.data[4 * i] = r;
    image.data[4 * i + 1] = g;
    image.data[4 * i + 2] = b;
    image.data[4 * i + 3] = bytes[offset + i];
  }
  ctx.putImageData(image, 0, 0);
  return tile;
}

export const levelToY = (level, box, window) =>
  box.y + ((window[1] - level) / (window[1] - window[0])) * box.h;

function levelLines(ctx, box, window, colours) {
  ctx.lineWidth = 1;
  ctx.font = "11px 'Atkinson Mono', monospace";
  const span = window[1] - window[0];
  const every = span > 60 ? 25 : span > 30 ? 10 : 5;
  for (let level = Math.ceil(window[0] / every) * every; level <= window[1]; level += every) {
    const y = Math.round(levelToY(level, box, window)) + 0.5;
    ctx.strokeStyle = level === 0 || level === 100 ? colours.label : colours.grid;
    ctx.beginPath();
    ctx.moveTo(box.x, y);
    ctx.lineTo(box.x + box.w, y);
    ctx.stroke();
    if (y > box.y + 9) { ctx.fillStyle = colours.label; ctx.fillText(`${level}`, box.x + 3, y - 3); }
  }
}

export function drawZone(ctx, box, window, zone, colours) {
  const top = levelToY(Math.min(zone[1], window[1]), box, window);
  const bottom = levelToY(Math.max(zone[0], window[0]), box, window);
  ctx.fillStyle = colours.zone;
  ctx.fillRect(box.x, top, box.w, bottom - top);
}

export function drawLevels(ctx, scope, plane, box, window, colour) {
  const [rows, columns] = scope.shape.slice(-2);
  const tile = tinted(scope.bytes, rows, columns, plane * rows * columns, colour);
  const top = ((HIGH - window[1]) / (HIGH - LOW)) * rows;
  const tall = ((window[1] - window[0]) / (HIGH - LOW)) * rows;
  ctx.imageSmoothingEnabled = true;
  ctx.drawImage(tile, 0, top, columns, tall, box.x, box.y, box.w, box.h);
}

export function drawWaveform(ctx, scope, box, colours, options = {}) {
  const window = options.window || [LOW, HIGH];
  if (options.zone) drawZone(ctx, box, window, options.zone, colours);
  levelLines(ctx, box, window, colours);
  if (options.before) drawLevels(ctx, options.before, 0, box, window, colours.before);
  drawLevels(ctx, scope, 0, box, window, colours.trace);
}

export function drawParade(ctx, scope, box, colours, before) {
  levelLines(ctx, box, [LOW, HIGH], colours);
  const each = box.w / 3;
  colours.channels.forEach((colour, at) => {
    if (before) drawLevels(ctx, before, at, { x: box.x + at * each + 1, y: box.y, w: each - 2, h: box.h }, [LOW, HIGH], colours.before);
    drawLevels(ctx, scope, at, { x: box.x + at * each + 1, y: box.y, w: each - 2, h: box.h }, [LOW, HIGH], colour);
  });
}

export function drawHistogram(ctx, scope, box, colours, options = {}) {
  const bins = scope.shape[1];
  const x = (bin) => box.x + (bin / bins) * box.w;
  ctx.strokeStyle = colours.grid;
  for (const level of [0, 25, 50, 75, 100]) {
    const at = Math.round(x(((level - LOW) / (HIGH - LOW)) * bins)) + 0.5;
    ctx.beginPath(); ctx.moveTo(at, box.y); ctx.lineTo(at, box.y + box.h); ctx.stroke();
  }
  const curve = (source, plane, colour, filled) => {
    ctx.beginPath();
    ctx.moveTo(x(0), box.y + box.h);
    for (let bin = 0; bin < bins; bin += 1) {
      ctx.lineTo(x(bin + 0.5), box.y + box.h - (source.bytes[plane * bins + bin] / 255) * (box.h - 4));
    }
    ctx.lineTo(x(bins), box.y + box.h);
    if (filled) { ctx.globalAlpha = 0.25; ctx.fillStyle = colour; ctx.fill(); ctx.globalAlpha = 1; }
    ctx.strokeStyle = colour;
    ctx.stroke();
  };
  if (options.before) curve(options.before, 0, colours.before, true);
  curve(scope, 0, colours.trace, !options.before);
  if (!options.plain) colours.channels.forEach((colour, at) => curve(scope, at + 1, colour, false));
}

export const planeToXY = (cb, cr, box, reach) => [
  box.x + box.w / 2 + (cb / reach) * (box.h / 2),
  box.y + box.h / 2 - (cr / reach) * (box.h / 2),
];

// Skin lies along 123 degrees, whatever the complexion; the zone on either side of it in degrees.
function skinLine(ctx, box, reach, zone, colours) {
  const at = (degrees, far) => planeToXY(far * Math.cos((degrees * Math.PI) / 180), far * Math.sin((degrees * Math.PI) / 180), box, reach);
  const [cx, cy] = planeToXY(0, 0, box, reach);
  ctx.fillStyle = colours.zone;
  ctx.beginPath();
  ctx.moveTo(cx, cy);
  for (const off of zone) ctx.lineTo(...at(123 + off, 0.3));
  ctx.closePath();
  ctx.fill();
  ctx.strokeStyle = colours.label;
  ctx.setLineDash([4, 4]);
  ctx.beginPath(); ctx.moveTo(cx, cy); ctx.lineTo(...at(123, 0.3)); ctx.stroke();
  ctx.setLineDash([]);
}

export function drawVector(ctx, scope, box, colours, options = {}) {
  const reach = options.reach || REACH;
  const [cx, cy] = planeToXY(0, 0, box, reach);
  const radius = (value) => (value / reach) * (box.h / 2);
  ctx.save();
  ctx.beginPath();
  ctx.rect(box.x, box.y, box.w, box.h);
  ctx.clip();
  ctx.strokeStyle = colours.grid;
  for (const ring of reach > 0.3 ? [0.125, 0.25, 0.375, 0.5] : [0.04, 0.08, 0.12]) {
    ctx.beginPath(); ctx.arc(cx, cy, radius(ring), 0, 2 * Math.PI); ctx.stroke();
  }
  ctx.beginPath();
  ctx.moveTo(box.x, cy); ctx.lineTo(box.x + box.w, cy);
  ctx.moveTo(cx, box.y); ctx.lineTo(cx, box.y + box.h);
  ctx.stroke();
  if (options.zone) { ctx.fillStyle = colours.zone; ctx.beginPath(); ctx.arc(cx, cy, radius(options.zone[1]), 0, 2 * Math.PI); ctx.fill(); }
  if (options.outline) {
    ctx.strokeStyle = colours.label;
    ctx.beginPath();
    options.outline.forEach(([cb, cr], at) => {
      const [px, py] = planeToXY(cb, cr, box, reach);
      if (at) ctx.lineTo(px, py); else ctx.moveTo(px, py);
    });
    ctx.closePath();
    ctx.stroke();
  }
  if (options.skin) skinLine(ctx, box, reach, options.skin, colours);
  const size = scope.shape[0];
  const put = (source, colour) => {
    // A wide box shows more of the plane to its sides.
    const half = (reach / REACH) * (size / 2);
    const wide = Math.min(half * (box.w / box.h), size / 2);
    const scale = box.h / (2 * half);
    ctx.drawImage(tinted(source.bytes, size, size, 0, colour), size / 2 - wide, size / 2 - half, 2 * wide, 2 * half, cx - wide * scale, box.y, 2 * wide * scale, box.h);
  };
  if (options.before) put(options.before, colours.before);
  put(scope, colours.trace);
  ctx.restore();
}

export function drawPointer(ctx, x, y, colours) {
  ctx.fillStyle = colours.accent;
  ctx.strokeStyle = colours.ground;
  ctx.lineWidth = 2;
  ctx.beginPath(); ctx.arc(x, y, 7, 0, 2 * Math.PI); ctx.fill(); ctx.stroke();
  ctx.lineWidth = 1;
}
