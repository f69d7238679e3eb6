// When a phone may send: always, only while it is charging, only on Wi-Fi; asked of the browser, which may not know.
const network = navigator.connection;
const chosen = (name) => { try { return localStorage.getItem(name) === "yes"; } catch { return false; } };

export async function conditions(panel, changed) {
  const battery = await navigator.getBattery?.().catch(() => null);
  const known = { charging: Boolean(battery), wifi: Boolean(network?.type) };
  const holds = { charging: () => battery.charging, wifi: () => ["wifi", "ethernet"].includes(network.type) };
  const words = { charging: "Waits until this device is charging.", wifi: "Waits for Wi-Fi." };

  for (const box of panel.querySelectorAll("[data-only]")) {
    const name = box.dataset.only;
    box.checked = known[name] && chosen(`only-${name}`);
    box.closest("label").hidden = !known[name];
    box.addEventListener("change", () => {
      try { localStorage.setItem(`only-${name}`, box.checked ? "yes" : "no"); } catch { /* this page only */ }
      changed();
    });
  }
  battery?.addEventListener("chargingchange", changed);
  network?.addEventListener?.("change", changed);
  // Why nothing may be sent now; nothing if it may.
  return () => {
    const held = [...panel.querySelectorAll("[data-only]:checked")].find((box) => !holds[box.dataset.only]());
    return held ? words[held.dataset.only] : "";
  };
}
