// Without a graphics processor: a smaller picture, graded by the script. Effects of the whole frame are left out.
import { between, halfToNumber, placeAt } from "./passes.js";

const WIDTH = 320;

function lookUp(pass, index, share, rgb) {
  const n = pass.size;
  const [low, high] = pass.domain;
  const scale = (n - 1) / (high - low);
  const one = pass.numbers[index];
  const two = pass.numbers[Math.min(index + 1, pass.numbers.length - 1)];
  const part = [0, 0, 0];
  let base = 0;
  for (let c = 0; c < 3; c += 1) {
    const p = Math.min(Math.max((rgb[c] - low) * scale, 0), n - 1);
    const cell = Math.min(Math.floor(p), n - 2);
    part[c] = p - cell;
    base = base * n + cell;
  }
  const out = [0, 0, 0];
  for (let corner = 0; corner < 8; corner += 1) {
    const r = corner >> 2, g = (corner >> 1) & 1, b = corner & 1;
    const weight = (r ? part[0] : 1 - part[0]) * (g ? part[1] : 1 - part[1]) * (b ? part[2] : 1 - part[2]);
    const place = 3 * (base + r * n * n + g * n + b);
    for (let c = 0; c < 3; c += 1) out[c] += weight * (one[place + c] * (1 - share) + two[place + c] * share);
  }
  return out;
}

// How far a point of the frame belongs to a region at a place.
export function belongs(pass, [px, py, size, turn], x, y, aspect) {
  const { half, samples, feather, inverse } = pass.region;
  const right = (x - px) * aspect;
  const down = y - py;
  const along = (Math.cos(turn) * right + Math.sin(turn) * down) / size;
  const across = (Math.cos(turn) * down - Math.sin(turn) * right) / size;
  const cell = (v) => Math.min(Math.max(Math.round(((v / half) * 0.5 + 0.5) * (samples - 1)), 0), samples - 1);
  const distance = pass.distances[cell(across) * samples + cell(along)] * size;
  const share = Math.min(Math.max(0.5 - distance / feather, 0), 1);
  const soft = share * share * (3 - 2 * share);
  return pass.strength * (inverse ? 1 - soft : soft);
}

export function byScript(canvas) {
  const context = canvas.getContext("2d", { willReadFrequently: true });
  let passes = [];
  return {
    way: "script",
    take(found) {
      passes = found.filter((pass) => pass.kind !== "frame");
      for (const pass of passes) {
        pass.numbers = pass.tables.map((table) => Float32Array.from(table, halfToNumber));
        if (pass.field) pass.distances = Float32Array.from(pass.field, halfToNumber);
      }
    },
    draw(source, width, height, time) {
      const w = Math.min(WIDTH, width);
      const h = Math.round((height * w) / width);
      if (canvas.width !== w || canvas.height !== h) { canvas.width = w; canvas.height = h; }
      context.drawImage(source, 0, 0, w, h);
      const image = context.getImageData(0, 0, w, h);
      const moments = passes.map((pass) => [...between(pass.times, time), pass.region && placeAt(pass.region, time)]);
      const { data } = image;
      for (let i = 0; i < data.length; i += 4) {
        let rgb = [data[i] / 255, data[i + 1] / 255, data[i + 2] / 255];
        passes.forEach((pass, number) => {
          const [index, share, place] = moments[number];
          const weight = place ? belongs(pass, place, ((i / 4) % w + 0.5) / w, (Math.floor(i / 4 / w) + 0.5) / h, w / h) : 1;
          if (!weight) return;
          const changed = lookUp(pass, index, share, rgb);
          rgb = rgb.map((v, c) => v + weight * (changed[c] - v));
        });
        for (let c = 0; c < 3; c += 1) data[i + c] = Math.round(255 * Math.min(Math.max(rgb[c], 0), 1));
      }
      context.putImageData(image, 0, 0);
    },
    free() { passes = []; },
  };
}
