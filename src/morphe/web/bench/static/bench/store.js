// The one grade that the page holds: every edit raises its revision, so that an older answer never overwrites it.
export function makeStore(grade) {
  const listeners = new Map();
  let edits = []; // those that the server has not answered yet: [revision, change]

  const store = {
    grade,
    revision: 0,
    frame: 0,
    hdr: false, // whether the picture is shown as HDR shows it
    open: "",
    region: "",
    measure: "",
    box: null, // a marked area of the picture
    dragging: false,
    on(what, hear) {
      listeners.set(what, [...(listeners.get(what) || []), hear]);
    },
    tell(what, value) {
      for (const hear of listeners.get(what) || []) hear(value);
    },
    edit(change) {
      store.revision += 1;
      edits.push([store.revision, change]);
      store.grade = change(store.grade);
      store.tell("grade");
    },
    get unsaved() {
      return edits.length > 0;
    },
    // The server's grade as of a revision: edits made since are done again on top; true if there are any.
    answered(kept, revision) {
      edits = edits.filter(([made]) => made > revision);
      store.grade = edits.reduce((now, [, change]) => change(now), kept);
      store.tell("grade");
      return edits.length > 0;
    },
  };
  return store;
}

// A slider that a pointer has taken; a touch that turns into a scroll lets it go too.
export function heldUntilUp(store) {
  store.dragging = true;
  for (const end of ["pointerup", "pointercancel"]) addEventListener(end, () => { store.dragging = false; }, { once: true });
}

export const same = (one, other) => {
  if (one === other) return true;
  if (!one || !other || typeof one !== "object" || typeof other !== "object") return false;
  const keys = Object.keys(one);
  return keys.length === Object.keys(other).length && keys.every((key) => same(one[key], other[key]));
};

// Scopes as filmed are kept for every frame and the part of it that is measured, as long as that lies still.
export const keyOf = ({ frame, measure, grade }) => {
  const region = measure && grade.layers.find((layer) => layer.id === measure.layer)?.region;
  return JSON.stringify([frame, measure, region]);
};
