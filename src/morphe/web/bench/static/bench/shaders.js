// What the graphics processor runs for each kind of pass.
export const VERTEX = `#version 300 es
in vec2 corner; out vec2 uv; uniform float down;
void main() { uv = vec2(corner.x * 0.5 + 0.5, 0.5 + down * corner.y * 0.5); gl_Position = vec4(corner, 0.0, 1.0); }`;

const HEAD = `#version 300 es
precision highp float; precision highp sampler3D;
uniform sampler2D picture; uniform float last;
in vec2 uv; out vec4 painted;
vec4 shown(vec3 v) { return vec4(last > 0.5 ? clamp(v, 0.0, 1.0) : v, 1.0); }
`;

// Tetrahedral interpolation, as the server's still has it; two tables are blended for what moves.
const LOOKED = `
uniform sampler3D one; uniform sampler3D two; uniform float share; uniform float low; uniform float high; uniform float size;
vec3 looked(sampler3D table, vec3 v) {
  vec3 p = clamp((v - low) / (high - low), 0.0, 1.0) * (size - 1.0);
  vec3 base = min(floor(p), size - 2.0);
  vec3 f = p - base;
  ivec3 b = ivec3(base.zyx);
  ivec3 r = ivec3(0, 0, 1), g = ivec3(0, 1, 0), l = ivec3(1, 0, 0);
  ivec3 first, second; float hi, mid, lo;
  if (f.r >= f.g) {
    if (f.g >= f.b) { first = r; second = r + g; hi = f.r; mid = f.g; lo = f.b; }
    else if (f.r >= f.b) { first = r; second = r + l; hi = f.r; mid = f.b; lo = f.g; }
    else { first = l; second = r + l; hi = f.b; mid = f.r; lo = f.g; }
  } else {
    if (f.b >= f.g) { first = l; second = g + l; hi = f.b; mid = f.g; lo = f.r; }
    else if (f.b >= f.r) { first = g; second = g + l; hi = f.g; mid = f.b; lo = f.r; }
    else { first = g; second = r + g; hi = f.g; mid = f.r; lo = f.b; }
  }
  return (1.0 - hi) * texelFetch(table, b, 0).rgb + (hi - mid) * texelFetch(table, b + first, 0).rgb
       + (mid - lo) * texelFetch(table, b + second, 0).rgb + lo * texelFetch(table, b + r + g + l, 0).rgb;
}
vec3 graded(vec3 v) { return mix(looked(one, v), looked(two, v), share); }
`;

const MASK = `
uniform sampler2D field; uniform vec4 place; uniform vec4 shape; uniform float strength; uniform float inverse;
float belongs() {
  // shape: aspect of the frame, half side of the field, its samples, soft edge
  vec2 away = (uv - place.xy) * vec2(shape.x, 1.0);
  vec2 here = vec2(cos(place.w) * away.x + sin(place.w) * away.y, cos(place.w) * away.y - sin(place.w) * away.x) / place.z;
  vec2 at = ((here / shape.y * 0.5 + 0.5) * (shape.z - 1.0) + 0.5) / shape.z;
  float part = clamp(0.5 - texture(field, at).r * place.z / shape.w, 0.0, 1.0);
  part = part * part * (3.0 - 2.0 * part);
  return strength * mix(part, 1.0 - part, inverse);
}
`;

// What effects share: light (the square of a code), light laid over codes, points spread as a Gaussian of
// unit spread, and chance of unit spread by cell and moment.
const HELPERS = `
uniform float moment; uniform sampler2D plane;
vec3 light(vec3 v) { v = clamp(v, 0.0, 1.0); return v * v; }
vec3 screened(vec3 v, vec3 b) { return v + sqrt(light(v) + b * (1.0 - light(v))) - clamp(v, 0.0, 1.0); }
vec2 spiral(int i, int n) {
  float r = sqrt(-2.0 * log(1.0 - (float(i) + 0.5) / float(n))), turn = float(i) * 2.399963;
  return r * vec2(cos(turn), sin(turn));
}
float mixed(vec3 p) { p = fract(p * 0.1031); p += dot(p, p.zyx + 31.32); return fract((p.x + p.y) * p.z); }
float chance(vec2 cell, float moment) {
  float all = 0.0;
  for (int i = 0; i < 4; i++) all += mixed(vec3(cell + 0.5, fract(moment) * 97.0 + float(i) * 19.7));
  return (all - 2.0) * 1.7320508;
}
`;

export function fragmentOf(pass) {
  if (pass.kind === "colour") return `${HEAD}${LOOKED}void main() { painted = shown(graded(texture(picture, uv).rgb)); }`;
  if (pass.kind === "masked") {
    return `${HEAD}${LOOKED}${MASK}void main() { vec3 v = texture(picture, uv).rgb; painted = shown(mix(v, graded(v), belongs())); }`;
  }
  const numbers = Object.keys(pass.numbers[0]).map((name) => `uniform float ${name};`).join(" ");
  return `${HEAD}${HELPERS}${numbers} uniform vec2 pixel; uniform float strength;
vec3 source(vec2 at) { return texture(picture, at).rgb; }
vec3 effect(vec2 at) {${pass.shader}}
void main() { vec3 v = source(uv); painted = shown(mix(v, effect(uv), strength)); }`;
}
