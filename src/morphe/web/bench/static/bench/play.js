// Graded motion: the proxy plays unseen, and every frame is drawn through the grade's passes.
import { sendHeaders } from "../shell/send.js";
import { onGraphics } from "./painter.js";
import { placeAt, readPasses } from "./passes.js";
import { byScript } from "./plain.js";

export function player(root, frame, store, said, span) {
  const bar = root.querySelector("[data-play-bar]");
  const seek = bar.querySelector("input");
  const clock = bar.querySelector("output");
  const button = root.querySelector("[data-play]");
  let canvas = frame.querySelector("[data-motion]");
  let video = null;
  let painter = null;
  let passes = null;
  let shown = "";
  let asking = false;
  let drawing = 0; // the one loop of frames that counts

  async function fetchPasses() {
    const grade = JSON.stringify(store.grade);
    if (grade === shown || asking || !video) return;
    asking = true;
    try {
      const answer = await fetch(root.dataset.passes, { method: "POST", headers: sendHeaders(), body: `{"grade":${grade}}` });
      if (!answer.ok) { said((await answer.json()).problem, true); return; }
      take(readPasses(await answer.arrayBuffer()));
      shown = grade;
    } catch {
      said("Morphe does not answer; the clip plays as it was graded last.", true);
      return;
    } finally {
      asking = false;
    }
    paint();
    if (JSON.stringify(store.grade) !== shown) fetchPasses();
  }

  function take(found) {
    passes = found;
    if (!painter) return;
    try { painter.take(found); } catch { fallBack(); }
  }

  // A canvas keeps its first kind of context: the script gets a fresh one.
  function fallBack() {
    const fresh = canvas.cloneNode();
    canvas.replaceWith(fresh);
    canvas = fresh;
    painter = byScript(canvas);
    if (passes) painter.take(passes);
    if (passes?.some((pass) => pass.kind === "frame")) said("Effects of the whole frame are left out while playing here.");
    paint();
  }

  function paint() {
    if (!passes || !video || !painter || video.readyState < 2) return;
    painter.draw(video, video.videoWidth, video.videoHeight, video.currentTime);
    canvas.hidden = false;
    canvas.dataset.time = video.currentTime.toFixed(3);
    canvas.dataset.way = painter.way;
    seek.value = (video.currentTime - span.begin) / span.length;
    clock.textContent = `${video.currentTime.toFixed(1)} s`;
    store.tell("time", video.currentTime);
  }

  // A shot begins anew where the next one would be seen.
  const LAST = 0.02;
  const isOver = () => video.currentTime < span.begin - LAST || video.currentTime >= span.end - LAST;
  const isShot = () => span.begin > 0 || span.end < video.duration - 0.1;

  function everyFrame(loop) {
    if (loop !== drawing || !video) return;
    if (!video.paused && isShot() && isOver()) video.currentTime = span.begin;
    else paint();
    if (video.requestVideoFrameCallback) video.requestVideoFrameCallback(() => everyFrame(loop));
    else if (!video.paused) requestAnimationFrame(() => everyFrame(loop));
  }
  const startFrames = () => { drawing += 1; everyFrame(drawing); };

  function begin() {
    video = document.createElement("video");
    Object.assign(video, { src: root.dataset.proxy, muted: true, loop: true, playsInline: true, preload: "auto" });
    painter = (root.dataset.plain ? null : onGraphics(canvas, fallBack)) ?? byScript(canvas);
    video.addEventListener("error", () => said("The clip is being prepared for playing; try again in a moment.", true));
    video.addEventListener("seeked", paint);
    if (span.begin) video.currentTime = span.begin;
    video.addEventListener("loadeddata", () => { fetchPasses(); startFrames(); });
    video.addEventListener("play", () => { say(true); startFrames(); });
    video.addEventListener("pause", () => say(false));
  }

  const say = (playing) => {
    button.setAttribute("aria-pressed", String(playing));
    bar.hidden = !video;
  };

  function toggle() {
    if (!video) begin();
    if (video.paused) video.play().catch(() => say(false)); else video.pause();
    say(video.paused);
  }

  function leave() {
    if (!video) return;
    const gone = video;
    video = null;
    drawing += 1;
    gone.pause();
    gone.removeAttribute("src");
    gone.load();
    painter?.free();
    shown = "";
    passes = null;
    canvas.hidden = true;
    bar.hidden = true;
    button.setAttribute("aria-pressed", "false");
  }

  button.addEventListener("click", toggle);
  bar.querySelector("button").addEventListener("click", leave);
  seek.addEventListener("input", () => { if (video) { video.pause(); video.currentTime = span.begin + Number(seek.value) * span.length; } });
  store.on("grade", () => { if (video) fetchPasses(); });
  // Go to a moment, and stay there.
  function jump(seconds) {
    if (!video) begin();
    video.pause();
    video.currentTime = seconds;
    say(false);
  }

  // Where regions lie in the frame that is shown: {layer: [x, y, size, turn in degrees]}.
  function places() {
    const masked = (passes ?? []).filter((pass) => pass.kind === "masked");
    return Object.fromEntries(masked.map((pass) => {
      const [x, y, size, turn] = placeAt(pass.region, video.currentTime);
      return [pass.layer, [x, y, size, (turn * 180) / Math.PI]];
    }));
  }

  return { toggle, leave, seek: jump, places, get time() { return video ? video.currentTime : null; } };
}
