import type { Pick } from "./PicksControl";
import type { Picture } from "./pictures";

export type Texel = { u: number; v: number };
export type Keeper = () => Promise<Blob | null>;

/** What both stages are told. */
export type StageProps = {
  picks: Pick[]; // spots that were said something of, drawn on the flat picture
  onPick: ((texel: Texel) => void) | null;
  marks: string | null; // address of a picture to lay over the first, flat
  first: Picture | undefined;
  second: Picture | undefined;
  isSwapped: boolean;
  size: { width: number; height: number };
  label: string;
  onPoint: (texel: Texel | null) => void;
  keeper: React.RefObject<Keeper | null>; // the stage puts here how its picture is had
};
