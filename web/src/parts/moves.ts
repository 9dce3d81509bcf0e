import type { components } from "../api/schema";

/** One step that all maps of a set are moved by. */
export type Move = components["schemas"]["MoveRequest"]["move"];

/** Moves that need no numbers. */
export const TURNS: readonly (readonly [sign: string, says: string, move: Move])[] = [
  ["↺", "Rotate left by 90°", { kind: "turn", is_on: true, quarters: 1 }],
  ["↻", "Rotate right by 90°", { kind: "turn", is_on: true, quarters: 3 }],
  ["⇋", "Mirror left to right", { kind: "mirror", is_on: true, axis: "x" }],
  ["⥮", "Mirror top to bottom", { kind: "mirror", is_on: true, axis: "y" }],
];
