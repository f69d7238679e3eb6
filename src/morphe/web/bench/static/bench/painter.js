// Paints a picture through a list of passes on the graphics processor; every object it makes it also frees.
import { between, numbersAt, placeAt } from "./passes.js";
import { fragmentOf, VERTEX } from "./shaders.js";

function compiled(gl, kind, source) {
  const shader = gl.createShader(kind);
  gl.shaderSource(shader, source);
  gl.compileShader(shader);
  if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) || "lost");
  return shader;
}

function linked(gl, pass) {
  const program = gl.createProgram();
  const parts = [compiled(gl, gl.VERTEX_SHADER, VERTEX), compiled(gl, gl.FRAGMENT_SHADER, fragmentOf(pass))];
  parts.forEach((part) => gl.attachShader(program, part));
  gl.bindAttribLocation(program, 0, "corner");
  gl.linkProgram(program);
  parts.forEach((part) => gl.deleteShader(part));
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) || "lost");
  return program;
}

function texture(gl, target, filter) {
  const made = gl.createTexture();
  gl.bindTexture(target, made);
  for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(target, side, gl.CLAMP_TO_EDGE);
  for (const way of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(target, way, filter);
  return made;
}

export function onGraphics(canvas, lost) {
  const gl = canvas.getContext("webgl2", { preserveDrawingBuffer: true, antialias: false });
  if (!gl) return null;
  const wide = gl.getExtension("EXT_color_buffer_float"); // what lies outside 0..1 between passes is kept
  const corners = gl.createBuffer();
  gl.bindBuffer(gl.ARRAY_BUFFER, corners);
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), gl.STATIC_DRAW);
  gl.enableVertexAttribArray(0);
  gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
  gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  const picture = texture(gl, gl.TEXTURE_2D, gl.LINEAR);
  canvas.addEventListener("webglcontextlost", (event) => { event.preventDefault(); lost(); }, { once: true });
  let ready = [];
  let stages = [];

  const free = () => {
    for (const one of ready) {
      gl.deleteProgram(one.program);
      [...(one.tables || []), one.field].filter(Boolean).forEach((each) => gl.deleteTexture(each));
    }
    ready = [];
  };
  const freeStages = () => {
    for (const stage of stages) { gl.deleteFramebuffer(stage.buffer); gl.deleteTexture(stage.target); }
    stages = [];
  };

  function table(halves, n) {
    const made = texture(gl, gl.TEXTURE_3D, gl.NEAREST);
    gl.texImage3D(gl.TEXTURE_3D, 0, gl.RGB16F, n, n, n, 0, gl.RGB, gl.HALF_FLOAT, halves);
    return made;
  }
  function field(halves, rows, columns) {
    const made = texture(gl, gl.TEXTURE_2D, gl.LINEAR);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.R16F, columns, rows, 0, gl.RED, gl.HALF_FLOAT, halves);
    return made;
  }
  function stage(width, height) {
    const target = texture(gl, gl.TEXTURE_2D, gl.LINEAR);
    gl.texImage2D(gl.TEXTURE_2D, 0, wide ? gl.RGBA16F : gl.RGBA8, width, height, 0, gl.RGBA, wide ? gl.HALF_FLOAT : gl.UNSIGNED_BYTE, null);
    const buffer = gl.createFramebuffer();
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
    return { target, buffer };
  }
  const bind = (unit, target, what) => { gl.activeTexture(gl.TEXTURE0 + unit); gl.bindTexture(target, what); };

  function set({ pass, program, tables, field: mask }, time, width, height) {
    const at = (name) => gl.getUniformLocation(program, name);
    const number = (name, value) => gl.uniform1f(at(name), value);
    if (pass.kind === "frame") {
      for (const [name, value] of Object.entries(numbersAt(pass, time))) number(name, value);
      gl.uniform2f(at("pixel"), 1 / width, 1 / height);
      number("moment", time);
      if (mask) {
        bind(3, gl.TEXTURE_2D, mask);
        gl.uniform1i(at("plane"), 3);
      }
    } else {
      const [index, share] = between(pass.times, time);
      bind(1, gl.TEXTURE_3D, tables[index]);
      bind(2, gl.TEXTURE_3D, tables[Math.min(index + 1, tables.length - 1)]);
      gl.uniform1i(at("one"), 1);
      gl.uniform1i(at("two"), 2);
      [["share", share], ["low", pass.domain[0]], ["high", pass.domain[1]], ["size", pass.size]].forEach((pair) => number(...pair));
    }
    if (pass.kind === "masked") {
      const { region } = pass;
      bind(3, gl.TEXTURE_2D, mask);
      gl.uniform1i(at("field"), 3);
      gl.uniform4f(at("place"), ...placeAt(region, time));
      gl.uniform4f(at("shape"), width / height, region.half, region.samples, region.feather);
      number("inverse", region.inverse ? 1 : 0);
    }
    if (pass.kind !== "colour") number("strength", pass.strength);
  }

  return {
    way: "graphics",
    take(passes) {
      free();
      ready = passes.map((pass) => ({
        pass,
        program: linked(gl, pass),
        tables: pass.tables?.map((halves) => table(halves, pass.size)),
        field: pass.field && field(pass.field, ...(pass.plane || [pass.region.samples, pass.region.samples])),
      }));
    },
    draw(source, width, height, time) {
      if (canvas.width !== width || canvas.height !== height) { canvas.width = width; canvas.height = height; freeStages(); }
      while (stages.length < Math.min(2, ready.length - 1)) stages.push(stage(width, height));
      gl.viewport(0, 0, width, height);
      bind(0, gl.TEXTURE_2D, picture);
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, source);
      ready.forEach((one, number) => {
        const last = number === ready.length - 1;
        gl.useProgram(one.program);
        gl.bindFramebuffer(gl.FRAMEBUFFER, last ? null : stages[number % 2].buffer);
        bind(0, gl.TEXTURE_2D, number ? stages[(number - 1) % 2].target : picture);
        gl.uniform1i(gl.getUniformLocation(one.program, "picture"), 0);
        gl.uniform1f(gl.getUniformLocation(one.program, "last"), last ? 1 : 0);
        gl.uniform1f(gl.getUniformLocation(one.program, "down"), last ? -1 : 1); // stages keep the first row first
        set(one, time, width, height);
        gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
      });
    },
    free() { free(); freeStages(); gl.deleteTexture(picture); gl.deleteBuffer(corners); },
  };
}
