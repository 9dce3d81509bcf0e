/** Maps of a person's own: their keys, and what they are called. */
const OWN = "own_";
const UNNAMED = "map";

export const isOwn = (key: string) => key.startsWith(OWN);

/** Key of a map of a person's own, from what they call it; only letters and digits count. */
export const ownKey = (name: string) =>
  OWN +
  (name
    .normalize("NFKD")
    .toLowerCase()
    .match(/[a-z0-9]+/g)
    ?.join("_") ?? UNNAMED);

/** What a person calls the map with that key. */
export const ownName = (key: string) => key.slice(OWN.length).replaceAll("_", " ");
