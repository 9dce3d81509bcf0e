import type { Pick } from "./picks";
import type { Picture } from "./pictures";
import type { Place } from "./prepare/drawing";
import type { Pane } from "./view";

export type Texel = { u: number; v: number };
/** The texel under the pointer, and the picture that it is pointed at in. */
export type Pointed = { pane: Pane; texel: Texel };
export type Keeper = () => Promise<Blob | null>;

/** What both stages are told. */
export type StageProps = {
  picks: Pick[]; // spots that were said something of, drawn on the flat picture
  onPick: ((along: Texel[]) => void) | null;
  // what a spot that is brushed is said to be; null where dragging moves the picture
  brushing: number | null;
  marks: string | null; // address of a picture to lay over the first, flat
  first: Picture | undefined;
  second: Picture | undefined;
  isSwapped: boolean;
  size: { width: number; height: number };
  label: string;
  pointed: Texel | null; // in the other picture
  onPoint: (texel: Texel | null) => void;
  keeper: React.RefObject<Keeper | null>; // the stage puts here how its picture is had
  // what lies over the first tile of the flat picture, in CSS pixels
  over?: ((at: Place) => React.ReactNode) | null;
};
