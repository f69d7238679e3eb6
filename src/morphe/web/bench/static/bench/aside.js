// Beside a clip that is being mended: how far the picture is from the truth, a number that falls.
export function showAside(aside) {
  const place = document.querySelector("[data-distance]");
  if (!place || !aside || aside.distance === undefined) return;
  const way = Math.max(aside.begun - aside.tolerance, 0.1);
  const gone = Math.min(Math.max((aside.begun - aside.distance) / way, 0), 1);
  place.textContent = aside.distance.toFixed(1);
  place.closest(".mend").classList.toggle("mend-there", aside.distance <= aside.tolerance);
  document.querySelector("[data-tolerance]").textContent = aside.tolerance.toFixed(1);
  document.querySelector("[data-way]").value = Math.round(100 * gone);
}
