// The exposure stack: drag the end of a bar, or move it by keys; the server solves the rest.
const WAIT_MS = 260;
let sending = 0;

function stackOf(track) { return track.closest("[data-stack]"); }

function place(track, index) {
  const stack = stackOf(track);
  const low = Number(stack.dataset.low), span = Number(stack.dataset.high) - low;
  const [, stops, words] = track.options[index];
  const bar = track.querySelector("[data-bar]");
  const start = Number(bar.dataset.from), end = start - (100 * stops) / span;
  bar.setAttribute("x", `${Math.min(start, end)}%`);
  bar.setAttribute("width", `${Math.abs(start - end)}%`);
  track.querySelector(".handle > svg").setAttribute("x", `${end}%`);
  track.closest(".stack-row").querySelector("[data-value]").textContent = words;
  const handle = track.querySelector(".handle");
  handle.setAttribute("aria-valuenow", index);
  handle.setAttribute("aria-valuetext", words);
  track.index = index;
}

function send(track) {
  const values = { part: track.dataset.part, value: track.options[track.index][0] };
  htmx.ajax("POST", stackOf(track).dataset.url, { target: "#plan-body", swap: "outerHTML", values });
}

function nearest(track, event) {
  const stack = stackOf(track), box = track.getBoundingClientRect();
  const low = Number(stack.dataset.low), span = Number(stack.dataset.high) - low;
  const start = Number(track.querySelector("[data-bar]").dataset.from);
  const wanted = ((start - (100 * (event.clientX - box.left)) / box.width) * span) / 100;
  let best = 0;
  track.options.forEach(([, stops], i) => {
    if (Math.abs(stops - wanted) < Math.abs(track.options[best][1] - wanted)) best = i;
  });
  return best;
}

function drag(track, handle) {
  handle.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    handle.setPointerCapture(event.pointerId);
    handle.focus();
    const before = track.index;
    const move = (moved) => place(track, nearest(track, moved));
    handle.addEventListener("pointermove", move);
    handle.addEventListener("lostpointercapture", () => {
      handle.removeEventListener("pointermove", move);
      if (track.index !== before) send(track);
    }, { once: true });
  });
}

const STEPS = { ArrowLeft: 1, ArrowDown: 1, ArrowRight: -1, ArrowUp: -1 };

function keys(track, handle) {
  handle.addEventListener("keydown", (event) => {
    const last = track.options.length - 1;
    const ends = { Home: 0, End: last };
    const step = (STEPS[event.key] || 0) * (event.shiftKey ? 3 : 1);
    if (!step && !(event.key in ends)) return;
    event.preventDefault();
    event.stopPropagation();
    place(track, event.key in ends ? ends[event.key] : Math.min(last, Math.max(0, track.index + step)));
    clearTimeout(sending);
    sending = setTimeout(() => send(track), WAIT_MS);
  });
}

function start(root) {
  for (const track of root.querySelectorAll("[data-options]")) {
    const handle = track.querySelector(".handle");
    track.options = JSON.parse(track.dataset.options);
    track.index = Number(handle.getAttribute("aria-valuenow"));
    drag(track, handle);
    keys(track, handle);
  }
}

start(document);
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target.id === "plan-body" || event.detail.elt.id === "plan-body") start(document);
});
