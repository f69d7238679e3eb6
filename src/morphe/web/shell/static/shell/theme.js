// Dim or Daylight: by hand, else as the device asks. Runs before the page is drawn.
(() => {
  const kept = () => { try { return localStorage.getItem("theme"); } catch { return null; } };
  const device = () => (matchMedia("(prefers-color-scheme: light)").matches ? "daylight" : "dim");
  const show = (theme) => { document.documentElement.dataset.theme = theme; };
  show(kept() || device());
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-theme-switch]")) return;
    const next = document.documentElement.dataset.theme === "dim" ? "daylight" : "dim";
    try { localStorage.setItem("theme", next); } catch { /* kept for this page only */ }
    show(next);
    document.dispatchEvent(new CustomEvent("theme-changed"));
  });
})();
