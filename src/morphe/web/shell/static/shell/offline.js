// Without a connection: a page that was kept says so, what cannot be sent is not pretended to be, and a paired device
// has its pages kept by a service worker.
const { body, documentElement: root } = document;
const worker = body.dataset.worker;
const kept = root.dataset.kept;

function say(sentence) {
  let note = document.querySelector("[data-offline-note]");
  if (!note) {
    note = document.createElement("p");
    note.className = "notice offline-note";
    note.dataset.offlineNote = "";
    note.setAttribute("role", "status");
    document.getElementById("main").prepend(note);
  }
  note.textContent = sentence;
  const again = document.createElement("button");
  again.className = "btn btn-slim";
  again.textContent = "Try again";
  again.addEventListener("click", () => location.reload());
  note.append(" ", again);
}

if (worker && "serviceWorker" in navigator) navigator.serviceWorker.register(worker);

if (kept) {
  const when = new Date(kept).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
  say(`Morphe's computer does not answer. This is the page as it was on ${when}; nothing can be changed on it.`);
  addEventListener("submit", (event) => { event.preventDefault(); event.stopPropagation(); }, true);
  addEventListener("online", () => location.reload());
}
document.addEventListener("htmx:sendError", () => say("Morphe does not answer; what is changed here is not kept until it does."));
document.addEventListener("htmx:afterOnLoad", () => { if (!kept) document.querySelector("[data-offline-note]")?.remove(); });

document.querySelector("[data-try-again]")?.addEventListener("click", () => location.reload());
const list = document.querySelector("[data-kept-pages]");
if (list && "caches" in window) {
  for (const request of (await (await caches.open("pages")).keys()).reverse()) {
    const text = await (await caches.match(request, { cacheName: "pages" })).text();
    const link = document.createElement("a");
    link.href = request.url;
    link.textContent = new DOMParser().parseFromString(text, "text/html").title.replace(" · Morphe", "");
    list.append(Object.assign(document.createElement("li"), { className: "kept-page" }));
    list.lastElementChild.append(link);
  }
}
