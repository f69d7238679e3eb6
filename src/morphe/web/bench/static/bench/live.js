// The live picture: at most one request in flight, and of those that waited only the latest is sent.
import { sendJson } from "../shell/send.js";
import { unpack } from "./scopes.js";

export function liveStill(url, show, fail) {
  let flying = false;
  let next = null;

  async function send(order) {
    flying = true;
    try {
      const answer = await sendJson(url, { grade: order.grade, frame: order.frame });
      const data = await answer.json();
      if (!answer.ok) fail(data.problem);
      else show(opened(data), order);
    } catch {
      fail("Morphe does not answer; what you set is kept here until it does.");
    }
    flying = false;
    if (next) { const waiting = next; next = null; send(waiting); }
  }

  return (grade, frame) => {
    const order = { grade, frame };
    if (flying) next = order; else send(order);
  };
}

export function opened(data) {
  const scopes = {};
  for (const [name, packed] of Object.entries(data.scopes)) scopes[name] = unpack(packed);
  return { ...data, scopes };
}
