import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import { useParams } from "react-router";
import type { TextureSet } from "../../../api/client";
import type { MeshLook } from "../../../api/meshes";
import { useSets } from "../../../api/queries";
import { inTurns } from "../../../api/turns";
import type { PieceBeside } from "../../../view3d/beside";
import { inTiles } from "../../../view3d/inTiles";
import { bodyWorn } from "../../../view3d/names";
import { fetchPicture, type Picture } from "../pictures";
import { layoutOf } from "../tiles";
import { useView } from "../view";

const PX = 512;
const [FEW, PX_OF_MANY] = [4, 256];
const NO_SETS: TextureSet[] = [];
const besides = inTurns(2); // the set in hand must not wait behind dozens

/** The set of the project that is a material of a mesh: worn by it as that, else called as it is. */
export function setOf(
  look: MeshLook,
  material: number,
  sets: TextureSet[],
): TextureSet | undefined {
  const { name } = look.materials[material];
  return (
    sets.find(
      ({ recipe: { worn } }) => worn?.low.sha256 === look.sha256 && worn.material === material,
    ) ?? sets.find((set) => name !== "" && set.name.toLowerCase() === name.toLowerCase())
  );
}

/** The sets of the project that the bench is in. */
export function useSetsHere(): TextureSet[] {
  const { project = "" } = useParams();
  return useSets(project).data ?? NO_SETS;
}

/**
 * What of the mesh that is looked at wears other materials than the set in hand, each in the set of
 * the project that is that material.
 */
export function useBeside(): PieceBeside[] {
  const mesh = useView(({ body, mesh }) =>
    mesh && bodyWorn(body, mesh, { x: "", y: "" }) === mesh ? mesh : null,
  );
  const sets = useSetsHere();
  const worn = useMemo(
    () =>
      (mesh?.beside ?? []).map((piece) => {
        const set = mesh ? setOf(mesh.look, piece.material, sets) : undefined;
        const isInTiles = !!set?.tiles.length;
        return {
          set,
          isInTiles,
          piece: set && isInTiles ? inTiles(piece, layoutOf(set.tiles)) : piece,
        };
      }),
    [mesh, sets],
  );
  const px = worn.length > FEW ? PX_OF_MANY : PX;
  const packed = useQueries({
    queries: worn.map(({ set, isInTiles, piece }) => ({
      queryKey: ["beside", piece.material, px, set?.id, set?.recipe],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        set
          ? besides.ask(set.id, () =>
              fetchPicture(
                `beside ${set.id}`,
                { recipe: set.recipe, wanted: "lit", target: null, tile: isInTiles ? "all" : null },
                px,
                signal,
              ),
            )
          : null,
      staleTime: Infinity,
      gcTime: 0,
      retry: false,
    })),
    combine: picturesOf,
  });
  return useMemo(
    () => worn.map(({ piece }, k) => ({ piece, packed: packed[k] ?? null })),
    [worn, packed],
  );
}

const picturesOf = (answers: { data?: Picture | null }[]) => answers.map(({ data }) => data);
