import { create } from "zustand";

/** Where a key acts. */
export type Where = "everywhere" | "tray" | "intake" | "bench" | "routing";

/** What a key does. One of a single letter or sign can be given another; the others stay. */
export type KeyRow = readonly [key: string, does: string];

/** Every key of the screen, place by place. */
export const KEYS: readonly (readonly [Where, string, readonly KeyRow[]])[] = [
  [
    "everywhere",
    "Everywhere",
    [
      ["1 … 5", "Go to a place"],
      ["Ctrl Enter", "Deliver what is in hand; in Intake, take it in first"],
      ["Ctrl V", "Paste a picture"],
      ["a", "Open the assay"],
      ["d", "Light or dark panels"],
      ["?", "This list"],
    ],
  ],
  [
    "tray",
    "Tray",
    [
      ["Ctrl A", "Select every set that is shown"],
      ["Esc", "Select none"],
      ["Del", "Take the selected sets off the tray"],
    ],
  ],
  [
    "intake",
    "Intake",
    [
      ["↑ ↓", "Go from row to row"],
      ["Enter", "Open the row, or agree with what it may be"],
      ["Del", "Leave the row out, or take it back"],
      ["Ctrl Z", "Undo a correction"],
      ["g", "Flip the row's green"],
      ["b", "It is a base color"],
      ["p", "It is a photo"],
      ["f", "It is a diffuse color"],
      ["s", "It is a specular color"],
      ["n", "It is a normal"],
      ["h", "It is a height"],
      ["r", "It is a roughness"],
      ["l", "It is a gloss"],
      ["m", "It is a metallic"],
      ["o", "It is an ambient occlusion"],
      ["t", "It is an opacity"],
      ["e", "It is an emissive"],
      ["c", "It holds channels apart"],
      ["w", "It is a map of your own"],
    ],
  ],
  [
    "bench",
    "Bench",
    [
      ["Ctrl Z", "Undo"],
      ["Ctrl Shift Z", "Redo"],
      ["Space", "Hold to see the other picture"],
      ["← → ↑ ↓", "Move the picture, the divide, the lamp or a control in focus"],
      ["Enter", "Pick what is in the middle of the picture in focus"],
      ["[", "Go to the master before"],
      ["]", "Go to the next master"],
      ["p", "Flat beside lit"],
      ["f", "Flat alone"],
      ["l", "Lit alone"],
      ["c", "One picture or a divide of two"],
      ["t", "Light test for green"],
      ["g", "Flip the green of the given normals in hand"],
      ["i", "Read light in the color as high, or as low"],
      ["b", "Take up the brush for the map in hand, or lay it down"],
      [",", "A narrower brush"],
      [".", "A wider brush"],
      ["+", "Zoom in"],
      ["-", "Zoom out"],
      ["0", "Fit"],
    ],
  ],
  [
    "routing",
    "Routing",
    [
      ["← → ↑ ↓", "Go from hole to hole"],
      ["Shift ← →", "Go from channel to channel"],
      ["Enter", "Feed the hole from its row"],
      ["i", "Invert the channel"],
    ],
  ],
];

/** Keys that a person has changed: by place, the key they press for the one that is meant. */
export type Chosen = Partial<Record<Where, Record<string, string>>>;

const STORED = "keys";

export const isChangeable = (key: string): boolean => key.length === 1;

const rowsAt = (where: Where): readonly KeyRow[] =>
  KEYS.find(([at]) => at === where)?.[2].filter(([key]) => isChangeable(key)) ?? [];

/** The key to press for what `key` does by itself. */
export const keyFor = (chosen: Chosen, where: Where, key: string): string =>
  chosen[where]?.[key] ?? key;

/**
 * What a pressed key means at a place, as the key that does it by itself; "" where it does nothing
 * any more.
 */
export function meaningAt(chosen: Chosen, where: Where, pressed: string): string {
  const places: Where[] = where === "everywhere" ? [where] : [where, "everywhere"];
  const rows = places.flatMap((at) => rowsAt(at).map(([key]) => ({ at, key })));
  const meant = rows.find(({ at, key }) => keyFor(chosen, at, key) === pressed);
  if (meant) return meant.key;
  return rows.some(({ key }) => key === pressed) ? "" : pressed;
}

/** Why a pressed key cannot be taken for something, or null where it can. */
export function refusal(chosen: Chosen, where: Where, pressed: string): string | null {
  if (!isChangeable(pressed) || pressed === " ")
    return "Only one letter, digit or sign can be a key of your own.";
  if (/[1-5]/.test(pressed)) return `${pressed} goes to a place.`;
  const others = KEYS.filter(([at]) =>
    where === "everywhere" ? at !== where : at === "everywhere",
  );
  for (const [at, title] of others) {
    const used = rowsAt(at).find(([key]) => keyFor(chosen, at, key) === pressed);
    if (used) return `${shownKey(pressed)} is in use. ${title}: ${used[1]}.`;
  }
  return null;
}

/**
 * The keys with one changed; what had that key at the same place gets the one that becomes free.
 */
export function withKey(chosen: Chosen, where: Where, key: string, pressed: string): Chosen {
  const free = keyFor(chosen, where, key);
  const holder = rowsAt(where).find(([other]) => keyFor(chosen, where, other) === pressed)?.[0];
  const swapped = { ...chosen[where], ...(holder && { [holder]: free }), [key]: pressed };
  const changed = Object.entries(swapped).filter(([own, now]) => own !== now);
  return { ...chosen, [where]: Object.fromEntries(changed) };
}

/** A key as it is drawn. */
export const shownKey = (key: string): string => (key === "-" ? "−" : key.toUpperCase());

function keptKeys(): Chosen {
  try {
    return JSON.parse(localStorage.getItem(STORED) ?? "{}");
  } catch {
    return {}; // written by something else: the keys as they are
  }
}

/** The keys of this browser. */
export const useKeys = create<{ chosen: Chosen; keep: (chosen: Chosen) => void }>((set) => ({
  chosen: keptKeys(),
  keep: (chosen) => {
    localStorage.setItem(STORED, JSON.stringify(chosen));
    set({ chosen });
  },
}));

const isPlace = (name: string | undefined): name is Where => KEYS.some(([at]) => at === name);

/** What a key means where the person is now. */
export function meaningOf(pressed: string): string {
  const place = location.pathname.split("/")[3];
  return meaningAt(useKeys.getState().chosen, isPlace(place) ? place : "everywhere", pressed);
}
