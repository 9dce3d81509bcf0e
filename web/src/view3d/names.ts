import type { BufferGeometry } from "three";
import type { MeshLook } from "../api/meshes";

/**
 * What a person can choose for the lit view. Apart from the library that draws it, so that it loads
 * only when asked for.
 */
export const BODIES = [
  ["plane", "Plane"],
  ["ball", "Ball"],
  ["tube", "Tube"],
  ["cushion", "Cushion"],
  ["fold", "Fold"],
] as const;
export const SITUATIONS = [
  ["indoor", "Indoor"],
  ["overcast", "Overcast"],
  ["low-sun", "Low sun"],
] as const;
/**
 * What is behind the body: the house's gray, the room that lights it, or a checker to see holes by.
 */
export const BACKDROPS = [
  ["surround", "Gray"],
  ["room", "What lights it"],
  ["checker", "Checker"],
] as const;
/** What opacity does: cut at the threshold, let light through, or nothing. */
export const HOLES = [
  ["cut", "Cut out"],
  ["through", "See through"],
  ["solid", "Leave solid"],
] as const;
/** Balls of roughness 0 to 1 to compare shine with. */
export const BALLS = [
  ["none", "None"],
  ["plain", "Of no metal"],
  ["metal", "Of metal"],
] as const;

/** Maps that the lit picture can be shown without. */
export const WORN_MAPS = [
  ["base_color", "Base color"],
  ["normal", "Normal"],
  ["height", "Height"],
  ["roughness", "Roughness"],
  ["metallic", "Metallic"],
  ["occlusion", "Occlusion"],
  ["emissive", "Emissive"],
  ["own_coat", "Coat"],
] as const;

export type WornMap = (typeof WORN_MAPS)[number][0];
export type Body = (typeof BODIES)[number][0];
/** A light situation of the house. */
export type House = (typeof SITUATIONS)[number][0];
/** The same, or a picture of surroundings by its id. */
export type Situation = House | `own:${string}`;

const isOwnLight = (situation: Situation): situation is `own:${string}` =>
  situation.startsWith("own:");
export const isHouse = (situation: Situation): situation is House => !isOwnLight(situation);
/** The id of the picture that a situation is, null for one of the house. */
export const ownLight = (situation: Situation): string | null =>
  isOwnLight(situation) ? situation.slice(4) : null;
export type Backdrop = (typeof BACKDROPS)[number][0];
export type Holes = (typeof HOLES)[number][0];
export type Balls = (typeof BALLS)[number][0];

/** How far the eye is from the body at first. */
export const FAR = 4.6;

/** About how many tiles lie across a body as the eye sees it, at one repeat. */
export const tilesSeen = (body: Body | OwnMesh): number =>
  typeof body === "string" ? { plane: 1, ball: 1.3, tube: 2, cushion: 1, fold: 2 }[body] : 1;

/**
 * The body a set is shown on: what was chosen, else a ball, and a plane for what does not repeat.
 */
export function bodyWorn(
  chosen: Body | "own" | null,
  mesh: OwnMesh | null,
  edges: { x: string; y: string },
): Body | OwnMesh {
  if (mesh && (chosen === "own" || (!chosen && mesh.isWorn))) return mesh;
  if (chosen && chosen !== "own") return chosen;
  return edges.x === "wrap" && edges.y === "wrap" ? "ball" : "plane";
}

/**
 * What of a mesh wears one of its materials. `hasMap` tells that it came with texture coordinates;
 * else the map is laid on from the front.
 */
export type Piece = {
  material: number;
  geometry: BufferGeometry;
  tileWidth: number;
  triangles: number;
  hasMap: boolean;
};
/** A person's own mesh: what of it is the set in hand, and what wears its other materials. */
export type OwnMesh = Piece & {
  look: MeshLook;
  beside: Piece[];
  isWhole: boolean; // what lies beside is shown, if there is any
  isWorn?: boolean; // by the set on the bench, and not only looked at
};
