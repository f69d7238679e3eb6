// Pieces of a page that follow what happens: one small question for all of them, often while something is under way,
// seldom while nothing is, never while the page is hidden. A piece that has news draws itself anew.
const SOON_MS = 1000, LATEST_MS = 15000, SLOWER = 1.3;
let wait = SOON_MS, timer = 0, mark = "", asked = "";

const followed = () => [...document.querySelectorAll("[data-follow]")];

function later() {
  clearTimeout(timer);
  const pieces = followed();
  if (!pieces.length || document.hidden) return;
  if (pieces.some((piece) => "busy" in piece.dataset)) wait = SOON_MS;
  timer = setTimeout(ask, wait);
  wait = Math.min(wait * SLOWER, LATEST_MS);
}

function tell(marks) {
  for (const piece of followed()) {
    const now = marks[piece.dataset.follow];
    if (now === undefined || now === piece.dataset.mark) continue;
    piece.dataset.mark = now;
    wait = SOON_MS;
    htmx.trigger(piece, "refresh");
  }
}

async function ask() {
  const names = [...new Set(followed().map((piece) => piece.dataset.follow))].join(",");
  if (names !== asked) mark = "";
  asked = names;
  try {
    const answer = await fetch(`${document.body.dataset.news}?of=${names}`, { headers: { "If-None-Match": mark } });
    if (answer.ok) {
      mark = answer.headers.get("ETag") ?? "";
      tell(await answer.json());
    }
  } catch {
    wait = LATEST_MS; // Morphe does not answer; it is asked again
  }
  later();
}

function soon() {
  wait = SOON_MS;
  later();
}

document.addEventListener("visibilitychange", () => (document.hidden ? clearTimeout(timer) : ask()));
document.addEventListener("htmx:afterSettle", soon);
soon();
