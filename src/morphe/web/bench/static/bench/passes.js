// The passes of a grade as they arrive: a line of JSON, then half floats for tables and masks.
export function readPasses(buffer) {
  const bytes = new Uint8Array(buffer);
  const end = bytes.indexOf(10);
  const { passes } = JSON.parse(new TextDecoder().decode(bytes.subarray(0, end)));
  let at = end + 1;
  const take = (count) => {
    const halves = new Uint16Array(buffer, at, count);
    at += 2 * count;
    return halves;
  };
  for (const pass of passes) {
    if (pass.kind === "frame") {
      if (pass.plane) pass.field = take(pass.plane[0] * pass.plane[1]);
      continue;
    }
    pass.tables = pass.times.map(() => take(3 * pass.size ** 3));
    if (pass.kind === "masked") pass.field = take(pass.region.samples ** 2);
  }
  return passes;
}

// Between which two moments a time lies, and how far on the way.
export function between(times, time) {
  let index = 0;
  while (index + 1 < times.length && times[index + 1] <= time) index += 1;
  const span = (times[index + 1] ?? times[index]) - times[index];
  return [index, span > 0 ? Math.min(Math.max((time - times[index]) / span, 0), 1) : 0];
}

// Where a region lies at a time: [x, y, size, turn in radians].
export function placeAt({ places }, time) {
  const [index, share] = between(places.map((place) => place[0]), time);
  const one = places[index];
  const two = places[Math.min(index + 1, places.length - 1)];
  const [x, y, size, turn] = [1, 2, 3, 4].map((part) => one[part] + share * (two[part] - one[part]));
  return [x, y, size, (turn * Math.PI) / 180];
}

// The numbers of an effect at a time.
export function numbersAt({ times, numbers }, time) {
  const [index, share] = between(times, time);
  const two = numbers[Math.min(index + 1, numbers.length - 1)];
  return Object.fromEntries(
    Object.entries(numbers[index]).map(([name, value]) => [name, value + share * (two[name] - value)]),
  );
}

export function halfToNumber(half) {
  const exponent = (half >> 10) & 31;
  const fraction = half & 1023;
  const size = exponent === 0 ? fraction * 2 ** -24 : (1 + fraction / 1024) * 2 ** (exponent - 15);
  return half & 0x8000 ? -size : size;
}
