import { create } from "zustand";
import type { Backdrop, Balls, Body, Holes, OwnMesh, Situation, WornMap } from "../../view3d/names";
import type { MeshMark } from "./mesh/marks";

/**
 * What stands on the other side of the divide: the recipe before the last step or of any version, a
 * misreading, another master (flat), or what a target would see.
 */
export type Other =
  | "before"
  | "green"
  | "bare"
  | "displacement" // the body displaced, or not, whichever the first is not
  | `without:${WornMap}`
  | `light:${Situation}`
  | `master:${string}`
  | `version:${number}`
  | `start:${string}` // the set started as a kind of material
  | `target:${string}`;

/** One of the two pictures of the bench: a map flat, or the whole material lit. */
export type Pane = "flat" | "lit";
/** Both pictures beside each other, or one with the whole room. */
export type Look = "pair" | Pane;
export const PANES: Record<Look, Pane[]> = { pair: ["flat", "lit"], flat: ["flat"], lit: ["lit"] };

/**
 * The step of preparing that is open: what is shown of it, what is painted on it, how large what is
 * placed next is (a share of the width), and which of its spots is pointed at in the list.
 */
export type Prep = {
  at: number;
  shows: "picture" | "result";
  tool: "keep" | "avoid" | "brush" | null;
  radius: number;
  pointed: number | null;
};

export type BrushWay = "paint" | "raise" | "lower" | "soften" | "erase";
/**
 * The brush in hand: over which master, what a stroke does, and how; radius as a share of the
 * width.
 */
export type Brush = {
  master: string;
  way: BrushWay;
  radius: number;
  hardness: number;
  value: number;
  color: string;
  strength: number;
};

/** The texels a finding is about, shown over its master. */
export type Place = { set: string; finding: string; master: string; tile: number | null };

/**
 * One picture, or two under one camera: with a movable line, beside each other, by turns, or what
 * differs.
 */
export type Pictures = "one" | "divide" | "beside" | "blink" | "difference";

/** Pictures by their sha256: of a set without tiles, or by tile. */
export type Missed = { whole: string | null; tiles: Record<string, string> };
/** One tile of a set in tiles by its UDIM number, or all of them laid out. */
export type ShownTile = number | "all";

type Acts = "set" | "pick" | "testLight" | "openPrep" | "showPrep" | "openBrush";
export type View = {
  look: Look;
  active: Pane; // where the pointer or the keys were last: zoom keys act there
  pictures: Pictures;
  gain: number; // of the difference
  hasHistogram: boolean;
  other: Record<Look, Other>;
  divide: number; // share of the stage's width
  tiles: 1 | 2 | 3;
  tile: ShownTile; // of a set in tiles
  body: Body | "own" | null; // null is the one that fits the set
  mesh: OwnMesh | null;
  meshMarks: readonly MeshMark[]; // what is drawn of it over the flat picture
  isOnMesh: boolean; // and on the mesh too
  hasBeside: boolean; // what of the mesh wears other materials is shown with it
  missed: Missed; // the pictures of where the rays of its bake met nothing
  setTiles: number[]; // the tiles that the set on the bench lies in
  // where the eye is, kept from set to set so that pictures can be laid over each other
  place: [number, number, number] | null;
  situation: Situation;
  turn: number; // of a picture of surroundings, in radians
  stops: number; // that it is brightened by
  blur: number; // of what lights the body, where it is seen behind it
  // on the dome seen from the camera: x to the right, y up, inside the unit circle
  lamp: [number, number];
  isDisplaced: boolean;
  displacement: number; // times the rise; the map and its rise stay as they are
  holes: Holes;
  threshold: number; // of opacity, where holes are cut out
  backdrop: Backdrop;
  hasGround: boolean;
  ground: { color: string; roughness: number };
  balls: Balls;
  hasBar: boolean; // of a known length, beside the body
  channel: "all" | "0" | "1" | "2"; // of a picture in color or of vectors, flat
  isClay: boolean; // shape alone, in matte gray
  exposure: number; // stops
  isSceneOpen: boolean;
  marked: Place | null;
  // what a click on the picture says of the spot, or that its color is meant
  picking: { node: string; value: number | "color" } | null;
  hasDoubt: boolean; // where picks leave the map unsure is drawn over it
  lookBefore: Look | null; // what picking began from
  prep: Prep | null;
  set: (part: Partial<Omit<View, Acts>>) => void;
  /** Open a step of preparing on the flat picture; null closes it. */
  openPrep: (at: number | null) => void;
  showPrep: (shows: Prep["shows"]) => void;
  brush: Brush | null;
  /** Take the brush to a master, as it was set the last time; null lays it down. */
  openBrush: (master: string | null) => void;
  lastBrush: Omit<Brush, "master">;
  /** Begin to pick on the map beside the base color, with the whole room; null ends it. */
  pick: (picking: View["picking"]) => void;
  /** Both readings of green on a plane, under a lamp from above and a little aside. */
  testLight: () => void;
};

const LOOK_KEY = "look of the bench";
const LOOKS: readonly Look[] = ["pair", "flat", "lit"];

function keptLook(): Look {
  const kept = localStorage.getItem(LOOK_KEY);
  return LOOKS.find((look) => look === kept) ?? "pair";
}

/** How the bench is looked at. No part of it reaches a file. */
export const useView = create<View>((set) => ({
  look: keptLook(),
  active: "flat",
  pictures: "one",
  gain: 4,
  hasHistogram: false,
  other: { pair: "before", flat: "before", lit: "green" },
  divide: 0.5,
  tiles: 1,
  tile: "all",
  body: null,
  situation: "indoor",
  turn: 0,
  stops: 0,
  blur: 0.4,
  lamp: [-0.5, 0.55],
  isDisplaced: false,
  displacement: 1,
  mesh: null,
  meshMarks: [],
  isOnMesh: false,
  hasBeside: true,
  missed: { whole: null, tiles: {} },
  setTiles: [],
  place: null,
  holes: "cut",
  threshold: 0.5,
  backdrop: "surround",
  hasGround: false,
  ground: { color: "#8a8a8a", roughness: 0.7 },
  balls: "none",
  hasBar: false,
  channel: "all",
  isClay: false,
  exposure: 0,
  isSceneOpen: false,
  marked: null,
  picking: null,
  hasDoubt: false,
  lookBefore: null,
  prep: null,
  set,
  openPrep: (at) =>
    set(({ look, prep }) =>
      at === null
        ? { prep: null, tiles: 1 }
        : {
            prep: { at, shows: "picture", tool: null, radius: prep?.radius ?? 0.02, pointed: null },
            tiles: 1,
            pictures: "one",
            look: look === "lit" ? "pair" : look,
          },
    ),
  brush: null,
  lastBrush: {
    way: "paint",
    radius: 0.04,
    hardness: 0.5,
    value: 1,
    color: "#808080",
    strength: 1,
  },
  openBrush: (master) =>
    set(({ look, brush, lastBrush }) => {
      const { master: _, ...last } = brush ?? { master: "", ...lastBrush };
      if (master === null) return { brush: null, lastBrush: last };
      return {
        brush: { master, ...last },
        lastBrush: last,
        prep: null,
        pictures: "one",
        look: look === "lit" ? "pair" : look,
      };
    }),
  showPrep: (shows) =>
    set(({ prep }) =>
      prep ? { prep: { ...prep, shows, tool: null }, tiles: shows === "result" ? 3 : 1 } : {},
    ),
  pick: (picking) =>
    set(({ look, lookBefore, other }) =>
      picking
        ? {
            picking,
            look: "flat",
            lookBefore: lookBefore ?? look,
            pictures: "divide",
            divide: 0.5,
            other: { ...other, flat: "master:base_color" },
          }
        : { picking, look: lookBefore ?? look, lookBefore: null, pictures: "one" },
    ),
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

useView.subscribe(({ look, lookBefore }) => localStorage.setItem(LOOK_KEY, lookBefore ?? look));

/** Whether keys that belong to either picture mean this one. */
export const isMeant = (pane: Pane): boolean => {
  const { look, active } = useView.getState();
  return look !== "pair" || active === pane;
};

/** What is shown of a set in these tiles; null where it has none. */
export function useTile(tiles: number[]): ShownTile | null {
  const tile = useView((view) => view.tile);
  if (!tiles.length) return null;
  return tile === "all" || tiles.includes(tile) ? tile : tiles[0];
}
