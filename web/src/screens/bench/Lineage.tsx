import { memo, useState } from "react";
import type { Operation, TextureSet } from "../../api/client";
import { Problem } from "../../parts/grades";
import { GREENS } from "../../parts/greens";
import { Hint } from "../../parts/Hint";
import { Key } from "../../parts/Key";
import { Segments } from "../../parts/Segments";
import { useKey } from "../../parts/useKey";
import { Controls } from "./Controls";
import { Corrections } from "./Corrections";
import { DeliverSet } from "./DeliverSet";
import type { Edit } from "./edit";
import { FoundHere } from "./FoundHere";
import { History } from "./History";
import { MeshSection } from "./mesh/MeshSection";
import { MaskChoice, needOf, OriginChoice, useOrigins } from "./OriginChoice";
import { Prepare } from "./prepare/Prepare";
import { Reflectance } from "./Reflectance";
import { Rise } from "./Rise";
import { SaveMap } from "./SaveMap";
import { SetName } from "./SetName";
import { SettingsOffered } from "./SettingsOf";
import { StartChoice } from "./StartChoice";
import { NewGray } from "./touch/NewGray";
import { PaintControls } from "./touch/PaintControls";
import { canBeTouched, touchSaid } from "./touch/touch";
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

/**
 * The recipe as an outline, readable from top to bottom: each master under what it comes from, its
 * controls in place.
 */
export function Lineage({ project, set, operations, chosen, onChoose, edit }: LineageProps) {
  const { recipe } = edit;
  const [isPlaceOpen, setPlaceOpen] = useState(false);
  const [isPrepareOpen, setPrepareOpen] = useState(false);
  const [isHistoryOpen, setHistoryOpen] = useState(false);
  const [isMeshOpen, setMeshOpen] = useState(
    !!set.recipe.worn && !set.masters.some((m) => m.given?.baked),
  ); // it is what is to be done next
  const origins = useOrigins(set);
  const titleOf = (key: string) => set.masters.find((m) => m.key === key)?.title;
  return (
    <section aria-label="Lineage" className="scrolled border-r border-hair pb-4">
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
      <FoundHere project={project} set={set} chosen={chosen} onChoose={onChoose} />
      <SettingsOffered project={project} set={set} />
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
      <Prepare
        set={set}
        project={project}
        edit={edit}
        isOpen={isPrepareOpen}
        onOpen={() => setPrepareOpen(!isPrepareOpen)}
      />
      <MeshSection
        set={set}
        project={project}
        edit={edit}
        isOpen={isMeshOpen}
        onOpen={() => setMeshOpen(!isMeshOpen)}
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
                says={
                  saysOf(master, operation, titleOf, needOf(origins[master.key])) +
                  touchSaid(recipe, master.key)
                }
              />
              {master.origin === "absent" && (
                <span className="absolute top-2.5 right-4">
                  <OriginChoice
                    set={set}
                    project={project}
                    master={master}
                    className="w-36"
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
              <Rise set={set} project={project} edit={edit} />
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
            {chosen === master.key && master.origin !== "absent" && canBeTouched(master) && (
              <PaintControls master={master} edit={edit} />
            )}
            {chosen === master.key && isMix(master) && (
              <MaskChoice set={set} project={project} master={master} />
            )}
            {chosen === master.key &&
              master.mixed.map(({ node, op, number, part }) => {
                const step = operations.find((row) => row.key === op && row.number === number);
                return (
                  step &&
                  edit.recipe.nodes?.[node] && (
                    <div key={node}>
                      <p className="pl-8 text-sm text-ink2">
                        {part === "mask" ? PARTS.mask : `${PARTS[part]}: ${stepTitle(step)}`}
                      </p>
                      <Controls
                        master={master}
                        node={node}
                        operation={step}
                        edit={edit}
                        isMask={part === "mask"}
                      />
                    </div>
                  )
                );
              })}
            {chosen === master.key && master.origin !== "absent" && (
              <SaveMap set={set} master={master} isBusy={edit.isMoving} />
            )}
          </div>
        );
      })}
      <NewGray set={set} project={project} onChoose={onChoose} />
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
      <Key at="bench" is="g" />
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
        className={`relative flex w-full cursor-pointer items-center gap-2.5 py-1.5 text-left
          focus-visible:-outline-offset-2 disabled:cursor-default disabled:text-ink2
          aria-pressed:bg-wash ${isAbsent ? "pr-42" : "pr-4"}`}
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
          <span className={`block text-sm text-ink2 ${isAbsent ? "" : "truncate"}`}>{says}</span>
        </span>
        {master.targets.length > 0 && !isAbsent && (
          <span className="rounded-full border border-copper px-1.5 text-[11px] leading-4 text-ink2">
            {master.targets.length}
          </span>
        )}
      </button>
    </Hint>
  );
});

const PARTS: Record<Master["mixed"][number]["part"], string> = {
  under: "Under it",
  in: "Mixed in",
  mask: "The mask",
};

const stepTitle = ({ key, title }: Operation) => (key === "constant" ? "one value" : title);

const isMix = (master: Master) =>
  (master.op?.startsWith("mixed") || master.op === "blend_normals") ?? false;

function saysOf(
  master: Master,
  operation: Operation | undefined,
  titleOf: (key: string) => string | undefined,
  need: string | null,
): string {
  if (master.source && master.given?.baked) return bakedSaid(master.given.baked);
  if (master.source) return `given · ${master.source}`;
  if (isMix(master) && !master.given) return "mixed with one value";
  if (isMix(master)) return master.key === "normal" ? "given, with detail" : "given, mixed";
  if (master.parent) return `from ${titleOf(master.parent)}`;
  return {
    given: "given",
    derived: operation?.title ?? "derived",
    constant: "constant everywhere",
    absent: need ? `absent · ${need}` : "absent",
  }[master.origin];
}

/** Where rays missed, or what has changed since: what else there is to know of a baked map. */
function bakedSaid({ stale, missed }: NonNullable<NonNullable<Master["given"]>["baked"]>): string {
  if (stale.length) return `baked before · ${stale[0]}`;
  return missed > 0 ? `baked · ${(100 * missed).toPrecision(2)} % of the rays missed` : "baked";
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
