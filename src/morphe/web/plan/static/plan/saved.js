// Slate numbers and notes on the saved card: kept on this device, copied out as plain lines.
(() => {
  const key = document.body.dataset.key;
  const find = (name) => document.querySelector(`[data-${name}]`);
  const number = find("number"), note = find("note"), list = find("takes"), out = find("out");
  let kept = { takes: [], ticks: [] };
  try { kept = JSON.parse(localStorage.getItem(key)) || kept; } catch { /* this page only */ }
  const keep = () => { try { localStorage.setItem(key, JSON.stringify(kept)); } catch { /* this page only */ } };
  const lines = () => kept.takes.map((take) => `${take.number}; ${take.time}; ${take.note}`).join("\n");

  function show() {
    list.replaceChildren(...kept.takes.map((take, index) => {
      const item = document.createElement("li");
      const words = document.createElement("span");
      const remove = document.createElement("button");
      words.textContent = `${take.number} · ${new Date(take.time).toTimeString().slice(0, 5)} · ${take.note || "no note"}`;
      remove.type = "button";
      remove.textContent = "Remove";
      remove.addEventListener("click", () => { kept.takes.splice(index, 1); keep(); show(); });
      item.append(words, remove);
      return item;
    }));
    number.value = Math.max(0, ...kept.takes.map((take) => take.number)) + 1;
    out.value = lines();
  }

  find("slate").addEventListener("submit", (event) => {
    event.preventDefault();
    const wanted = Math.round(Number(number.value));
    if (!(wanted > 0)) { find("said").textContent = "A slate number is a whole number above 0."; return; }
    kept.takes.push({ number: wanted, time: new Date().toISOString(), note: note.value.replace(/[\n;]/g, ",").trim() });
    note.value = "";
    keep();
    show();
  });

  find("copy").addEventListener("click", async () => {
    out.value = lines();
    out.select();
    let done = false;
    try { await navigator.clipboard.writeText(out.value); done = true; } catch { done = document.execCommand("copy"); }
    find("said").textContent = done ? "Copied; paste them under “Before each take” in Plan." : "Select the lines below and copy them.";
  });

  document.querySelectorAll(".boxes input").forEach((box, index) => {
    box.checked = box.checked || kept.ticks.includes(index);
    box.addEventListener("change", () => {
      kept.ticks = kept.ticks.filter((i) => i !== index);
      if (box.checked) kept.ticks.push(index);
      keep();
    });
  });
  show();
})();
