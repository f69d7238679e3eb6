// One file on its way by the open tus protocol: begun, gone on with where it stopped, a lost line waited for.
const PIECE = 8e6; // bytes a request
const LONGEST_WAIT_S = 15;
const LONGEST_PIECE_S = 90; // a device that slept, or changed its network, may never hear of its request again
const MOST_FAILURES = 8; // of Morphe's computer one after another; a line that is lost is waited for for ever
const LINE = "Waiting for the connection; what has arrived is safe.";
const SERVER = "Morphe's computer does not take it now; what has arrived is safe.";
const FAILED = "Morphe's computer could not take this clip; look at its disk, then choose it again to go on.";

const headers = () => ({ Accept: "application/json", "X-CSRFToken": globalThis.document?.body.dataset.csrf ?? "" });
const online = () => new Promise((done) => { globalThis.addEventListener?.("online", done, { once: true }); });
const pause = (seconds) => Promise.race([new Promise((done) => { setTimeout(done, 1000 * seconds); }), online()]);
const base64 = (text) => btoa(String.fromCharCode(...new TextEncoder().encode(text)));
const told = (text) => { try { return JSON.parse(text); } catch { return {}; } };
const problemOf = (text) => told(text).problem;
const isRefused = (status) => status >= 400 && status < 500 && ![408, 409, 423].includes(status);

// Waits between tries, longer each time; said why. Ends with a sentence where Morphe's computer keeps failing.
function patience(say) {
  let [wait, failures] = [0, 0];
  return {
    moved: () => { [wait, failures] = [0, 0]; },
    async after(status, problem) {
      failures = status >= 500 ? failures + 1 : 0;
      if (failures >= MOST_FAILURES) return problem ?? FAILED;
      if (wait) say(problem ?? (status >= 500 ? SERVER : LINE));
      await pause(wait);
      wait = Math.min(2 * wait || 1, LONGEST_WAIT_S);
      return "";
    },
  };
}

// The whole answer to a request: its status, headers, and what it tells.
async function patiently(say, url, options) {
  for (const waits = patience(say); ;) {
    let [status, text] = [0, ""];
    try {
      const answer = await fetch(url, { ...options, signal: AbortSignal.timeout(1000 * LONGEST_PIECE_S) });
      [status, text] = [answer.status, await answer.text()];
      if (status < 500) return { status, headers: answer.headers, told: JSON.parse(text || "{}") };
    } catch (error) {
      if (error instanceof SyntaxError) throw error; // an answer that is none of ours
      status = 0;
    }
    const failed = await waits.after(status, problemOf(text));
    if (failed) return { status, told: { problem: failed } };
  }
}

// Tell the server of a file: where it is sent to, and how much has arrived already; or why it will not have it.
export async function begin(url, file, { outing, say }) {
  const facts = Object.entries({ filename: file.name, modified: String(file.lastModified), outing });
  const words = facts.map(([key, value]) => `${key} ${base64(value)}`).join(",");
  const tus = { "Tus-Resumable": "1.0.0", "Upload-Length": String(file.size), "Upload-Metadata": words };
  const answer = await patiently(say, url, { method: "POST", headers: { ...headers(), ...tus } });
  if (answer.status !== 201) return { problem: answer.told.problem };
  return { url: answer.headers.get("Location"), at: Number(answer.headers.get("Upload-Offset")) };
}

// How an upload that has arrived whole ended: the clip, or why it is none.
export async function ended(url, say) {
  return (await patiently(say, url, { headers: headers() })).told;
}

// Send what is missing. `done` ends with nothing once all has arrived, with `problem`, or `held` after `hold`.
export function send(file, url, { say, moved }) {
  const waits = patience(say);
  let [isHeld, end, furthest] = [false, () => {}, 0];
  const done = new Promise((tell) => { end = tell; });
  const upload = new globalThis.tus.Upload(file, {
    uploadUrl: url, chunkSize: PIECE, headers: headers(), retryDelays: null, storeFingerprintForResuming: false,
    onBeforeRequest: (request) => limited(request.getUnderlyingObject()),
    onAfterResponse: (_, answer) => arrived(Number(answer.getHeader("Upload-Offset"))),
    onSuccess: () => end({}),
    onError: goOn,
  });

  // Also what came of a piece whose line broke: a line that brings something is not waited for.
  function arrived(at) {
    if (!(at > furthest)) return;
    furthest = at;
    waits.moved();
    moved(at);
  }

  async function goOn(error) {
    const status = error.originalResponse?.getStatus() ?? 0;
    const problem = problemOf(error.originalResponse?.getBody());
    if (isRefused(status)) return end({ problem: problem ?? "This upload was stopped; choose the clip again to send it." });
    const failed = await waits.after(status, problem);
    if (failed) return end({ problem: failed, isOurs: true });
    return isHeld || upload.start();
  }

  upload.start();
  return { done, hold() { isHeld = true; upload.abort(); end({ held: true }); } };
}

function limited(request) {
  if (!globalThis.XMLHttpRequest || !(request instanceof XMLHttpRequest)) return;
  request.timeout = 1000 * LONGEST_PIECE_S;
  request.addEventListener("timeout", () => request.onerror(new ProgressEvent("error")));
}
