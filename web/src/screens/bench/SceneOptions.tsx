import { useEffect, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { TextureSet } from "../../api/client";
import { useEnvironments } from "../../api/environments";
import { Choice } from "../../parts/Choice";
import { ChooseFiles } from "../../parts/ChooseFiles";
import { Problem } from "../../parts/grades";
import { Line } from "../../parts/Line";
import { meaning } from "../../parts/words";
import {
  BACKDROPS,
  BALLS,
  bodyWorn,
  HOLES,
  type OwnMesh as Mesh,
  ownLight,
} from "../../view3d/names";
import { OwnMesh } from "./mesh/OwnMesh";
import { useLight } from "./useLight";
import { useView } from "./view";

const SAYS_BAR =
  "A bar of a known length beside the body, to judge the size of the grain by. The width of the " +
  "tile in meters is given under The whole set.";

/** What of the lit view is seldom changed. None of it reaches a file. */
export function SceneOptions({ set }: { set: TextureSet }) {
  const view = useView();
  const { ground } = view;
  const { edges, width, height, tile_size = null } = set.recipe.facts;
  return (
    <section
      aria-label="Scene"
      className="flex min-h-0 flex-col gap-2 overflow-auto border-l border-hair bg-paper p-3
        text-sm"
    >
      <Range
        label="Exposure"
        unit="stops"
        low={-3}
        high={3}
        step={0.25}
        value={view.exposure}
        onChange={(exposure) => view.set({ exposure })}
      />
      <Line label="Displace" says={meaning("displacement")}>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            aria-label="Displace"
            checked={view.isDisplaced}
            onChange={(e) => view.set({ isDisplaced: e.target.checked })}
          />
          the body
        </label>
      </Line>
      {view.isDisplaced && view.mesh && bodyWorn(view.body, view.mesh, edges) === view.mesh && (
        <PolygonScale mesh={view.mesh} px={Math.max(width, height)} />
      )}
      {view.isDisplaced && (
        <Range
          label="Strength"
          unit="× rise"
          low={0}
          high={5}
          step={0.1}
          value={view.displacement}
          onChange={(displacement) => view.set({ displacement })}
        />
      )}
      <Line label="Holes">
        <Choice
          label="What holes do"
          className="min-w-0 grow"
          options={HOLES}
          value={view.holes}
          onChange={(holes) => view.set({ holes })}
        />
      </Line>
      {view.holes === "cut" && (
        <Range
          label="Cut at"
          unit=""
          low={0.02}
          high={0.98}
          step={0.02}
          value={view.threshold}
          onChange={(threshold) => view.set({ threshold })}
        />
      )}
      <Line label="Behind">
        <Choice
          label="What is behind"
          className="min-w-0 grow"
          options={BACKDROPS}
          value={view.backdrop}
          onChange={(backdrop) => view.set({ backdrop })}
        />
      </Line>
      {view.backdrop === "room" && (
        <Range
          label="Blur"
          unit=""
          low={0}
          high={1}
          step={0.05}
          value={view.blur}
          onChange={(blur) => view.set({ blur })}
        />
      )}
      <OwnSurroundings />
      <Line label="Balls">
        <Choice
          label="Balls to compare shine with"
          className="min-w-0 grow"
          options={BALLS}
          value={view.balls}
          onChange={(balls) => view.set({ balls })}
        />
      </Line>
      <Line label="Scale bar" says={SAYS_BAR}>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            aria-label="Scale bar"
            checked={view.hasBar && tile_size !== null}
            disabled={tile_size === null}
            onChange={(e) => view.set({ hasBar: e.target.checked })}
          />
          {tile_size === null ? "needs the tile's width" : "of a round length"}
        </label>
      </Line>
      <Line label="Ground">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            aria-label="Ground"
            checked={view.hasGround}
            onChange={(e) => view.set({ hasGround: e.target.checked })}
          />
          with shadow
        </label>
        {view.hasGround && (
          <input
            type="color"
            aria-label="Color of the ground"
            className="ml-auto h-6 w-9 cursor-pointer border border-hair"
            value={ground.color}
            onChange={(e) => view.set({ ground: { ...ground, color: e.target.value } })}
          />
        )}
      </Line>
      {view.hasGround && (
        <Range
          label="Roughness"
          unit=""
          low={0}
          high={1}
          step={0.05}
          value={ground.roughness}
          onChange={(roughness) => view.set({ ground: { ...ground, roughness } })}
        />
      )}
      <OwnMesh set={set} />
    </section>
  );
}

/**
 * Pictures of surroundings of the person's own, kept with the project; how the chosen one is held.
 */
function OwnSurroundings() {
  const { environments, bring, forget } = useEnvironments();
  const { situation } = useLight();
  const { turn, stops, set } = useView(
    useShallow(({ turn, stops, set }) => ({ turn, stops, set })),
  );
  const own = environments.find(({ id }) => id === ownLight(situation));
  return (
    <>
      <Line
        label="Own light"
        says="A picture of the whole sphere, equirectangular, twice as wide as high."
      >
        <ChooseFiles
          label="Picture of the surroundings, EXR, HDR or JPEG"
          text={bring.isPending ? "Reading…" : "EXR, HDR or JPEG"}
          className="button min-w-0 grow truncate"
          disabled={bring.isPending}
          onChoose={([file]) =>
            bring.mutate(file, { onSuccess: ({ id }) => set({ situation: `own:${id}` }) })
          }
        />
      </Line>
      <Problem error={bring.error ?? forget.error} />
      {own && (
        <>
          <Range
            label="Turn"
            unit="°"
            low={-180}
            high={180}
            step={5}
            value={Math.round((turn * 180) / Math.PI)}
            onChange={(degrees) => set({ turn: (degrees * Math.PI) / 180 })}
          />
          <Range
            label="Brighten"
            unit="stops"
            low={-4}
            high={4}
            step={0.25}
            value={stops}
            onChange={(stops) => set({ stops })}
          />
          {own.is_bounded && (
            <p className="text-ink2">
              Its file holds nothing brighter than white, so its lamps shine less than they did.
            </p>
          )}
          <button
            type="button"
            className="button self-end"
            disabled={forget.isPending}
            onClick={() => forget.mutate(own.id)}
          >
            Take {own.name} out of the project
          </button>
        </>
      )}
    </>
  );
}

/** How fine the displaced body is against the map: what is finer is not shaped by it. */
function PolygonScale({ mesh, px }: { mesh: Mesh; px: number }) {
  const [texels, setTexels] = useState<[number, number] | null>(null);
  useEffect(() => {
    void import("../../view3d/subdivided").then(({ texelsASide, halvings }) =>
      setTexels([texelsASide(mesh, px), mesh.triangles * 4 ** halvings(mesh.triangles)]),
    );
  }, [mesh, px]);
  return (
    texels && (
      <p className="text-ink2">
        Divided into {texels[1].toLocaleString("en")} triangles, each about{" "}
        {texels[0] < 10 ? texels[0].toFixed(1) : Math.round(texels[0])} texels wide. Finer relief is
        shaded, not shaped.
      </p>
    )
  );
}

type RangeProps = {
  label: string;
  unit: string;
  low: number;
  high: number;
  step: number;
  value: number;
  onChange: (value: number) => void;
};

function Range({ label, unit, low, high, step, value, onChange }: RangeProps) {
  return (
    <Line label={label}>
      <input
        type="range"
        aria-label={label}
        min={low}
        max={high}
        step={step}
        value={value}
        className="w-0 min-w-0 grow"
        onChange={(e) => onChange(Number(e.target.value))}
      />
      <span className="w-[68px] shrink-0 text-right text-ink2">
        {value.toFixed(2)} {unit}
      </span>
    </Line>
  );
}
