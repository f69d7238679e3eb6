// The grade as the page holds it: plain JSON, changed one number at a time.
export const readGrade = () => JSON.parse(document.getElementById("grade").textContent);

// A copy with other numbers of a step; `order` is the order of the work, `scopes` that of the layers.
export function withNumbers(grade, layerId, key, numbers, order, scopes) {
  const copy = structuredClone(grade);
  let layer = copy.layers.find((one) => one.id === layerId);
  if (!layer) {
    layer = { id: layerId, scope: layerId, name: "", on: true, strength: 1, steps: [] };
    copy.layers.push(layer);
    copy.layers.sort((a, b) => scopes.indexOf(a.scope) - scopes.indexOf(b.scope));
  }
  const step = layer.steps.find((one) => one.step === key);
  if (step) { Object.assign(step, numbers, { on: true }); return copy; }
  layer.steps.push({ step: key, on: true, ...numbers });
  layer.steps.sort((a, b) => order.indexOf(a.step) - order.indexOf(b.step));
  return copy;
}
