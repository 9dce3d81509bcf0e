import { useEffect, useMemo } from "react";
import type { TextureSet } from "../../../api/client";
import { useMeshLook } from "../../../api/meshes";
import { useStable } from "../../../parts/useStable";
import { useView } from "../view";
import { missedOf } from "./marks";

/**
 * The mesh that wears the set is the body it is looked at on, for as long as the set is on the
 * bench.
 */
export function useWornMesh(set: TextureSet) {
  const { worn, facts } = set.recipe;
  const { look } = useMeshLook(worn?.low, worn?.size ?? Math.max(facts.width, facts.height));
  const material = worn?.material ?? 0;
  const sha256 = worn?.low.sha256;
  const missed = useMemo(() => missedOf(set), [set]);
  const setTiles = useStable(set.tiles);
  const isWhole = useView((view) => view.hasBeside);
  useEffect(() => useView.getState().set({ missed, setTiles }), [missed, setTiles]);
  useEffect(() => {
    const { mesh, set: change } = useView.getState();
    if (!look) {
      // not of a set that is only looked at anew
      if (mesh?.isWorn && mesh.look.sha256 !== sha256) change({ mesh: null });
      return;
    }
    const isSame = mesh?.look.sha256 === look.sha256 && mesh.material === material;
    if (mesh?.isWorn && isSame && mesh.isWhole === isWhole) return;
    let isLeft = false;
    void import("../../../view3d/mesh")
      .then(({ meshOf }) => meshOf(look, material, isWhole))
      .then((made) => !isLeft && change({ mesh: { ...made, isWorn: true } }))
      .catch(() => !isLeft && change({ mesh: null })); // the section says what is wrong with it
    return () => {
      isLeft = true;
    };
  }, [look, material, sha256, isWhole]);
}
