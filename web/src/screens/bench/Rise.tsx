import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, settled, type TextureSet } from "../../api/client";
import { useSetChange } from "../../api/queries";
import { Problem } from "../../parts/grades";
import { NumberControl } from "../../parts/NumberControl";
import { meaning } from "../../parts/words";
import type { Edit } from "./edit";
import { riseFor, tiltOf } from "./tilt";

const RISE_PERCENT = { low: 0.01, high: 20, limit: 100, initial: 2 };
const TILT = { low: 0.5, high: 45, limit: 80, initial: 12 };
const STEEP = 60; // degrees that hardly any surface exceeds

type RiseProps = { set: TextureSet; project: string; edit: Edit };

/**
 * How far the surface rises, which is kept, and how far it leans with that; either can be moved.
 */
export function Rise({ set, project, edit }: RiseProps) {
  const { recipe } = edit;
  const { facts } = recipe;
  const { data: slopes } = useQuery({
    queryKey: ["slopes", set.id, set.head],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/slopes", {
          params: { path: { set_id: set.id }, query: { head: set.head } },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const withRise = (rise: number) => ({
    ...recipe,
    facts: { ...facts, rise, rise_from: "told" as const, rise_fit: null },
  });
  const isDerived = set.masters.some((m) => m.key === "height" && m.origin === "derived");
  const isTold = isDerived && (facts.rise_from ?? "told") === "told"; // what is fitted is limited
  const isFlat = slopes?.every((slope) => slope === 0) ?? false;
  const tilt = slopes && !isFlat && tiltOf(slopes, facts.rise);
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      <NumberControl
        label="Rise"
        plain="From the lowest to the highest point of the surface."
        unit="% of width"
        {...RISE_PERCENT}
        value={facts.rise * 100}
        onMove={(percent) => edit.move(withRise(percent / 100))}
        onDone={(percent) => edit.keep(withRise(percent / 100))}
      />
      {slopes && tilt && (
        <NumberControl
          label="Mean tilt"
          plain={meaning("mean tilt")}
          unit="°"
          {...TILT}
          value={Number(tilt.mean.toPrecision(3))}
          onMove={(degrees) => edit.move(withRise(riseFor(slopes, degrees)))}
          onDone={(degrees) => edit.keep(withRise(riseFor(slopes, degrees)))}
        />
      )}
      {tilt && isTold && tilt.steepest > STEEP && (
        <p className="mt-1 pl-[92px] text-sm text-look">
          One texel of a hundred leans more than {tilt.steepest.toFixed(0)}°. Few surfaces do.
        </p>
      )}
      {isFlat ? (
        <p className="pl-[92px] text-sm text-ink2">The height is one value: nothing rises yet.</p>
      ) : (
        <RiseKnown set={set} project={project} facts={facts} />
      )}
      {facts.tile_size && (
        <p className="pl-[92px] text-sm text-ink2">
          {(facts.rise * facts.tile_size * 1000).toPrecision(3)} mm on a tile {facts.tile_size} m
          wide
        </p>
      )}
    </div>
  );
}

/** How the rise is known; where the files can say it, one press asks them. */
function RiseKnown({
  set,
  project,
  facts,
}: {
  set: TextureSet;
  project: string;
  facts: TextureSet["recipe"]["facts"];
}) {
  const measure = useSetChange(project, set.id, (expects, _: null) =>
    settled(
      api.POST("/api/sets/{set_id}/rise", {
        params: { path: { set_id: set.id } },
        body: { expects },
      }),
    ),
  );
  const isGiven = (key: string) => set.masters.some((m) => m.key === key && m.origin === "given");
  const says = {
    told: "told, not measured",
    assumed: "assumed: nobody has told or measured it",
    baked: "as it was baked, of the mesh",
    fitted: "fitted to the height as it was derived",
    measured: `measured on the normals${facts.rise_fit ? `, correlation ${facts.rise_fit.toFixed(2)}` : ""}`,
  }[facts.rise_from ?? "told"];
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2 pl-[92px] text-sm text-ink2">
      <span className={facts.rise_from === "assumed" ? "text-look" : ""}>{says}</span>
      {!["measured", "baked"].includes(facts.rise_from) &&
        isGiven("height") &&
        isGiven("normal") && (
          <button
            type="button"
            className="button"
            disabled={measure.isPending}
            onClick={() => measure.mutate(null)}
          >
            Measure it
          </button>
        )}
      <Problem error={measure.error} />
    </div>
  );
}
