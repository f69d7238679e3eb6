// Bring clips in: drop or choose, one after the other, each with its own progress.
const drop = document.querySelector("[data-drop]");
const input = drop.querySelector("input[type=file]");
const arrivals = document.querySelector("[data-arrivals]");
const line = [];
let busy = false;

function row(name) {
  const node = document.getElementById("arrival").content.firstElementChild.cloneNode(true);
  node.querySelector("[data-name]").textContent = name;
  arrivals.append(node);
  return node;
}

function send(file, node) {
  return new Promise((done) => {
    const request = new XMLHttpRequest();
    const bar = node.querySelector("progress");
    const said = node.querySelector("[data-said]");
    request.open("POST", drop.action);
    request.setRequestHeader("Accept", "application/json");
    request.setRequestHeader("X-CSRFToken", document.body.dataset.csrf);
    request.upload.addEventListener("progress", (event) => {
      bar.value = event.loaded / event.total;
      said.textContent = `${Math.round(100 * bar.value)} %`;
    });
    request.addEventListener("loadend", () => {
      let answer = {};
      try { answer = JSON.parse(request.responseText); } catch { /* no answer came */ }
      if (request.status === 200) {
        node.remove();
        htmx.trigger("#cards", "refresh");
      } else {
        bar.remove();
        said.textContent = answer.problem || "The connection was lost; bring the clip in again.";
        node.classList.add("notice-error");
      }
      done();
    });
    const form = new FormData();
    form.append("modified", file.lastModified);
    form.append("clip", file);
    request.send(form);
  });
}

async function work() {
  if (busy) return;
  busy = true;
  while (line.length) { const [file, node] = line.shift(); await send(file, node); }
  busy = false;
}

function take(files) {
  for (const file of files) line.push([file, row(file.name)]);
  work();
}

drop.querySelector("[data-choose]").addEventListener("click", () => input.click());
input.addEventListener("change", () => { take(input.files); input.value = ""; });
drop.addEventListener("dragover", (event) => { event.preventDefault(); drop.classList.add("over"); });
drop.addEventListener("dragleave", () => drop.classList.remove("over"));
drop.addEventListener("drop", (event) => {
  event.preventDefault();
  drop.classList.remove("over");
  take(event.dataTransfer.files);
});
