/**
 * What stands beside the picture, without React: which recipe it is made by, what it is called,
 * whether there is one.
 */
import type { Recipe, TextureSet } from "../../api/client";
import { SITUATIONS, type Situation, WORN_MAPS } from "../../view3d/names";
import type { Look, Other, Pane, Pictures } from "./view";

export const PICTURES: [Pictures, string][] = [
  ["one", "One picture"],
  ["divide", "Divide"],
  ["beside", "Side by side"],
  ["blink", "By turns"],
  ["difference", "Difference"],
];

const MISREADINGS: [Other, string][] = [
  ["green", "Green misread"],
  ["bare", "Color alone"],
];
const BEFORE: [Other, string] = ["before", "Before the last step"];

type Keyed = "master" | "version" | "start" | "target" | "without" | "light";
type KeyOf<O extends Other, K extends Keyed> = O extends `${K}:${infer Key}` ? Key : never;

/**
 * The key behind `master:`, `version:` and the like, null where it is another kind. What is cut off
 * a text has no type of its own.
 */
export const keyOf = <K extends Keyed>(other: Other, kind: K): KeyOf<Other, K> | null =>
  other.startsWith(`${kind}:`) ? (other.slice(kind.length + 1) as KeyOf<Other, K>) : null;

/**
 * Whether the lit picture shows the first one's maps in another way, without a picture of its own.
 */
export const isWornOtherwise = (other: Other): boolean =>
  other === "green" ||
  other === "bare" ||
  other === "displacement" ||
  keyOf(other, "without") !== null ||
  keyOf(other, "light") !== null;

/** Whether the other picture is made by a recipe that has to be asked for. */
const isAnotherRecipe = (other: Other) =>
  keyOf(other, "version") !== null || keyOf(other, "start") !== null;

type Beside = {
  look: Pane;
  other: Other;
  isShown: boolean;
  recipe: Recipe;
  before: Recipe | null;
  version: Recipe | null;
};

/**
 * The recipe of the other picture; null where it shows the first one's maps in another way, or
 * nothing yet.
 */
export function otherRecipe({ look, other, isShown, recipe, before, version }: Beside) {
  if (!isShown) return null;
  if (other === "before") return before;
  if (isAnotherRecipe(other)) return version;
  return keyOf(other, "target") !== null || look === "flat" ? recipe : null;
}

/** Whether there is anything to compare with. */
export function hasOther({ other, before, version }: Pick<Beside, "other" | "before" | "version">) {
  if (other === "before") return before !== null;
  return !isAnotherRecipe(other) || version !== null;
}

type Offered = {
  set: TextureSet;
  look: Look;
  chosen: string;
  other: Other;
  situation: Situation;
  isDisplaced: boolean;
  environments: { id: string; name: string }[];
  starts: { key: string; title: string }[];
};

/** Everything that a set's picture may be compared with, without what targets see. */
export function othersOf({
  set,
  look,
  chosen,
  other,
  situation,
  isDisplaced,
  environments,
  starts,
}: Offered) {
  const present = set.masters.filter((m) => m.origin !== "absent");
  const masters = present
    .filter((m) => m.key !== chosen)
    .map((m): [Other, string] => [`master:${m.key}`, m.title]);
  const worn: [Other, string][] = [
    ...WORN_MAPS.filter(([key]) => present.some((m) => m.key === key)).map(
      ([key, title]): [Other, string] => [`without:${key}`, `Without ${title.toLowerCase()}`],
    ),
    ["displacement", isDisplaced ? "Without displacement" : "With displacement"],
    ...lightsOf(environments)
      .filter(([key]) => key !== situation)
      .map(([key, title]): [Other, string] => [`light:${key}`, `Light: ${title}`]),
  ];
  const offered: Record<Look, [Other, string][]> = {
    pair: [BEFORE],
    flat: [BEFORE, ...masters],
    lit: [...MISREADINGS, BEFORE, ...worn],
  };
  const version: [Other, string][] =
    keyOf(other, "version") === null ? [] : [[other, "The version chosen"]];
  const started = present.some((m) => m.origin === "derived") ? starts : [];
  const asOthers = started.map(({ key, title }): [Other, string] => [
    `start:${key}`,
    `Started as: ${title}`,
  ]);
  return [...offered[look], ...version, ...asOthers];
}

/** Every situation to choose from: those of the house, then the project's own pictures. */
export const lightsOf = (environments: { id: string; name: string }[]): [Situation, string][] => [
  ...SITUATIONS.map(([key, title]): [Situation, string] => [key, title]),
  ...environments.map(({ id, name }): [Situation, string] => [`own:${id}`, name]),
];

/** What the other picture is called. */
export function otherTitle(other: Other, others: [Other, string][], seenBy: [Other, string][]) {
  const target = keyOf(other, "target");
  const own = others.find(([key]) => key === other)?.[1];
  if (own !== undefined) return own;
  if (target === null) return BEFORE[1];
  return `As seen by: ${seenBy.find(([key]) => key === other)?.[1] ?? target}`;
}

type Said = {
  here: string;
  there: string;
  pictures: Pictures;
  gain: number;
  isSwapped: boolean;
  hasOther: boolean;
};

/** What the picture on the left is called. */
export function leftTitle({ here, there, pictures, gain, isSwapped, hasOther }: Said) {
  if (isSwapped && hasOther) return there;
  return pictures === "difference" ? `${here} and ${there}: what differs, × ${gain}` : here;
}

/** What is to be said of how new the picture is. */
export function freshness(
  problem: Error | null | undefined,
  isBehind: boolean,
  movingPx: number | null,
) {
  if (problem) return ` · ${problem.message}`;
  if (isBehind) return " · computing";
  return movingPx === null ? "" : ` · preview at ${movingPx} px`;
}

/** The axes along which repeats of a set show a seam that is not in its maps. */
export const endsOf = ({ x, y }: { x: string; y: string }) => [
  ...(x === "mirror" ? ["across"] : []),
  ...(y === "mirror" ? ["down"] : []),
];
