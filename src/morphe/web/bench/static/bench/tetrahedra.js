// The grade's table applied to a picture: on the graphics processor, or, without it, by the script.
const VERTEX = `#version 300 es
in vec2 at; out vec2 uv;
void main() { uv = vec2(at.x * 0.5 + 0.5, 0.5 - at.y * 0.5); gl_Position = vec4(at, 0.0, 1.0); }`;

// Tetrahedral interpolation, as the server's still has it; two tables are blended for a grade that moves.
const FRAGMENT = `#version 300 es
precision highp float; precision highp sampler3D;
uniform sampler2D picture; uniform sampler3D one; uniform sampler3D two;
uniform float share; uniform float low; uniform float high; uniform float size;
in vec2 uv; out vec4 colour;
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
void main() {
  vec3 v = texture(picture, uv).rgb;
  colour = vec4(clamp(mix(looked(one, v), looked(two, v), share), 0.0, 1.0), 1.0);
}`;

function compiled(gl, kind, source) {
  const shader = gl.createShader(kind);
  gl.shaderSource(shader, source);
  gl.compileShader(shader);
  if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader));
  return shader;
}

export function onGraphics(canvas) {
  const gl = canvas.getContext("webgl2", { preserveDrawingBuffer: true, antialias: false });
  if (!gl) return null;
  const program = gl.createProgram();
  gl.attachShader(program, compiled(gl, gl.VERTEX_SHADER, VERTEX));
  gl.attachShader(program, compiled(gl, gl.FRAGMENT_SHADER, FRAGMENT));
  gl.linkProgram(program);
  gl.useProgram(program);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), gl.STATIC_DRAW);
  const at = gl.getAttribLocation(program, "at");
  gl.enableVertexAttribArray(at);
  gl.vertexAttribPointer(at, 2, gl.FLOAT, false, 0, 0);
  const uniform = (name) => gl.getUniformLocation(program, name);
  ["picture", "one", "two"].forEach((name, unit) => gl.uniform1i(uniform(name), unit));
  const picture = gl.createTexture();
  gl.activeTexture(gl.TEXTURE0);
  gl.bindTexture(gl.TEXTURE_2D, picture);
  for (const [key, value] of [[gl.TEXTURE_MIN_FILTER, gl.LINEAR], [gl.TEXTURE_MAG_FILTER, gl.LINEAR], [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE], [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE]]) gl.texParameteri(gl.TEXTURE_2D, key, value);
  let textures = [];

  return {
    way: "graphics",
    take(tables) {
      textures.forEach((texture) => gl.deleteTexture(texture));
      const n = tables.size;
      textures = tables.tables.map((table) => {
        const texture = gl.createTexture();
        gl.activeTexture(gl.TEXTURE1);
        gl.bindTexture(gl.TEXTURE_3D, texture);
        gl.texParameteri(gl.TEXTURE_3D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
        gl.texParameteri(gl.TEXTURE_3D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
        gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
        gl.texImage3D(gl.TEXTURE_3D, 0, gl.RGB16F, n, n, n, 0, gl.RGB, gl.HALF_FLOAT, table);
        return texture;
      });
      gl.uniform1f(uniform("low"), tables.domain[0]);
      gl.uniform1f(uniform("high"), tables.domain[1]);
      gl.uniform1f(uniform("size"), n);
    },
    draw(source, width, height, index, share) {
      if (canvas.width !== width || canvas.height !== height) { canvas.width = width; canvas.height = height; }
      gl.viewport(0, 0, width, height);
      gl.activeTexture(gl.TEXTURE0);
      gl.bindTexture(gl.TEXTURE_2D, picture);
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, source);
      gl.activeTexture(gl.TEXTURE1);
      gl.bindTexture(gl.TEXTURE_3D, textures[index]);
      gl.activeTexture(gl.TEXTURE2);
      gl.bindTexture(gl.TEXTURE_3D, textures[Math.min(index + 1, textures.length - 1)]);
      gl.uniform1f(uniform("share"), share);
      gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    },
  };
}

const PLAIN_WIDTH = 320;

function halfToNumber(half) {
  const exponent = (half >> 10) & 31;
  const fraction = half & 1023;
  const size = exponent === 0 ? fraction * 2 ** -24 : (1 + fraction / 1024) * 2 ** (exponent - 15);
  return half & 0x8000 ? -size : size;
}

// Without a graphics processor: a smaller picture, every pixel at the nearest entry of a finer guess.
export function byScript(canvas) {
  const context = canvas.getContext("2d", { willReadFrequently: true });
  let tables = null;
  let numbers = [];
  return {
    way: "script",
    take(found) { tables = found; numbers = found.tables.map((table) => Float32Array.from(table, halfToNumber)); },
    draw(source, width, height, index, share) {
      const w = Math.min(PLAIN_WIDTH, width);
      const h = Math.round((height * w) / width);
      if (canvas.width !== w || canvas.height !== h) { canvas.width = w; canvas.height = h; }
      context.drawImage(source, 0, 0, w, h);
      const image = context.getImageData(0, 0, w, h);
      const one = numbers[index];
      const two = numbers[Math.min(index + 1, numbers.length - 1)];
      const n = tables.size;
      const [low, high] = tables.domain;
      const scale = (n - 1) / (high - low);
      const { data } = image;
      const at = [0, 0, 0];
      for (let i = 0; i < data.length; i += 4) {
        let base = 0;
        const f = at;
        for (let c = 0; c < 3; c += 1) {
          const p = (data[i + c] / 255 - low) * scale;
          const cell = Math.min(Math.floor(p), n - 2);
          f[c] = p - cell;
          base = base * n + cell;
        }
        for (let c = 0; c < 3; c += 1) {
          let value = 0;
          for (let corner = 0; corner < 8; corner += 1) {
            const r = corner >> 2, g = (corner >> 1) & 1, b = corner & 1;
            const weight = (r ? f[0] : 1 - f[0]) * (g ? f[1] : 1 - f[1]) * (b ? f[2] : 1 - f[2]);
            const place = 3 * (base + r * n * n + g * n + b) + c;
            value += weight * (one[place] * (1 - share) + two[place] * share);
          }
          data[i + c] = Math.round(255 * Math.min(Math.max(value, 0), 1));
        }
      }
      context.putImageData(image, 0, 0);
    },
  };
}
