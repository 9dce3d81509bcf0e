import { Box3, DoubleSide, Group, Mesh, MeshPhysicalMaterial } from "three";
import { sure } from "../parts/sure";
import { type Maps, mapsOf, type Packed } from "./maps";
import { CLAY, type Wear, wearing } from "./material";
import type { Piece } from "./names";

/** A piece of the mesh and the set that it wears; gray where it has none, or none yet. */
export type PieceBeside = {
  piece: Piece;
  packed: (Packed & { recipe: { facts: { edges: { x: string; y: string } } } }) | null;
};
type Dressed = PieceBeside & { wear: Wear; maps: Maps | null; mesh: Mesh };

/** What of a mesh wears other materials than the one in hand, around it. */
export class Beside {
  readonly group = new Group();
  private dressed: Dressed[] = [];

  /** Show these and no others. What stayed as it was keeps its textures. */
  arrange(pieces: PieceBeside[], wear: Wear) {
    const before = this.dressed;
    this.dressed = pieces.map(({ piece, packed }) => {
      const same = before.find(
        (one) => one.packed === packed && one.piece.material === piece.material,
      );
      if (same && JSON.stringify(same.wear) === JSON.stringify(wear)) {
        same.mesh.geometry = piece.geometry;
        return { ...same, piece };
      }
      const maps = same?.maps ?? (packed && mapsOf(packed, packed.recipe.facts.edges));
      const material = maps
        ? wearing(maps, wear)
        : new MeshPhysicalMaterial({ ...CLAY, side: DoubleSide });
      const mesh = new Mesh(piece.geometry, material);
      mesh.castShadow = true;
      return { piece, packed, wear, maps, mesh };
    });
    for (const old of before) {
      if (this.dressed.some(({ mesh }) => mesh === old.mesh)) continue;
      (old.mesh.material as MeshPhysicalMaterial).dispose();
      if (!this.dressed.some(({ maps }) => maps === old.maps))
        for (const texture of Object.values(old.maps ?? {})) texture.dispose();
    }
    this.group.clear();
    for (const { mesh } of this.dressed) this.group.add(mesh);
  }

  /** The least box that holds them all. */
  box(): Box3 {
    const all = new Box3();
    for (const { mesh } of this.dressed) {
      const { geometry } = mesh;
      if (!geometry.boundingBox) geometry.computeBoundingBox(); // asked at every move of a slider
      all.union(sure(geometry.boundingBox, "the piece's box"));
    }
    return all;
  }
}
