// Requests to this application, with the token it asks for.
export const sendHeaders = () => ({ "Content-Type": "application/json", "X-CSRFToken": document.body.dataset.csrf });

export async function sendJson(url, data) {
  return fetch(url, { method: "POST", headers: sendHeaders(), body: JSON.stringify(data) });
}

export async function getJson(url) {
  return fetch(url, { headers: { Accept: "application/json" } });
}
