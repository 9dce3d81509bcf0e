import { create } from "zustand";
import type { Backdrop, Balls, Body, Holes, OwnMesh, Situation } from "../../view3d/names";

/**
 * What stands on the other side of the divide: the recipe before the last step or of any version, a
 * misreading, another master (flat), or what a target would see.
 */
export type Other =
  | "before"
  | "green"
  | "bare"
  | `master:${string}`
  | `version:${number}`
  | `target:${string}`;

/** The texels a finding is about, shown over its master. */
export type Place = { set: string; finding: string; master: string; tile: number | null };

/**
 * One picture, or two under one camera: with a movable line, beside each other, by turns, or what
 * differs.
 */
export type Pictures = "one" | "divide" | "beside" | "blink" | "difference";

/** One tile of a set in tiles by its UDIM number, or all of them laid out. */
export type ShownTile = number | "all";

export type View = {
  look: "flat" | "lit";
  pictures: Pictures;
  gain: number; // of the difference
  hasHistogram: boolean;
  other: { flat: Other; lit: Other };
  divide: number; // share of the stage's width
  tiles: 1 | 2 | 3;
  tile: ShownTile; // of a set in tiles
  body: Body | "own";
  mesh: OwnMesh | null;
  place: [number, number, number] | null; // where the eye is, kept from set to set so that pictures can be laid over each other
  situation: Situation;
  lamp: [number, number]; // on the dome seen from the camera: x to the right, y up, inside the unit circle
  isDisplaced: boolean;
  displacement: number; // times the rise; the map and its rise stay as they are
  holes: Holes;
  threshold: number; // of opacity, where holes are cut out
  backdrop: Backdrop;
  hasGround: boolean;
  ground: { color: string; roughness: number };
  balls: Balls;
  channel: "all" | "0" | "1" | "2"; // of a picture in color or of vectors, flat
  isClay: boolean; // shape alone, in matte gray
  exposure: number; // stops
  isSceneOpen: boolean;
  marked: Place | null;
  picking: { node: string; value: number | "color" } | null; // what a click on the picture says of the spot, or that its color is meant
  set: (part: Partial<Omit<View, "set" | "testLight">>) => void;
  /** Both readings of green on a plane, under a lamp from above and a little aside. */
  testLight: () => void;
};

/** How the bench is looked at. No part of it reaches a file. */
export const useView = create<View>((set) => ({
  look: "flat",
  pictures: "one",
  gain: 4,
  hasHistogram: false,
  other: { flat: "before", lit: "green" },
  divide: 0.5,
  tiles: 1,
  tile: "all",
  body: "ball",
  situation: "indoor",
  lamp: [-0.5, 0.55],
  isDisplaced: false,
  displacement: 1,
  mesh: null,
  place: null,
  holes: "cut",
  threshold: 0.5,
  backdrop: "surround",
  hasGround: false,
  ground: { color: "#8a8a8a", roughness: 0.7 },
  balls: "none",
  channel: "all",
  isClay: false,
  exposure: 0,
  isSceneOpen: false,
  marked: null,
  picking: null,
  set,
  testLight: () =>
    set(({ other }) => ({
      look: "lit",
      place: null,
      pictures: "divide",
      divide: 0.5,
      body: "plane",
      situation: "low-sun",
      isClay: true,
      tiles: 1,
      lamp: [-0.25, 0.75],
      other: { ...other, lit: "green" },
    })),
}));

/** What is shown of a set in these tiles; null where it has none. */
export function useTile(tiles: number[]): ShownTile | null {
  const tile = useView((view) => view.tile);
  if (!tiles.length) return null;
  return tile === "all" || tiles.includes(tile) ? tile : tiles[0];
}
