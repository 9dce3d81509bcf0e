import { memo } from "react";
import type { DensityRow } from "../../api/assays";
import type { AssayRow, TextureSet } from "../../api/client";
import { Card, type How } from "./Card";
import { useInView } from "./inView";
import { Rushed } from "./Swatch";

export type CardGridProps = {
  project: string;
  sets: TextureSet[];
  /** By the sets' ids, of those that were looked at. */
  found: Map<string, AssayRow[] | undefined>;
  density: DensityRow[];
  chosen: string[];
  /** The set in view at first, by its place; under 0 where it was scrolled to last. */
  opensAt: number;
  onChoose: (id: string, how: How) => void;
  onRemove: (set: TextureSet) => void;
};

/** The cards of these sets, of which only those near what is seen are drawn. */
export const CardGrid = memo(function CardGrid({
  project,
  sets,
  found,
  density,
  chosen,
  opensAt,
  ...does
}: CardGridProps) {
  const { ref, rows, first, end, isRushed } = useInView(project, sets.length, opensAt);
  return (
    <div ref={ref} className="grid content-start gap-x-4" style={rows}>
      <Rushed value={isRushed}>
        {sets.slice(first, end).map((set) => (
          <Card
            key={set.id}
            set={set}
            found={found.get(set.id)}
            density={density}
            address={`/p/${project}/bench/${set.id}`}
            isChosen={chosen.includes(set.id)}
            {...does}
          />
        ))}
      </Rushed>
    </div>
  );
});
