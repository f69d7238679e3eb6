// Changes to a grade as the page holds it: plain JSON, never altered in place.
export const readGrade = () => JSON.parse(document.getElementById("grade").textContent);

// What belongs to the file is addressed as a layer of its own.
export const layerOf = (grade, id) => (id === "source" ? { steps: grade.source } : grade.layers.find((layer) => layer.id === id));

const NEAR_S = 0.02;
const isNear = (one, time) => Math.abs(one - time) < NEAR_S;
export const moves = (value) => Boolean(value?.moments);

// A number as it is after `value` was set at a time: one that moves gets a moment there.
export function setAt(old, value, time) {
  if (!moves(old)) return value;
  const others = old.moments.filter(([seconds]) => !isNear(seconds, time));
  return { moments: [...others, [time, value]].sort((a, b) => a[0] - b[0]) };
}

// A moment set at a time, or taken away if it was there; a number without moments holds still.
export function turnMoment(old, value, time) {
  if (!moves(old)) return { moments: [[time, value]] };
  const others = old.moments.filter(([seconds]) => !isNear(seconds, time));
  if (others.length === old.moments.length) return setAt(old, value, time);
  return others.length ? { moments: others } : value;
}

// A copy with other numbers of a step; `orders` holds the order of the work and that of the layers.
export function withNumbers(grade, layerId, key, numbers, orders) {
  const copy = structuredClone(grade);
  let layer = layerOf(copy, layerId);
  if (!layer) {
    layer = { id: layerId, scope: layerId, name: "", on: true, strength: 1, steps: [] };
    copy.layers.push(layer);
    copy.layers.sort((a, b) => orders.scopes.indexOf(a.scope) - orders.scopes.indexOf(b.scope));
  }
  const step = layer.steps.find((one) => one.step === key);
  if (step) { Object.assign(step, numbers, { on: true }); return copy; }
  layer.steps.push({ step: key, on: true, ...numbers });
  layer.steps.sort((a, b) => orders.steps.indexOf(a.step) - orders.steps.indexOf(b.step));
  return copy;
}

// A copy in which a layer is changed by `change(layer)`; a layer that is gone stays gone.
export function withLayer(grade, layerId, change) {
  const copy = structuredClone(grade);
  const layer = layerOf(copy, layerId);
  if (layer) change(layer);
  return copy;
}

// Whether a region's places belong to moments: a first one that was set lies after the clip's beginning.
export const hasMoments = (region) => region.moments.length > 1 || region.moments[0][0] > 0;

// Put a region to a place [x, y, size, turn]: throughout if it holds still, else at this moment.
export function put(region, place, time) {
  const row = [time, ...place];
  if (!hasMoments(region)) { region.moments = [[0, ...place]]; return; }
  const others = region.moments.filter((moment) => !isNear(moment[0], time));
  region.moments = [...others, row].sort((a, b) => a[0] - b[0]);
}
