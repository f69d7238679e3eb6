// Bring clips in: drop or choose, one after the other, in pieces; a lost connection is waited for.
const drop = document.querySelector("[data-drop]");
const input = drop.querySelector("input[type=file]");
const arrivals = document.querySelector("[data-arrivals]");
const line = [];
const LONGEST_WAIT_S = 15;
let busy = false;

const headers = () => ({ Accept: "application/json", "X-CSRFToken": document.body.dataset.csrf });
const pause = (seconds) => new Promise((done) => { setTimeout(done, 1000 * seconds); });

function row(name) {
  const node = document.getElementById("arrival").content.firstElementChild.cloneNode(true);
  node.querySelector("[data-name]").textContent = name;
  arrivals.append(node);
  return node;
}

// Ask until the server answers; what it refuses is an answer too.
async function patiently(ask, say) {
  for (let wait = 1; ; wait = Math.min(2 * wait, LONGEST_WAIT_S)) {
    try {
      const answer = await ask();
      if (answer.status < 500) return answer;
    } catch { /* no connection */ }
    say("Waiting for the connection; what has arrived is safe.");
    await pause(wait);
  }
}

// The digest of a piece as a header says it (RFC 9530), where the browser can tell it: not without TLS.
async function digestOf(piece) {
  if (!globalThis.crypto?.subtle) return {};
  const hash = new Uint8Array(await crypto.subtle.digest("SHA-256", await piece.arrayBuffer()));
  return { "Content-Digest": `sha-256=:${btoa(String.fromCharCode(...hash))}:` };
}

const say = (node, text) => { node.querySelector("[data-said]").textContent = text; };

function refuse(node, sentence) {
  node.querySelector("progress").remove();
  say(node, sentence);
  node.classList.add("notice-error");
}

async function send(file, node) {
  const bar = node.querySelector("progress");
  const wait = (text) => say(node, text);
  const begin = () => fetch(drop.dataset.begin, { method: "POST", headers: headers(), body: JSON.stringify({ name: file.name, size: file.size, modified: file.lastModified }) });
  let answer = await patiently(begin, wait);
  let told = await answer.json();
  if (answer.ok) {
    const { token, piece } = told;
    let at = told.received;
    while (answer.ok && at < file.size) {
      bar.value = at / file.size;
      wait(`${Math.round(100 * bar.value)} %`);
      const from = at;
      const body = file.slice(from, from + piece);
      const digest = await digestOf(body);
      answer = await patiently(() => fetch(`${drop.dataset.begin}${token}/?at=${from}`, { method: "POST", headers: { ...headers(), ...digest, "Content-Type": "application/octet-stream" }, body }), wait);
      told = answer.status === 404 ? { problem: "The upload was given up; bring the clip in again." } : await answer.json();
      if (answer.status === 409) { at = told.received; answer = { ok: true }; } else at = told.received ?? file.size;
    }
  }
  if (answer.ok) {
    node.remove();
    htmx.trigger("#cards", "refresh");
  } else {
    refuse(node, told.problem);
  }
}

async function work() {
  if (busy) return;
  busy = true;
  while (line.length) {
    const [file, node] = line.shift();
    try {
      await send(file, node);
    } catch { // an answer that is none of ours: the next file is sent all the same
      refuse(node, "The server gave an answer that cannot be read; load this page anew and bring the clip in again.");
    }
  }
  busy = false;
}

function take(files) {
  for (const file of files) line.push([file, row(file.name)]);
  work();
}

drop.querySelector("[data-choose]").addEventListener("click", () => input.click());
input.addEventListener("change", () => { take([...input.files]); input.value = ""; });
drop.addEventListener("dragover", (event) => { event.preventDefault(); drop.classList.add("over"); });
drop.addEventListener("dragleave", () => drop.classList.remove("over"));
drop.addEventListener("drop", (event) => {
  event.preventDefault();
  drop.classList.remove("over");
  take([...event.dataTransfer.files]);
});
