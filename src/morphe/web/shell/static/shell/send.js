// Requests to this application, with the token it asks for.
export async function sendJson(url, data) {
  const answer = await fetch(url, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-CSRFToken": document.body.dataset.csrf },
    body: JSON.stringify(data),
  });
  return answer;
}
