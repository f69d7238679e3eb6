// What the Bench's scripts compute: the store, changes to a grade, passes, masks, dragging.
import assert from "node:assert/strict";
import test from "node:test";

const at = (name) => import(`../../src/morphe/web/bench/static/bench/${name}.js`);
const orders = { steps: ["exposure", "balance", "saturation", "sharpen"], scopes: ["outing", "light", "clip", "style", "finish"] };
const layer = (id, steps = [], more = {}) => ({ id, scope: id in { clip: 1, finish: 1 } ? id : "clip", name: "", on: true, strength: 1, steps, ...more });
const region = (moments) => ({ shape: { kind: "ellipse", wide: 0.2, tall: 0.2 }, feather: 0.1, inverse: false, moments });

globalThis.document = { getElementById: () => null };

test("an answer older than an edit keeps the edit on top", async () => {
  const { makeStore } = await at("store");
  const store = makeStore({ value: 0, accepted: false });
  store.edit((grade) => ({ ...grade, value: 1 }));
  const asked = store.revision;
  store.edit((grade) => ({ ...grade, value: 2 }));

  const rest = store.answered({ value: 1, accepted: true }, asked);

  assert.equal(rest, true);
  assert.deepEqual(store.grade, { value: 2, accepted: true });
  assert.equal(store.answered({ value: 2, accepted: true }, store.revision), false);
  assert.equal(store.unsaved, false);
});

test("grades are the same whatever the order of their keys", async () => {
  const { same } = await at("store");
  assert.ok(same({ a: [1, { b: 2, c: null }] }, { a: [1, { c: null, b: 2 }] }));
  for (const other of [{ a: 1, b: 2 }, { a: 2 }, { b: 1 }, null, [1]]) assert.ok(!same({ a: 1 }, other));
});

test("numbers go to their step, in the order of the work, and leave the grade that was", async () => {
  const { withNumbers } = await at("grade");
  const grade = { layers: [layer("clip", [{ step: "saturation", on: true, amount: 5 }])] };

  const changed = withNumbers(grade, "clip", "exposure", { stops: 0.5 }, orders);
  const finished = withNumbers(changed, "finish", "sharpen", { amount: 3 }, orders);

  assert.deepEqual(changed.layers[0].steps.map((step) => step.step), ["exposure", "saturation"]);
  assert.deepEqual(finished.layers.map((one) => one.id), ["clip", "finish"]);
  assert.equal(grade.layers[0].steps.length, 1);
});

test("a number that moves is set at its moment, and holds still once its last moment is taken away", async () => {
  const { moves, setAt, turnMoment } = await at("grade");

  const first = turnMoment(0.4, 0.4, 1);
  const two = setAt(first, 0.9, 3);
  const moved = setAt(two, 0.5, 1.01);

  assert.deepEqual(moved, { moments: [[1.01, 0.5], [3, 0.9]] });
  assert.ok(moves(moved) && !moves(0.4));
  assert.equal(setAt(0.4, 0.7, 2), 0.7);
  assert.deepEqual(turnMoment(moved, 0.9, 3), { moments: [[1.01, 0.5]] });
  assert.equal(turnMoment(first, 0.4, 1), 0.4);
});

test("scopes as filmed are kept by frame and by what is measured of it", async () => {
  const { keyOf } = await at("store");
  const inside = { layer: "r", side: "inside" };
  const grade = (x) => ({ layers: [layer("r", [], { region: region([[0, x, 0.5, 1, 0]]) })] });

  assert.equal(keyOf({ frame: 1, measure: null, grade: grade(0.1) }), keyOf({ frame: 1, measure: null, grade: grade(0.2) }));
  assert.notEqual(keyOf({ frame: 1, measure: inside, grade: grade(0.1) }), keyOf({ frame: 1, measure: inside, grade: grade(0.2) }));
  assert.notEqual(keyOf({ frame: 1, measure: null, grade: grade(0.1) }), keyOf({ frame: 2, measure: null, grade: grade(0.1) }));
});

test("a region that holds still is put throughout, one that moves at its moment", async () => {
  const { put } = await at("grade");
  const still = region([[0, 0.5, 0.5, 1, 0]]);
  const moving = region([[0, 0.5, 0.5, 1, 0], [2, 0.6, 0.5, 1, 0]]);

  put(still, [0.2, 0.3, 1, 0], 1.5);
  put(moving, [0.7, 0.5, 1, 0], 1);
  put(moving, [0.8, 0.5, 1, 0], 1.01);

  assert.deepEqual(still.moments, [[0, 0.2, 0.3, 1, 0]]);
  assert.deepEqual(moving.moments.map((row) => row[1]), [0.5, 0.8, 0.6]);
});

test("passes are read from a line of JSON and the halves behind it", async () => {
  const { readPasses } = await at("passes");
  const passes = [
    { kind: "colour", size: 2, times: [0, 1] },
    { kind: "frame", numbers: [{}] },
    { kind: "masked", size: 2, times: [0], region: { samples: 3 } },
  ];
  let head = JSON.stringify({ passes });
  if (head.length % 2 === 0) head += " ";
  const text = new TextEncoder().encode(`${head}\n`);
  const halves = new Uint16Array(2 * 24 + 24 + 9).map((_, index) => index);
  const bytes = new Uint8Array(text.length + halves.byteLength);
  bytes.set(text);
  bytes.set(new Uint8Array(halves.buffer), text.length);

  const read = readPasses(bytes.buffer);

  assert.equal(read[0].tables.length, 2);
  assert.equal(read[0].tables[1][0], 24);
  assert.equal(read[2].tables[0][0], 48);
  assert.deepEqual([...read[2].field], [72, 73, 74, 75, 76, 77, 78, 79, 80]);
});

test("between two moments lies a share, before and after them none", async () => {
  const { between, placeAt, numbersAt } = await at("passes");
  assert.deepEqual(between([0, 2, 4], 3), [1, 0.5]);
  assert.deepEqual(between([1, 2], 0), [0, 0]);
  assert.deepEqual(between([0, 2], 9), [1, 0]);
  const [x, , size, turn] = placeAt({ places: [[0, 0.2, 0.5, 1, 0], [2, 0.4, 0.5, 2, 180]] }, 1);
  assert.ok(Math.abs(x - 0.3) < 1e-9 && size === 1.5 && Math.abs(turn - Math.PI / 2) < 1e-9);
  assert.deepEqual(numbersAt({ times: [0, 2], numbers: [{ amount: 0 }, { amount: 10 }] }, 0.5), { amount: 2.5 });
});

test("a half is the number that it stands for", async () => {
  const { halfToNumber } = await at("passes");
  for (const [half, number] of [[0x3c00, 1], [0xc000, -2], [0x3555, 0.333251953125], [0x0001, 2 ** -24], [0, 0]]) {
    assert.equal(halfToNumber(half), number);
  }
});

test("a mask is full inside, none outside, a half at its edge, and the reverse inverted", async () => {
  const { belongs } = await at("plain");
  const samples = 201;
  const half = 0.5;
  const cell = (index) => (index / (samples - 1) - 0.5) * 2 * half;
  const distances = Float32Array.from({ length: samples ** 2 }, (_, at) => Math.hypot(cell(at % samples), cell(Math.floor(at / samples))) - 0.2);
  const pass = { strength: 1, distances, region: { half, samples, feather: 0.1, inverse: false } };
  const place = [0.5, 0.5, 1, 0];

  const found = [0, 0.2, 0.4].map((away) => belongs(pass, place, 0.5 + away / 2, 0.5, 2));

  assert.equal(found[0], 1);
  assert.ok(Math.abs(found[1] - 0.5) < 0.02);
  assert.equal(found[2], 0);
  pass.region.inverse = true;
  assert.equal(belongs(pass, place, 0.5, 0.5, 2), 0);
});

test("a loupe that is dragged moves its number by what its scope says", async () => {
  const { dragged } = await at("loupe");
  const canvas = { clientHeight: 100, clientWidth: 200 };
  const black = { key: "black", scope: "luma", window: [-10, 10], drags: "lower", perPercent: -1 };
  const balance = { key: "balance", scope: "vector", window: [0, 0.1], plane: [1, 0, 0, 2] };

  assert.deepEqual(dragged(black, { lower: 1 }, 0, -50, canvas), { lower: -9 });
  const moved = dragged(balance, { warmth: 0, tint: 0 }, 50, 25, canvas);
  assert.ok(Math.abs(moved.warmth - 0.108) < 1e-9 && Math.abs(moved.tint + 0.108) < 1e-9);
});

test("handles and outline belong to the shape", async () => {
  const { handlesOf, outlineOf } = await at("regions");
  assert.deepEqual(handlesOf({ kind: "ellipse", wide: 0.3, tall: 0.1 }), [["wide", 0.3, 0], ["tall", 0, -0.1]]);
  assert.equal(outlineOf({ kind: "line" }).length, 2);
  assert.ok(outlineOf({ kind: "ellipse", wide: 0.3, tall: 0.1 }).every(([x, y]) => Math.abs((x / 0.3) ** 2 + (y / 0.1) ** 2 - 1) < 1e-9));
});
