// Single keys: one table, switched off by the person if they like (WCAG 2.1.4).
const sheet = document.getElementById("keys");
const box = sheet.querySelector("[data-keys-on]");
const bound = new Map();

const kept = () => { try { return localStorage.getItem("keys"); } catch { return null; } };
box.checked = kept() !== "off";
box.addEventListener("change", () => {
  try { localStorage.setItem("keys", box.checked ? "on" : "off"); } catch { /* this page only */ }
});
document.addEventListener("click", (event) => { if (event.target.closest("[data-open-keys]")) sheet.showModal(); });

export function bindKey(key, act) { bound.set(key, act); }

const typing = (target) => target.closest("input:not([type=range]):not([type=checkbox]), textarea, select");

document.addEventListener("keydown", (event) => {
  if (!box.checked || event.ctrlKey || event.metaKey || event.altKey || sheet.open) return;
  if (typing(event.target)) return;
  if (event.key === "?") { event.preventDefault(); sheet.showModal(); return; }
  if (event.key === "/") {
    const search = document.querySelector("[data-search]");
    if (search) { event.preventDefault(); search.focus(); }
    return;
  }
  const act = bound.get(event.key);
  if (act && act(event) !== false) event.preventDefault();
});
