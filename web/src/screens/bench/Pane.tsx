import { lazy, Suspense, useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import type { TextureSet } from "../../api/client";
import { Hint } from "../../parts/Hint";
import { Key } from "../../parts/Key";
import { handOver } from "../../parts/saveBlob";
import { ownLight } from "../../view3d/names";
import { leftTitle } from "./comparing";
import { Divide } from "./Divide";
import type { Edit } from "./edit";
import { FlatStage } from "./FlatStage";
import { Histogram } from "./Histogram";
import type { useSize } from "./hooks";
import { LightArrow } from "./LightArrow";
import { LightDome } from "./LightDome";
import { MarksOver } from "./mesh/MarksOver";
import type { Place } from "./prepare/drawing";
import { PrepareOver } from "./prepare/PrepareOver";
import type { Keeper, Pointed, Texel } from "./stageProps";
import { BrushOver } from "./touch/BrushOver";
import type { Both, useTitles } from "./useBoth";
import { useLight } from "./useLight";
import { usePicking } from "./usePicking";
import { type Pane as Name, type ShownTile, useView } from "./view";

const LitStage = lazy(() => import("./LitStage"));

type PaneProps = {
  pane: Name;
  set: TextureSet;
  edit: Edit;
  chosen: string;
  canOpen: boolean; // the light, which takes its time, waits until the lineage is there
  tile: ShownTile | null;
  both: Both;
  sized: ReturnType<typeof useSize>;
  titles: ReturnType<typeof useTitles>;
  pointed: Texel | null; // in another pane, as this one shows it
  onPoint: (pointed: Pointed | null) => void;
  keeper: React.RefObject<Keeper | null>;
};

/** One picture of the bench, or two under one camera: a map flat, or the material lit. */
export function Pane(props: PaneProps) {
  const { pane, set, edit, chosen, canOpen, tile, both, titles, pointed, onPoint, keeper } = props;
  const [box, size] = props.sized;
  const { pictures, gain, hasHistogram, marked, hasDoubt, change } = useView(
    useShallow(({ pictures, gain, hasHistogram, marked, hasDoubt, set }) => ({
      pictures,
      gain,
      hasHistogram,
      marked,
      hasDoubt,
      change: set,
    })),
  );
  const { picks, onPick, brushing } = usePicking(set, chosen, edit);
  const { first, second, isSwapped, isSecondThere } = both;
  const isPreparing = useView((view) => view.prep !== null);
  const isBehind = both.state === "computing";
  const isPainting = useView((view) => view.brush?.master === chosen);
  const hasMarks = useView((view) => view.meshMarks.length > 0 && view.mesh !== null);
  const over = useMemo(() => {
    if (isPreparing) return (at: Place) => <PrepareOver edit={edit} at={at} />;
    if (isPainting)
      return (at: Place) => <BrushOver edit={edit} at={at} tile={tile} isBehind={isBehind} />;
    return hasMarks ? (at: Place) => <MarksOver at={at} tile={tile} /> : null;
  }, [isPreparing, isPainting, isBehind, hasMarks, edit, tile]);
  const isLit = pane === "lit";
  const isMarked =
    !isLit &&
    marked?.set === set.id &&
    (tile === null || tile === marked.tile) &&
    marked.master === chosen &&
    edit.recipe === set.recipe;
  const row = set.masters.find((m) => m.key === chosen);
  const ofTile = tile === null ? "" : `&tile=${tile}`;
  const asked = `head=${set.head}&master=${chosen}${ofTile}`;
  const isDoubted = hasDoubt && !isLit && picks.length > 0 && tile !== "all";
  const markings = [
    isMarked && `/api/sets/${set.id}/marks?finding=${marked.finding}&${asked}`,
    isDoubted && `/api/sets/${set.id}/doubt?${asked}`,
  ];
  const here = titles.here[pane];
  const Stage = isLit ? LitStage : FlatStage;
  return (
    <div
      ref={box}
      className="relative min-h-0 min-w-0 overflow-hidden bg-surround"
      data-pane={pane}
      data-state={both.state}
      onPointerEnter={() => change({ active: pane })}
      onFocus={() => change({ active: pane })}
    >
      {first && canOpen && (
        <Suspense fallback={<Tag side="left">Opening the light…</Tag>}>
          <Stage
            first={first}
            second={second}
            picks={picks}
            onPick={onPick}
            brushing={brushing}
            marks={markings.find((url) => url !== false) || null}
            isSwapped={isSwapped}
            size={size}
            label={isLit ? `${set.name}, lit` : `Picture of ${here}`}
            pointed={pointed}
            onPoint={(texel) => onPoint(texel && { pane, texel })}
            keeper={keeper}
            over={isLit ? null : over}
          />
        </Suspense>
      )}
      <Tag side="left">
        {leftTitle({
          here,
          there: titles.there,
          pictures,
          gain,
          isSwapped,
          hasOther: isSecondThere,
        })}
        {both.freshness}
      </Tag>
      {(pictures === "divide" || pictures === "beside") && (
        <Tag side="right">{isSecondThere ? titles.there : "Nothing before this step yet"}</Tag>
      )}
      {pictures === "divide" && <Divide />}
      {isLit && <OverLit size={size} />}
      {!isLit && hasHistogram && first && row && <Histogram picture={first} master={row} />}
      <StageButtons
        keeper={keeper}
        name={`${set.name} ${isLit ? "lit" : here}.png`}
        isLit={isLit}
      />
    </div>
  );
}

/** What lies over the lit picture: the lamp, and over a test of the light which way it shines. */
function OverLit({ size }: { size: { width: number; height: number } }) {
  const { situation } = useLight();
  const isTest = useView(
    ({ pictures, look, other, body, isClay }) =>
      pictures === "divide" && other[look] === "green" && body === "plane" && isClay,
  );
  return (
    <>
      {isTest && <LightArrow size={size} />}
      {ownLight(situation) === null && <LightDome />}
    </>
  );
}

type StageButtonsProps = {
  keeper: React.RefObject<Keeper | null>;
  name: string;
  isLit: boolean;
};

function StageButtons({ keeper, name, isLit }: StageButtonsProps) {
  const look = useView((view) => view.look);
  const testLight = useView((view) => view.testLight);
  const keepPicture = async () => {
    const blob = await keeper.current?.();
    if (blob) handOver(blob, name);
  };
  return (
    <span className="absolute bottom-3.5 left-3 flex flex-col items-start gap-1.5">
      <Hint says="Keep this view as a PNG; the eye stays where it is from set to set">
        <button type="button" className="button" onClick={() => void keepPicture()}>
          Keep picture
        </button>
      </Hint>
      {(isLit || look === "flat") && (
        <Hint says="Both readings of green under a lamp at a known side">
          <button type="button" className="button" onClick={testLight}>
            Light test <Key at="bench" is="t" />
          </button>
        </Hint>
      )}
    </span>
  );
}

function Tag({ side, children }: { side: "left" | "right"; children: React.ReactNode }) {
  return (
    <span
      className={`pointer-events-none absolute top-3 max-w-[70%] rounded-[3px] bg-tag px-2 py-0.5
        text-on-tag ${side === "left" ? "left-3" : "right-3"}`}
    >
      {children}
    </span>
  );
}
