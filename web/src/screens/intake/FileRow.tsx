import { type KeyboardEvent, memo, useEffect, useRef } from "react";
import type { Arranged } from "../../api/client";
import { useEnvironments } from "../../api/environments";
import { Choice } from "../../parts/Choice";
import { FindingLine, GradeMark, Problem } from "../../parts/grades";
import { GREENS } from "../../parts/greens";
import { keyFor, meaningOf, shownKey, useKeys } from "../../parts/keys";
import { isOwn, ownKey, ownName } from "../../parts/ownKeys";
import { TypedField } from "../../parts/TypedField";
import { foundOn, isSameLine, type Line, runsOf, setOf, tilesOf } from "./arrangement";
import { Channels } from "./Channels";
import { KEY_OF_KIND, KIND_OF_KEY, KINDS } from "./kinds";
import { LightTest } from "./LightTest";
import { OwnName } from "./OwnName";
import { ReadAs } from "./ReadAs";
import { type Row, readsOf, type Said } from "./rows";

type FileRowProps = {
  line: Line;
  isOpen: boolean;
  onChange: (row: Row, look: Said) => void;
  onLeaveOut: (rows: Row[]) => void;
  onLayers: (row: Row, way: "merged" | "layers") => Promise<void>;
  onOpen: (row: Row) => void;
};

/**
 * One file: what it is, and why we think so, each part correctable; opened, its channels and its
 * light test.
 */
export const FileRow = memo(OneFile, isSameRow);

function OneFile({ line, isOpen, onChange, onLeaveOut, onLayers, onOpen }: FileRowProps) {
  const { row, place, tiles, gaps } = line;
  const { look, isLeftOut, isByLayers } = row;
  const handleLeaveOut = () => onLeaveOut([row, ...tiles.map((tile) => tile.row)]);
  const [likeliest, ...others] = look.guesses ?? [];
  const green = look.green === "down" ? "down" : "up";
  const handleKind = (wanted: string) => {
    const kind = wanted === "own" ? ownKey("") : wanted;
    onChange(row, {
      kind,
      reads: readsOf(kind, look.letters ?? "L"),
      spans: {},
      green: kind === "normal" ? (look.green ?? "up") : null,
    });
  };
  const handleKey = (event: KeyboardEvent<HTMLTableRowElement>) => {
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey) return;
    const meant = meaningOf(event.key);
    const beside = besideOf(event.currentTarget, event.key);
    if (beside) beside.focus();
    else if (event.key === "Delete") handleLeaveOut();
    else if (event.key === "Enter" && look.kind === "unknown" && likeliest) handleKind(likeliest);
    else if (event.key === "Enter" && look.readable) onOpen(row);
    else if (meant === "g" && look.kind === "normal")
      onChange(row, { green: green === "up" ? "down" : "up" });
    else if (KIND_OF_KEY[meant] && look.readable) handleKind(KIND_OF_KEY[meant]);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const held = Object.entries(look.reads ?? {});
  return (
    <>
      <tr
        tabIndex={0}
        data-file="row"
        aria-label={look.name}
        onKeyDown={handleKey}
        className={`focus-visible:-outline-offset-2 ${isLeftOut || isByLayers ? "opacity-60" : ""}`}
      >
        <td className="w-[46px]">
          {look.readable && (
            <img
              alt=""
              loading="lazy"
              src={`/api/originals/${look.sha256}/thumbnail`}
              className="size-[34px] bg-surround object-cover"
            />
          )}
        </td>
        <td className="w-[230px] min-w-[230px] 2xl:w-[320px]">
          <button
            type="button"
            className="file-name flex cursor-pointer items-baseline gap-1.5 text-left
              [overflow-wrap:anywhere]"
            aria-expanded={isOpen}
            disabled={!look.readable}
            onClick={() => onOpen(row)}
          >
            <i aria-hidden className="w-2 text-ink2 not-italic">
              {look.readable && (isOpen ? "▾" : "▸")}
            </i>
            {look.name}
          </button>
        </td>
        <td>
          {look.readable && (
            <TypedField
              label={`Set of ${look.name}`}
              className="w-32"
              value={setOf(line)}
              onDone={(name) => name.trim() !== "" && onChange(row, { set_name: name.trim() })}
            />
          )}
        </td>
        <td>
          {look.readable ? (
            <Choice
              label={`What ${look.name} is`}
              className="w-[150px]"
              options={[
                ["unknown", isByLayers ? "By its layers" : guessOf(likeliest)],
                ...KINDS.map(([kind, title]) => [kind, title] as const),
              ]}
              value={isByLayers ? "unknown" : ownOr(look.kind ?? "unknown")}
              onChange={handleKind}
            />
          ) : (
            <span className="text-stop">■ not read</span>
          )}
          {isOwn(look.kind ?? "") && (
            <OwnName
              label={`What the map in ${look.name} is called`}
              value={look.kind ?? ""}
              onDone={(kind) => onChange(row, { kind, reads: readsOf(kind, look.letters ?? "L") })}
            />
          )}
        </td>
        <td>
          {look.kind === "normal" && (
            <Choice
              label={`Green of ${look.name}`}
              options={GREENS}
              value={green}
              onChange={(next) => onChange(row, { green: next })}
            />
          )}
        </td>
        <td className="whitespace-nowrap">
          {look.readable && (
            <>
              {look.width} × {look.height}
              <br />
              <span className="text-sm text-ink2">
                {look.depth} bit {look.letters}
              </span>
            </>
          )}
        </td>
        <td className="whitespace-nowrap">
          {look.readable && !isByLayers && `${Math.round((look.confidence ?? 0) * 100)} %`}
        </td>
        <td>
          {look.layers.length > 0 && <LayersChoice row={row} onLayers={onLayers} />}
          {isLeftOut && (
            <p className="text-ink2">Left out. Press Delete on the row to take it back.</p>
          )}
          {tiles.length + gaps.length > 0 && <TilesLine line={line} />}
          {place?.rival && !isByLayers && (
            <RivalLine
              rival={place.rival}
              onOwnSet={() => onChange(row, { set_name: `${look.set_name} photo` })}
            />
          )}
          {place?.misfit && (
            <MisfitLine misfit={place.misfit} onFit={(fit) => onChange(row, { fit })} />
          )}
          {!isByLayers && look.because?.join("; ")}
          {held.some(([letters]) => letters.length === 1 && letters !== "L") && (
            <p className="text-ink2">
              {held.map(([letters, key]) => `${letters} ${titleOf(key).toLowerCase()}`).join(" · ")}
            </p>
          )}
          {look.kind === "packed" && !isOpen && (
            <ReadAs look={look} onChange={(said) => onChange(row, said)} />
          )}
          {look.kind === "unknown" && likeliest && !isByLayers && (
            <WhichKey likeliest={likeliest} others={others} />
          )}
          {foundOn(line).map((f) => (
            <FindingLine key={f.text} finding={f} />
          ))}
          {look.findings?.some(({ id }) => id === "surroundings") && !isLeftOut && (
            <AsSurroundings look={look} onKept={handleLeaveOut} />
          )}
        </td>
        <td className="pr-1.5">
          <button
            type="button"
            className="button w-[26px] justify-center px-0"
            aria-label={isLeftOut ? `Take back ${look.name}` : `Leave out ${look.name}`}
            onClick={handleLeaveOut}
          >
            {isLeftOut ? "+" : "×"}
          </button>
        </td>
      </tr>
      {isOpen && <Opened row={row} onChange={onChange} />}
    </>
  );
}

const guessOf = (kind: string | undefined) => (kind ? `${titleOf(kind)}?` : "Which?");
const ownOr = (kind: string) => (isOwn(kind) ? "own" : kind);

/** What a file holds, channel by channel, and normals by a turning light; brought into view. */
function Opened({ row, onChange }: Pick<FileRowProps, "onChange"> & { row: Row }) {
  const { look } = row;
  const place = useRef<HTMLTableRowElement>(null);
  useEffect(() => {
    // newer browsers answer a promise, which is no cleanup
    place.current?.scrollIntoView({ block: "nearest" });
  }, []);
  return (
    <tr ref={place} aria-label={`${look.name}, opened`}>
      <td />
      <td colSpan={8} className="py-3">
        {look.kind === "normal" && Object.keys(look.reads ?? {}).length > 0 && (
          <div className="mb-4">
            <LightTest look={look} onGreen={(green) => onChange(row, { green })} />
          </div>
        )}
        <Channels look={look} onChange={(change) => onChange(row, change)} />
      </td>
    </tr>
  );
}

/** Lines are made anew with every file that arrives; a row is drawn anew only where it differs. */
function isSameRow(a: FileRowProps, b: FileRowProps): boolean {
  return a.isOpen === b.isOpen && isSameLine(a.line, b.line);
}

type Rival = NonNullable<Arranged["rival"]>;
type Misfit = NonNullable<Arranged["misfit"]>;

const RIVALS: Record<
  Rival["relation"],
  { grade: "note" | "look" | "stop"; text: string; says: (rival: Rival, maps: string) => string }
> = {
  copy: {
    grade: "note",
    text: "text-ink2",
    says: (rival, maps) => `Its ${maps} is not taken: ${rival.name} holds the same.`,
  },
  worse: {
    grade: "look",
    text: "text-look",
    says: (rival, maps) =>
      `Its ${maps} is not taken: ${rival.name} holds it too and is stored better.`,
  },
  rival: {
    grade: "stop",
    text: "text-stop",
    says: (rival, maps) =>
      `${rival.name} holds ${maps} too. Say what one of them is, or leave it out.`,
  },
  preview: {
    grade: "note",
    text: "text-ink2",
    says: (rival) => `Not taken: it shows the material, whose color ${rival.name} gives.`,
  },
};

function RivalLine({ rival, onOwnSet }: { rival: Rival; onOwnSet: () => void }) {
  const { grade, text, says } = RIVALS[rival.relation];
  return (
    <p className={`flex items-baseline gap-1.5 ${text}`}>
      <GradeMark grade={grade} />
      <span>
        {says(rival, rival.keys.map(titleOf).join(" and ").toLowerCase())}
        {rival.relation === "preview" && (
          <button type="button" className="button ml-2" onClick={onOwnSet}>
            Make it a set of its own
          </button>
        )}
      </span>
    </p>
  );
}

type MisfitLineProps = { misfit: Misfit; onFit: (fit: "crop" | "stretch") => void };

function MisfitLine({ misfit: { differs, width, height }, onFit }: MisfitLineProps) {
  const isShape = differs === "shape";
  return (
    <p className={`flex items-baseline gap-1.5 ${isShape ? "text-stop" : "text-look"}`}>
      <GradeMark grade={isShape ? "stop" : "look"} />
      <span>
        {isShape ? "Another shape" : "Another size"} than its set, which is {width} × {height}.{" "}
        <button
          type="button"
          className="button ml-1"
          onClick={() => onFit(isShape ? "crop" : "stretch")}
        >
          {isShape ? "Crop it" : "Resize it"}
        </button>
      </span>
    </p>
  );
}

/** One press keeps a picture of the surroundings with the project; its row is done with then. */
function AsSurroundings({ look, onKept }: { look: Row["look"]; onKept: () => void }) {
  const { keep } = useEnvironments();
  return (
    <>
      <button
        type="button"
        className="button mt-1"
        disabled={keep.isPending}
        onClick={() => keep.mutate(look, { onSuccess: onKept })}
      >
        Keep as light for the view
      </button>
      <Problem error={keep.error} />
    </>
  );
}

/** What a file may be, and the keys that say so. */
function WhichKey({ likeliest, others }: { likeliest: string; others: string[] }) {
  const chosen = useKeys((keys) => keys.chosen);
  const keyed = others.filter((kind) => KEY_OF_KIND[kind]);
  const told = keyed.map(
    (kind) =>
      `, ${shownKey(keyFor(chosen, "intake", KEY_OF_KIND[kind]))} if it is a ${titleOf(kind).toLowerCase()}`,
  );
  return (
    <p className="text-ink2">
      Press Enter on the row if it is {titleOf(likeliest).toLowerCase()}
      {told.join("")}.
    </p>
  );
}

/** The tiles that one line stands for, and those that it should. */
function TilesLine({ line }: { line: Line }) {
  const tiles = tilesOf(line);
  return (
    <p className="mb-1">
      {tiles.length} {tiles.length === 1 ? "tile" : "tiles"}: {runsOf(tiles)}
      {line.gaps.length > 0 && (
        <span className="block text-look">◆ no file for {runsOf(line.gaps)}</span>
      )}
    </p>
  );
}

const titleOf = (kind: string) =>
  (isOwn(kind) ? ownName(kind) : undefined) ?? KINDS.find(([key]) => key === kind)?.[1] ?? kind;

const STEPS = new Map<string, "previousElementSibling" | "nextElementSibling">([
  ["ArrowUp", "previousElementSibling"],
  ["ArrowDown", "nextElementSibling"],
]);
const isFileRow = (element: Element): element is HTMLElement =>
  element instanceof HTMLElement && element.dataset.file !== undefined;

function besideOf(row: HTMLElement, key: string): HTMLElement | null {
  const step = STEPS.get(key);
  let beside = step ? row[step] : null;
  while (step && beside && !isFileRow(beside)) beside = beside[step];
  return beside && isFileRow(beside) ? beside : null;
}

/** A file of several pictures: the one that it is seen as, or each of them as a file of its own. */
function LayersChoice({ row, onLayers }: Pick<FileRowProps, "onLayers"> & { row: Row }) {
  const { look, isByLayers } = row;
  const count = look.layers.length;
  return (
    <p className="mb-1 flex items-center gap-2">
      Take
      <Choice
        label={`What of ${look.name} is taken`}
        options={[
          ["merged", "its merged picture"],
          ["layers", count === 1 ? "its one layer" : `each of its ${count} layers`],
        ]}
        value={isByLayers ? "layers" : "merged"}
        onChange={(way) => void onLayers(row, way)}
      />
    </p>
  );
}
