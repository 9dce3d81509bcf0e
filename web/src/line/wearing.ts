import type { MeshLook, MeshRef, Worn } from "../api/meshes";

/** How a bake begins: quick enough to look at. */
const START = {
  material: 0,
  called: "",
  high: [],
  cage: null,
  offset: null,
  maps: ["normal", "occlusion", "curvature"],
  size: null,
  samples: 1,
  rays: 64,
  is_in_tiles: null,
  is_padded: true,
} satisfies Omit<Worn, "low">;

export const refOf = ({ sha256, name, print, triangles }: MeshLook): MeshRef => ({
  sha256,
  name,
  print,
  triangles,
});

/** The material that is called as the set is, else the first. */
export const materialOf = (look: MeshLook, set: string): number =>
  Math.max(
    0,
    look.materials.findIndex(({ name }) => name.toLowerCase() === set.toLowerCase()),
  );

/**
 * What wears a set once these meshes are brought to it: by what their names say; of those that say
 * nothing the first is low, a finer one is baked from, and a simpler one takes the low one's place.
 */
export function withMeshes(worn: Worn | null, looks: MeshLook[], set: string): Worn | null {
  const rank = ({ role }: MeshLook) => (role === "low" ? 0 : 1);
  const sorted = [...looks].sort((a, b) => rank(a) - rank(b) || a.triangles - b.triangles);
  let now = worn;
  const fine: MeshRef[] = []; // several may be baked from together
  for (const look of sorted) {
    const isFiner = now !== null && look.triangles > now.low.triangles;
    const role = look.role ?? (isFiner ? "high" : "low");
    if (role === "low") {
      const material = materialOf(look, set);
      const called = look.materials[material]?.name ?? "";
      const high = look.is_both ? [refOf(look)] : (now?.high ?? []);
      now = { ...START, ...now, low: refOf(look), material, called, high };
    } else if (now && role === "cage") now = { ...now, cage: refOf(look) };
    else if (now) {
      fine.push(refOf(look));
      now = { ...now, high: [...fine] };
    }
  }
  return now;
}

/** What of these meshes found no place, as there is no low one. */
export const withoutPlace = (worn: Worn | null, looks: MeshLook[]): string[] =>
  worn ? [] : looks.map(({ name }) => name);
