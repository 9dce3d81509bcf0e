import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, settled, type TextureSet } from "../../api/client";
import { useResize, useSetChange } from "../../api/queries";
import type { components } from "../../api/schema";
import { SaveSets } from "../../line/SaveSets";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";
import { Line } from "../../parts/Line";
import { type Move, TURNS } from "../../parts/moves";
import { NumberField } from "../../parts/NumberField";
import { SIZES } from "../../parts/sizes";
import { TypedField } from "../../parts/TypedField";
import { meaning } from "../../parts/words";
import { CopySet } from "./CopySet";
import type { Edit } from "./edit";
import { Section } from "./Section";
import { SettingsOf } from "./SettingsOf";
import { StartChoice } from "./StartChoice";

type WholeSetProps = {
  set: TextureSet;
  project: string;
  edit: Edit;
  isOpen: boolean;
  onOpen: () => void;
};

const CROP = [
  ["left", "From left"],
  ["top", "From top"],
  ["width", "Width"],
  ["height", "Height"],
] as const;

/**
 * What concerns all maps at once: size, place, facts, and how it is made. Normals turn along; each
 * press is one step of undo.
 */
export function WholeSet({ set, project, edit, isOpen, onOpen }: WholeSetProps) {
  const { facts, frame } = set.recipe;
  const count = set.steps.filter((step) => step.is_on).length;
  const moves = count ? `, then ${count} ${count === 1 ? "step" : "steps"}` : "";
  const came = frame ? `came as ${frame.width} × ${frame.height}${moves}` : "as it came";
  return (
    <Section
      title="The whole set"
      says={`${facts.width} × ${facts.height} px, ${came}`}
      path="M10 5v19h19M5 10h19v19"
      isOpen={isOpen}
      onOpen={onOpen}
    >
      <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
        <SizeOfAll set={set} project={project} />
        <Moves set={set} project={project} />
        <FactsOfAll set={set} edit={edit} />
        <StartAs set={set} project={project} />
        <SettingsOf set={set} project={project} />
        <Line label="Copy">
          <CopySet
            set={set}
            project={project}
            title="Duplicate"
            says="Another set made as this one is now, from the same files."
            isBusy={edit.isMoving}
          />
          <SaveSets project={project} ids={[set.id]} text="Save the set as a file" />
        </Line>
      </div>
    </Section>
  );
}

type PartProps = { set: TextureSet; project: string };

/** Sizes to choose from; of pixel art only those that keep every texel. */
function sizesFor(longer: number, sampling: string) {
  const multiples = [0.25, 0.5, 2, 4, 8].map((times) => longer * times);
  const sizes =
    sampling === "nearest" ? multiples.filter((px) => Number.isInteger(px) && px <= 16384) : SIZES;
  return [...new Set([...sizes, longer])]
    .sort((a, b) => a - b)
    .map((px) => [String(px), `${px} px`] as const);
}

function SizeOfAll({ set, project }: PartProps) {
  const { facts } = set.recipe;
  const resize = useResize(project, set.id);
  const longer = Math.max(facts.width, facts.height);
  const said = { sampling: facts.sampling, keep_shine: facts.keep_shine };
  return (
    <>
      <Line label="Size">
        <Choice
          label="Longer side"
          className="w-28"
          value={String(longer)}
          onChange={(px) => resize.mutate({ longer: Number(px), ...said })}
          options={sizesFor(longer, facts.sampling)}
        />
        <Choice
          label="Sampling"
          className="w-36"
          value={said.sampling}
          onChange={(sampling) => resize.mutate({ longer, ...said, sampling })}
          options={[
            ["smooth", "Smooth"],
            ["nearest", "Pixel art, sharp"],
          ]}
        />
      </Line>
      <Hint says="Where normals are averaged, the detail they lose widens the roughness, so that the surface keeps its shine from afar.">
        <label className="flex items-center gap-2 pl-[76px] text-sm text-ink2">
          <input
            type="checkbox"
            checked={said.keep_shine}
            onChange={(e) => resize.mutate({ longer, ...said, keep_shine: e.target.checked })}
          />{" "}
          Detail that normals lose becomes roughness
        </label>
      </Hint>
      <Problem error={resize.error} />
    </>
  );
}

/** Turning, mirroring, offsetting and cropping every map alike. */
function Moves({ set, project }: PartProps) {
  const { facts } = set.recipe;
  const move = useSetChange(project, set.id, (expects, move: Move) =>
    settled(
      api.POST("/api/sets/{set_id}/moves", {
        params: { path: { set_id: set.id } },
        body: { expects, move },
      }),
    ),
  );
  const [crop, setCrop] = useState<Record<string, string>>({});
  const isBusy = move.isPending;
  const whole = { left: 0, top: 0, width: facts.width, height: facts.height };
  const side = (key: keyof typeof whole) => Number(crop[key] ?? whole[key]);
  const wanted = {
    left: side("left"),
    top: side("top"),
    width: side("width"),
    height: side("height"),
  };
  const isCrop =
    CROP.some(([key]) => wanted[key] !== whole[key]) &&
    CROP.every(([key]) => Number.isInteger(wanted[key]));
  const handleCrop = () =>
    move.mutate({ kind: "crop", is_on: true, ...wanted }, { onSuccess: () => setCrop({}) });
  return (
    <>
      <Line label="Rotate">
        {TURNS.map(([title, says, step]) => (
          <Hint key={says} says={says}>
            <button
              type="button"
              className="button"
              aria-label={says}
              disabled={isBusy}
              onClick={() => move.mutate(step)}
            >
              {title}
            </button>
          </Hint>
        ))}
        <Hint says="Brings the borders to the middle">
          <button
            type="button"
            className="button"
            disabled={isBusy}
            onClick={() =>
              move.mutate({
                kind: "offset",
                is_on: true,
                right: Math.floor(facts.width / 2),
                down: Math.floor(facts.height / 2),
              })
            }
          >
            Offset by half
          </button>
        </Hint>
      </Line>
      <Line label="Crop">
        {CROP.map(([key, title]) => (
          <Hint key={key} says={title}>
            <input
              aria-label={`Crop, ${title.toLowerCase()}`}
              inputMode="numeric"
              className="field w-[45px] px-1 text-right"
              value={crop[key] ?? whole[key]}
              onChange={(e) => setCrop({ ...crop, [key]: e.target.value })}
            />
          </Hint>
        ))}
        <button type="button" className="button" disabled={!isCrop || isBusy} onClick={handleCrop}>
          Crop
        </button>
      </Line>
      <Problem error={move.error} />
    </>
  );
}

/** What is true of all maps, and where they come from. */
function FactsOfAll({ set, edit }: { set: TextureSet; edit: Edit }) {
  const { facts } = set.recipe;
  const keepFact = (changed: Partial<typeof facts>) =>
    edit.keep({ ...edit.recipe, facts: { ...edit.recipe.facts, ...changed } });
  return (
    <>
      <Line label="Tile is">
        <NumberField
          label="Width of the tile in meters"
          value={facts.tile_size?.toString() ?? ""}
          low={0.000001}
          high={1000000}
          unit="m"
          isEmptyTaken
          placeholder="not known"
          className="w-24"
          onDone={(meters) => keepFact({ tile_size: meters })}
        />
        <span className="text-sm text-ink2">
          m wide
          {facts.tile_size && `, ${(facts.width / facts.tile_size).toPrecision(4)} texels a meter`}
        </span>
      </Line>
      <Line
        label="Seed"
        says="Of all noise in the set: the same number gives the same maps, another gives others of their kind."
      >
        <NumberField
          label="Seed of the set"
          value={String(facts.seed)}
          low={0}
          high={1073741824}
          className="w-24"
          onDone={(seed) => seed !== null && keepFact({ seed: Math.round(seed) })}
        />
        <button
          type="button"
          className="button"
          disabled={!Object.values(edit.recipe.touches).some((touch) => touch.noise)}
          onClick={() => keepFact({ seed: 1 + Math.floor(Math.random() * 1e6) })}
        >
          Another one
        </button>
      </Line>
      <Edges set={set} onChange={(edges) => keepFact({ edges, edges_from: "told" })} />
      <Line label="Origin">
        <TypedField
          label="Origin of the pictures"
          value={facts.origin ?? ""}
          placeholder="Who made them, where they are from"
          className="min-w-0 grow"
          onDone={(origin) => keepFact({ origin: origin.trim() })}
        />
      </Line>
      <Line label="License">
        <TypedField
          label="License of the pictures"
          value={facts.license ?? ""}
          placeholder="What they may be used for"
          className="min-w-0 grow"
          onDone={(license) => keepFact({ license: license.trim() })}
        />
      </Line>
    </>
  );
}

/** Parameters that suit a kind of material; and the account of how the set is made. */
function StartAs({ set, project }: PartProps) {
  return (
    <Line label="Start as" says={meaning("starting point")}>
      <StartChoice set={set} project={project} />
      <Hint says="How each master came to be, step by step, to read or to keep">
        <a className="button" href={`/api/sets/${set.id}/account`} target="_blank" rel="noreferrer">
          Account
        </a>
      </Hint>
    </Line>
  );
}

type EdgesFact = NonNullable<TextureSet["recipe"]["facts"]["edges"]>;
const REPEATS = [
  ["wrap", "repeats"],
  ["mirror", "ends"],
] as const;
const AXES = [
  ["x", "across"],
  ["y", "down"],
] as const;

/**
 * Where the set repeats, told or guessed from its worst map, with the seam of every given map
 * beside it.
 */
function Edges({ set, onChange }: { set: TextureSet; onChange: (edges: EdgesFact) => void }) {
  const { facts } = set.recipe;
  const edges = { x: facts.edges?.x ?? "wrap", y: facts.edges?.y ?? "wrap" } as const;
  const isMade = set.steps.some((step) => step.kind === "repeat" && step.is_on);
  const { data: seams } = useQuery({
    queryKey: ["seams", set.id, set.head],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/seams", {
          params: { path: { set_id: set.id }, query: { head: set.head } },
        }),
      ),
    staleTime: Infinity,
  });
  return (
    <div>
      <Line label="Edges" says={meaning("edges")}>
        {AXES.map(([axis, says]) => (
          <Choice
            key={axis}
            label={`The set ${says}`}
            className="w-[132px]"
            value={edges[axis]}
            options={REPEATS.map(([way, title]) => [way, `${says}: ${title}`] as const)}
            onChange={(way) => onChange({ ...edges, [axis]: way })}
          />
        ))}
      </Line>
      <Hint says={meaning("seam")}>
        <p tabIndex={0} className="mt-1 pl-[76px] text-sm text-ink2">
          {isMade && "Made to repeat. "}
          {!isMade && (facts.edges_from === "guessed" ? "Guessed from the worst map. " : "Told. ")}
          {seamsSaid(seams)}
        </p>
      </Hint>
      {facts.edges_from === "guessed" && !isMade && (
        <button type="button" className="button mt-1 ml-[76px]" onClick={() => onChange(edges)}>
          Confirm the edges
        </button>
      )}
    </div>
  );
}

type Seam = components["schemas"]["SeamRow"];

function seamsSaid(seams: Seam[] | undefined): string {
  if (seams === undefined) return "Measuring the seams…";
  if (!seams.length) return "No given map, so no seam.";
  const said = seams.map(
    (s) => `${s.title.toLowerCase()} ${s.across.toFixed(1)} × across, ${s.down.toFixed(1)} × down`,
  );
  return `Seams: ${said.join("; ")}`;
}
