// The grade as the page holds it: plain JSON, changed one number at a time.
export const readGrade = () => JSON.parse(document.getElementById("grade").textContent);

export function stepOf(grade, key) {
  for (const layer of grade.layers) for (const step of layer.steps) if (step.step === key) return step;
  return null;
}

export function withNumbers(grade, key, numbers, order) {
  const copy = structuredClone(grade);
  const step = stepOf(copy, key);
  if (step) { Object.assign(step, numbers, { on: true }); return copy; }
  const steps = copy.layers[0].steps;
  steps.push({ step: key, on: true, ...numbers });
  steps.sort((a, b) => order.indexOf(a.step) - order.indexOf(b.step));
  return copy;
}
