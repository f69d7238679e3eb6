// One file on its way in pieces: begun, continued where it stopped, a lost connection waited for.
const LONGEST_WAIT_S = 15;
const LONGEST_PIECE_S = 90; // a device that slept, or changed its network, may never hear of its request again

const headers = () => ({ Accept: "application/json", "X-CSRFToken": document.body.dataset.csrf });
const online = () => new Promise((done) => { addEventListener("online", done, { once: true }); });
const pause = (seconds) => Promise.race([new Promise((done) => { setTimeout(done, 1000 * seconds); }), online()]);

// Ask until the server answers; what it refuses is an answer too.
async function patiently(ask, say) {
  for (let wait = 1; ; wait = Math.min(2 * wait, LONGEST_WAIT_S)) {
    try {
      const answer = await ask(AbortSignal.timeout(1000 * LONGEST_PIECE_S));
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

// Tell the server of a file: it answers with what has arrived of it already, or why it will not have it.
export async function begin(url, file, say) {
  const body = JSON.stringify({ name: file.name, size: file.size, modified: file.lastModified });
  const answer = await patiently((signal) => fetch(url, { method: "POST", headers: headers(), body, signal }), say);
  return { ok: answer.ok, ...(await answer.json()) };
}

// Send one piece; how far the file has come then, or why it goes no further.
export async function sendPiece(url, { file, token, at, piece }, say) {
  const body = file.slice(at, at + piece);
  const digest = await digestOf(body);
  const options = { method: "POST", headers: { ...headers(), ...digest, "Content-Type": "application/octet-stream" }, body };
  const answer = await patiently((signal) => fetch(`${url}${token}/?at=${at}`, { ...options, signal }), say);
  if (answer.status === 404) return { problem: "The upload was given up; bring the clip in again." };
  const told = await answer.json();
  return answer.ok || answer.status === 409 ? { at: told.received ?? file.size } : { problem: told.problem };
}
