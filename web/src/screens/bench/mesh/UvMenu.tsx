import { useMutation } from "@tanstack/react-query";
import { type Mapping, type MeshRef, unfoldedMesh, type Worn } from "../../../api/meshes";
import { refOf } from "../../../line/wearing";
import { Problem } from "../../../parts/grades";
import { Line } from "../../../parts/Line";
import { lastingSaid } from "../../../parts/lasting";
import { Menu } from "../../../parts/Menu";

/** What can be made: how it is unfolded, and whether as the second UV, for light. */
const MADE = {
  islands: { title: "Quick UV, for trials", way: "islands", second: false },
  flat: { title: "Flat UV, seen from its widest side", way: "flat", second: false },
  box: { title: "Box UV, seen from six sides", way: "box", second: false },
  light: { title: "Second UV, for baked light", way: "islands", second: true },
} satisfies Record<string, { title: string; way: Mapping; second: boolean }>;
type Made = keyof typeof MADE;

const ORDER: Made[] = ["islands", "flat", "box", "light"];
const OPTIONS = ORDER.map((key) => [key, MADE[key].title] as const);

type UvMenuProps = { worn: Worn; px: number; onMade: (low: MeshRef) => void };

/** About how long charts take by a mesh's triangles: measured from 3,600 to 160,000, on two cores. */
const unfoldingSeconds = (triangles: number) => triangles * 0.00035 * (1 + triangles / 160_000);

/** UV made by the machine, in a mesh beside the one that came. */
export function UvMenu({ worn, px, onMade }: UvMenuProps) {
  const make = useMutation({
    mutationFn: async (made: Made) => {
      const { way, second } = MADE[made];
      onMade(refOf(await unfoldedMesh(worn.low, way, second, px)));
    },
  });
  const lasts = lastingSaid(unfoldingSeconds(worn.low.triangles));
  return (
    <>
      <Line label="UV" says="Made in a mesh beside the one that came; undo brings that back.">
        {make.isPending ? (
          <span role="status" className="text-ink2">
            Unfolding {worn.low.triangles.toLocaleString("en")} triangles…
          </span>
        ) : (
          <Menu label="Make UV" options={OPTIONS} onPick={(made) => make.mutate(made)} />
        )}
      </Line>
      {lasts && <p className="text-ink2 text-sm">Quick UV of this mesh {lasts}.</p>}
      <Problem error={make.error} />
    </>
  );
}
