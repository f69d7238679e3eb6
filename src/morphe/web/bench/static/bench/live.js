// The live picture: at most one request in flight, of those that waited only the latest is sent, none twice.
import { sendJson } from "../shell/send.js";
import { unpack } from "./scopes.js";
import { keyOf, same } from "./store.js";

const opened = (scopes) => Object.fromEntries(Object.entries(scopes).map(([name, packed]) => [name, unpack(packed)]));

export function liveStill(url, before, show, fail, busy) {
  let flying = null;
  let next = null;
  let last = null;

  async function send(order) {
    flying = order;
    busy(true);
    try {
      const answer = await sendJson(url, { ...order, before: !before.has(keyOf(order)) });
      const data = await answer.json();
      if (answer.ok) {
        last = order;
        if (data.before) before.set(keyOf(order), { scopes: opened(data.before) });
        show({ ...data, scopes: opened(data.scopes) }, order);
      } else {
        fail(data.problem);
      }
    } catch {
      fail("Morphe does not answer; what you set is kept here until it does.");
    }
    flying = null;
    const waiting = next;
    next = null;
    if (waiting && !same(waiting, last)) send(waiting); else busy(false);
  }

  return (grade, frame, measure, more = {}) => {
    const order = { grade, frame, measure, ...more };
    if (same(order, next ?? flying ?? last)) return;
    if (flying) next = order; else send(order);
  };
}
