// Fingers on the Bench: two on the picture bring it nearer, one swipes to the next moment or the next rung.
const SWIPE_PX = 60, SWIPE_MS = 500;
const NEAREST = 8, WHOLE = 1.05;

const between = (touches) => {
  const [one, two] = touches;
  return { x: (one.clientX + two.clientX) / 2, y: (one.clientY + two.clientY) / 2, far: Math.hypot(one.clientX - two.clientX, one.clientY - two.clientY) };
};

// The picture under two fingers: what lies between them stays there. `whole` is the button that shows all of it again.
export function pinchable(surround, frame, whole) {
  let [scale, x, y] = [1, 0, 0];
  let start = null;

  function show() {
    frame.style.transform = scale > 1 ? `translate(${x}px, ${y}px) scale(${scale})` : "";
    frame.style.transformOrigin = "0 0";
    surround.toggleAttribute("data-near", scale > 1);
    whole.hidden = scale === 1;
  }
  function reset() { [scale, x, y] = [1, 0, 0]; show(); }

  surround.addEventListener("touchstart", (event) => {
    if (event.touches.length !== 2) return;
    const box = frame.getBoundingClientRect();
    start = { ...between(event.touches), scale, left: box.left - x, top: box.top - y, at: { x, y } };
  }, { passive: true });
  surround.addEventListener("touchmove", (event) => {
    if (!start || event.touches.length !== 2) return;
    event.preventDefault();
    const now = between(event.touches);
    scale = Math.min(Math.max((start.scale * now.far) / start.far, 1), NEAREST);
    const grown = scale / start.scale;
    x = now.x - start.left - (start.x - start.left - start.at.x) * grown;
    y = now.y - start.top - (start.y - start.top - start.at.y) * grown;
    show();
  }, { passive: false });
  surround.addEventListener("touchend", (event) => {
    if (event.touches.length < 2) start = null;
    if (scale < WHOLE) reset();
  });
  whole.addEventListener("click", reset);
}

// A quick stroke to the side; `turn` is told 1 for to the left (on) and −1 for back.
export function swipeable(node, turn, ignored) {
  let begun = null;
  node.addEventListener("touchstart", (event) => {
    const [touch] = event.touches;
    begun = event.touches.length === 1 && !event.target.closest(ignored) ? { x: touch.clientX, y: touch.clientY, at: event.timeStamp } : null;
  }, { passive: true });
  node.addEventListener("touchend", (event) => {
    if (!begun || event.touches.length) return;
    const [touch] = event.changedTouches;
    const [dx, dy] = [touch.clientX - begun.x, touch.clientY - begun.y];
    const quick = event.timeStamp - begun.at < SWIPE_MS;
    begun = null;
    if (quick && Math.abs(dx) > SWIPE_PX && Math.abs(dx) > 2 * Math.abs(dy)) turn(dx < 0 ? 1 : -1);
  }, { passive: true });
}
