import { memo, useState } from "react";
import { api, type Operation, settled, type TextureSet } from "../../api/client";
import { useAssay, useFix, useSetChange } from "../../api/queries";
import { FindingLine, FixButton, Problem } from "../../parts/grades";
import { GREENS } from "../../parts/greens";
import { Hint } from "../../parts/Hint";
import { NumberControl } from "../../parts/NumberControl";
import { Segments } from "../../parts/Segments";
import { sure } from "../../parts/sure";
import { useKey } from "../../parts/useKey";
import { Controls } from "./Controls";
import { Corrections } from "./Corrections";
import { DeliverSet } from "./DeliverSet";
import type { Edit } from "./edit";
import { History } from "./History";
import { MaskChoice, needOf, OriginChoice, useOrigins } from "./OriginChoice";
import { Reflectance } from "./Reflectance";
import { SetName } from "./SetName";
import { StartChoice } from "./StartChoice";
import { type Place, useView } from "./view";
import { WholeSet } from "./WholeSet";

type Master = TextureSet["masters"][number];
type LineageProps = {
  project: string;
  set: TextureSet;
  operations: Operation[];
  chosen: string;
  onChoose: (key: string) => void;
  edit: Edit;
};

const RISE_PERCENT = { low: 0.01, high: 20, limit: 100, initial: 2 };

/**
 * The recipe as an outline, readable from top to bottom: each master under what it comes from, its
 * controls in place.
 */
export function Lineage({ project, set, operations, chosen, onChoose, edit }: LineageProps) {
  const { recipe } = edit;
  const [isPlaceOpen, setPlaceOpen] = useState(false);
  const [isHistoryOpen, setHistoryOpen] = useState(false);
  const origins = useOrigins(set);
  const withRise = (percent: number) => ({
    ...recipe,
    facts: { ...recipe.facts, rise: percent / 100, rise_from: "told" as const, rise_fit: null },
  });
  const titleOf = (key: string) => set.masters.find((m) => m.key === key)?.title;
  return (
    <section aria-label="Lineage" className="overflow-auto border-r border-hair pb-4">
      <div className="sticky top-0 z-10 flex items-center gap-2 bg-paper py-2 pr-4 pl-4">
        <SetName project={project} set={set} />
        <button type="button" className="button" disabled={!set.can_undo} onClick={edit.undo}>
          Undo
        </button>
        <button type="button" className="button" disabled={!set.can_redo} onClick={edit.redo}>
          Redo
        </button>
      </div>
      <div className="flex flex-wrap items-center gap-2 px-4 pb-2">
        <DeliverSet project={project} set={set} isBusy={edit.isMoving} />
        <Problem error={edit.problem} />
      </div>
      <FoundHere project={project} set={set} onChoose={onChoose} />
      <History
        set={set}
        project={project}
        isOpen={isHistoryOpen}
        onOpen={() => setHistoryOpen(!isHistoryOpen)}
      />
      <WholeSet
        set={set}
        project={project}
        edit={edit}
        isOpen={isPlaceOpen}
        onOpen={() => setPlaceOpen(!isPlaceOpen)}
      />
      {outline(set).map(({ master, depth }) => {
        const operation = operations.find(
          (op) => op.key === master.op && op.number === master.number,
        );
        return (
          <div key={master.key}>
            <div className="relative">
              <Row
                set={set}
                master={master}
                depth={depth}
                isChosen={chosen === master.key}
                onChoose={onChoose}
                says={saysOf(master, operation, titleOf, needOf(origins[master.key]))}
              />
              {master.origin === "absent" && (
                <span className="absolute top-2.5 right-4">
                  <OriginChoice
                    set={set}
                    project={project}
                    master={master}
                    className="w-44"
                    onDone={onChoose}
                  />
                </span>
              )}
            </div>
            {chosen === master.key && master.origin !== "absent" && (
              <div className="flex items-center gap-2 py-1.5 pr-4 pl-8">
                <span className="w-[84px] shrink-0">Comes from</span>
                <OriginChoice set={set} project={project} master={master} />
              </div>
            )}
            {chosen === master.key && master.origin === "derived" && (
              <div className="flex items-center gap-2 py-1.5 pr-4 pl-8">
                <span className="w-[84px] shrink-0">Start as</span>
                <StartChoice set={set} project={project} master={master} />
              </div>
            )}
            {chosen === master.key && master.key === "height" && (
              <div className="py-2 pr-4 pl-8">
                <NumberControl
                  label="Rise"
                  plain="From the lowest to the highest point of the surface."
                  unit="% of width"
                  {...RISE_PERCENT}
                  value={recipe.facts.rise * 100}
                  onMove={(v) => edit.move(withRise(v))}
                  onDone={(v) => edit.keep(withRise(v))}
                />
                <RiseKnown set={set} project={project} facts={recipe.facts} />
                {recipe.facts.tile_size && (
                  <p className="pl-[92px] text-sm text-ink2">
                    {(recipe.facts.rise * recipe.facts.tile_size * 1000).toPrecision(3)} mm on a
                    tile {recipe.facts.tile_size} m wide
                  </p>
                )}
              </div>
            )}
            {chosen === master.key &&
              operation &&
              master.node &&
              (master.key === "reflectance" && master.origin === "constant" ? (
                <Reflectance
                  node={master.node}
                  value={Number(recipe.nodes?.[master.node]?.params?.value ?? master.absent[0])}
                  edit={edit}
                />
              ) : (
                <Controls master={master} node={master.node} operation={operation} edit={edit} />
              ))}
            {chosen === master.key && master.key === "normal" && master.given && (
              <GreenOf name={master.given.source} edit={edit} />
            )}
            {chosen === master.key && master.given && (
              <Corrections
                key={`${master.given.source} ${master.given.held}`}
                master={master}
                edit={edit}
              />
            )}
            {chosen === master.key && isMix(master) && (
              <MaskChoice set={set} project={project} master={master} />
            )}
            {chosen === master.key &&
              master.mixed.map(({ node, op, number }, k) => {
                const step = operations.find((row) => row.key === op && row.number === number);
                const isMask = node.startsWith("mask_");
                return (
                  step &&
                  edit.recipe.nodes?.[node] && (
                    <div key={node}>
                      <p className="pl-8 text-sm text-ink2">
                        {isMask ? "The mask" : `Mixed in: ${step.title}`}
                      </p>
                      <Controls
                        key={k}
                        master={master}
                        node={node}
                        operation={step}
                        edit={edit}
                        isMask={isMask}
                      />
                    </div>
                  )
                );
              })}
          </div>
        );
      })}
    </section>
  );
}

/** Which way a given normal map's green points; G flips it. */
function GreenOf({ name, edit }: { name: string; edit: Edit }) {
  const source = edit.recipe.sources[name];
  const keep = (green: "up" | "down") =>
    edit.keep({
      ...edit.recipe,
      sources: { ...edit.recipe.sources, [name]: { ...source, green } },
    });
  useKey((key) => key === "g" && keep(source.green === "down" ? "up" : "down"));
  return (
    <div className="flex items-center gap-2 py-1.5 pr-4 pl-8">
      <span className="w-[84px] shrink-0">Green</span>
      <Segments
        label="Which way green points in the file"
        options={GREENS}
        value={source.green ?? "up"}
        onChange={keep}
      />
      <kbd>G</kbd>
    </div>
  );
}

/** What is to be looked at before anything else on this set, with what one press does about it. */
function FoundHere({ project, set, onChoose }: Pick<LineageProps, "project" | "set" | "onChoose">) {
  const { rows } = useAssay(project, [set]);
  const marked = useView((view) => view.marked);
  const look = useView((view) => view.set);
  const handleShow = (place: Place) => {
    const isShown = marked?.finding === place.finding && marked.master === place.master;
    look({
      marked: isShown ? null : place,
      ...(useView.getState().look === "lit" ? { look: "pair" } : {}),
      pictures: "one",
      ...(place.tile === null ? {} : { tile: place.tile }),
    });
    if (set.masters.some((m) => m.key === place.master && m.origin !== "absent"))
      onChoose(place.master);
  };
  const fix = useFix(project);
  return (
    <>
      <div className="px-4">
        <Problem error={fix.error} />
      </div>
      {rows
        .filter((row) => row.finding.grade !== "note")
        .map((row) => (
          <div key={row.finding.text} className="flex items-center gap-2 px-4 pb-2 text-sm">
            <FindingLine finding={row.finding} />
            <span className="ml-auto flex flex-col items-stretch gap-1">
              {row.finding.where && row.finding.master && (
                <button
                  type="button"
                  className="button"
                  aria-pressed={marked?.finding === row.finding.id}
                  onClick={() =>
                    handleShow({
                      set: set.id,
                      finding: row.finding.id,
                      master: sure(row.finding.master, "the map"),
                      tile: row.tile,
                    })
                  }
                >
                  {marked?.finding === row.finding.id ? "Hide where" : "Show where"}
                </button>
              )}
              <FixButton title={row.fix} disabled={fix.isPending} onFix={() => fix.mutate(row)} />
            </span>
          </div>
        ))}
    </>
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
    told: "told",
    assumed: "assumed: nobody has told or measured it",
    measured: `measured on the normals${facts.rise_fit ? `, correlation ${facts.rise_fit.toFixed(2)}` : ""}`,
  }[facts.rise_from ?? "told"];
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2 pl-[92px] text-sm text-ink2">
      <span className={facts.rise_from === "assumed" ? "text-look" : ""}>{says}</span>
      {facts.rise_from !== "measured" && isGiven("height") && isGiven("normal") && (
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

type RowProps = {
  set: TextureSet;
  master: Master;
  depth: number;
  isChosen: boolean;
  onChoose: (key: string) => void;
  says: string;
};

const Row = memo(function Row({ set, master, depth, isChosen, onChoose, says }: RowProps) {
  const isAbsent = master.origin === "absent";
  const carried = master.targets.length
    ? `Carried by ${master.targets.join(", ")}`
    : "No target's file carries it";
  return (
    <Hint says={`${master.plain}\n${carried}`}>
      <button
        type="button"
        aria-pressed={isChosen}
        disabled={isAbsent}
        onClick={() => onChoose(master.key)}
        style={{ paddingLeft: 14 + depth * 22 }}
        className="relative flex w-full cursor-pointer items-center gap-2.5 py-1.5 pr-4 text-left focus-visible:-outline-offset-2 disabled:cursor-default disabled:text-ink2 aria-pressed:bg-wash"
      >
        {depth > 0 && (
          <i
            className="absolute top-0 bottom-1/2 w-2.5 rounded-bl border-b border-l border-copper"
            style={{ left: 4 + depth * 22 }}
          />
        )}
        {isAbsent ? (
          <i className="size-[34px] shrink-0 border border-dashed border-ink2" />
        ) : (
          <img
            alt=""
            src={`/api/sets/${set.id}/swatch?head=${set.head}&show=${master.key}&px=68`}
            className="size-[34px] shrink-0 bg-surround object-cover"
          />
        )}
        <span className="min-w-0 grow">
          <b className="block font-semibold">{master.title}</b>
          <span className="block truncate text-sm text-ink2">{says}</span>
        </span>
        {master.targets.length > 0 && (
          <span className="rounded-full border border-copper px-1.5 text-[11px] leading-4 text-ink2">
            {master.targets.length}
          </span>
        )}
      </button>
    </Hint>
  );
});

const isMix = (master: Master) =>
  (master.op?.startsWith("mixed") || master.op === "blend_normals") ?? false;

function saysOf(
  master: Master,
  operation: Operation | undefined,
  titleOf: (key: string) => string | undefined,
  need: string | null,
): string {
  if (master.source) return `given · ${master.source}`;
  if (isMix(master)) return master.key === "normal" ? "given, with detail" : "given, mixed";
  if (master.parent) return `from ${titleOf(master.parent)}`;
  return {
    given: "given",
    derived: operation?.title ?? "derived",
    constant: "constant everywhere",
    absent: need ? `absent · ${need}` : "absent",
  }[master.origin];
}

/** Every master right after what it comes from; absent ones last. */
export function outline(set: TextureSet): { master: Master; depth: number }[] {
  const under = (parent: string | null, depth: number): { master: Master; depth: number }[] =>
    set.masters
      .filter((m) => m.origin !== "absent" && m.parent === parent)
      .flatMap((m) => [{ master: m, depth }, ...under(m.key, depth + 1)]);
  return [
    ...under(null, 0),
    ...set.masters.filter((m) => m.origin === "absent").map((master) => ({ master, depth: 0 })),
  ];
}
