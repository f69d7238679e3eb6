// Graded motion: the proxy plays unseen, and every frame is drawn through the grade's table.
import { sendHeaders } from "../shell/send.js";
import { byScript, onGraphics } from "./tetrahedra.js";

export function player(root, frame, order, said) {
  const canvas = frame.querySelector("[data-motion]");
  const bar = root.querySelector("[data-play-bar]");
  const seek = bar.querySelector("input");
  const clock = bar.querySelector("output");
  const button = root.querySelector("[data-play]");
  let video = null;
  let painter = null;
  let tables = null;
  let shown = "";
  let asking = false;

  async function fetchTables() {
    const grade = JSON.stringify(order().grade);
    if (grade === shown || asking) return;
    asking = true;
    const answer = await fetch(root.dataset.tables, { method: "POST", headers: sendHeaders(), body: JSON.stringify({ grade: JSON.parse(grade) }) });
    asking = false;
    if (!answer.ok) { said((await answer.json()).problem, true); return; }
    const about = JSON.parse(answer.headers.get("X-Tables"));
    const halves = new Uint16Array(await answer.arrayBuffer());
    const each = 3 * about.size ** 3;
    tables = { ...about, tables: about.times.map((_, index) => halves.subarray(index * each, (index + 1) * each)) };
    painter.take(tables);
    shown = grade;
    paint();
    if (JSON.stringify(order().grade) !== shown) fetchTables();
  }

  function place(time) {
    const { times } = tables;
    let index = 0;
    while (index + 1 < times.length && times[index + 1] <= time) index += 1;
    const span = (times[index + 1] ?? times[index]) - times[index];
    return [index, span > 0 ? Math.min((time - times[index]) / span, 1) : 0];
  }

  function paint() {
    if (!tables || !video || video.readyState < 2) return;
    const [index, share] = place(video.currentTime);
    painter.draw(video, video.videoWidth, video.videoHeight, index, share);
    canvas.hidden = false;
    canvas.dataset.time = video.currentTime.toFixed(3);
    canvas.dataset.way = painter.way;
    seek.value = video.currentTime / Math.max(video.duration, 0.001);
    clock.textContent = `${video.currentTime.toFixed(1)} s`;
    const now = root.querySelector("[data-time-now]");
    if (now) for (const end of ["x1", "x2"]) now.setAttribute(end, 100 * Number(seek.value));
  }

  function everyFrame() {
    paint();
    if (video.requestVideoFrameCallback) video.requestVideoFrameCallback(everyFrame);
    else if (!video.paused) requestAnimationFrame(everyFrame);
  }

  function begin() {
    video = document.createElement("video");
    Object.assign(video, { src: root.dataset.proxy, muted: true, loop: true, playsInline: true, preload: "auto" });
    const graphics = root.dataset.plain ? null : onGraphics(canvas);
    painter = graphics ?? byScript(canvas);
    video.addEventListener("error", () => said("The clip is being prepared for playing; try again in a moment.", true));
    video.addEventListener("seeked", paint);
    video.addEventListener("loadeddata", () => { fetchTables(); everyFrame(); });
  }

  const say = (playing) => {
    button.setAttribute("aria-pressed", String(playing));
    bar.hidden = !video;
  };

  function toggle() {
    if (!video) begin();
    if (video.paused) video.play().catch(() => say(false)); else video.pause();
    video.onplay = () => { say(true); everyFrame(); };
    video.onpause = () => say(false);
    say(video.paused);
  }

  function leave() {
    if (!video) return;
    video.pause();
    video.removeAttribute("src");
    video.load();
    video = null;
    shown = "";
    tables = null;
    canvas.hidden = true;
    bar.hidden = true;
    button.setAttribute("aria-pressed", "false");
  }

  button.addEventListener("click", toggle);
  bar.querySelector("button").addEventListener("click", leave);
  seek.addEventListener("input", () => { if (video) { video.pause(); video.currentTime = Number(seek.value) * video.duration; } });
  return { toggle, leave, changed: () => { if (video) fetchTables(); } };
}
