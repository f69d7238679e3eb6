/* The page's title says how far the queue has come, and when files are ready, to whoever looks elsewhere. */
const name = document.title;
let readyBefore = null;

const tell = () => {
  const queue = document.getElementById("queue");
  if (!queue) return;
  const ready = Number(queue.dataset.ready);
  if (queue.dataset.percent !== undefined) {
    readyBefore ??= ready;
    document.title = `${queue.dataset.percent} % · ${name}`;
  } else if (readyBefore !== null) {
    const made = ready - readyBefore;
    document.title = made > 0 ? `${made} ${made === 1 ? "file is" : "files are"} ready · ${name}` : name;
    readyBefore = null;
  }
};

document.addEventListener("htmx:afterSettle", tell);
window.addEventListener("focus", () => {
  if (readyBefore === null) document.title = name;
});
tell();
