// Files that wait to be sent, kept by the browser so that loading the page anew does not lose them; each under what
// the server knows it by. Where the browser keeps nothing, the server's list asks for the file again.
const LARGEST = 600e6; // bytes; keeping makes a copy, so that a longer clip is asked for again instead

const nameOf = (file) => `${file.name} ${file.size} ${file.lastModified}`;

const opened = () => new Promise((done, fail) => {
  const asked = indexedDB.open("morphe-uploads", 1);
  asked.onupgradeneeded = () => asked.result.createObjectStore("files");
  asked.onsuccess = () => done(asked.result);
  asked.onerror = () => fail(asked.error);
});

async function within(mode, act) {
  try {
    const store = (await opened()).transaction("files", mode).objectStore("files");
    const asked = act(store);
    return await new Promise((done, fail) => { asked.onsuccess = () => done(asked.result); asked.onerror = () => fail(asked.error); });
  } catch { return null; } // no room, or a window that keeps nothing
}

export const keep = (file) => (file.size <= LARGEST ? within("readwrite", (store) => store.put(file, nameOf(file))) : null);
export const forget = (file) => within("readwrite", (store) => store.delete(nameOf(file)));
export const kept = async () => (await within("readonly", (store) => store.getAll())) ?? [];
