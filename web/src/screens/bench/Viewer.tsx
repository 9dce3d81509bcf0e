import { lazy, Suspense, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Recipe, TextureSet } from "../../api/client";
import { useTargets } from "../../api/queries";
import { Hint } from "../../parts/Hint";
import { useKey } from "../../parts/useKey";
import {
  endsOf,
  freshness,
  hasOther,
  keyOf,
  leftTitle,
  otherRecipe,
  othersOf,
  otherTitle,
} from "./comparing";
import { Divide } from "./Divide";
import type { Edit } from "./edit";
import { FlatStage } from "./FlatStage";
import { Histogram } from "./Histogram";
import { useSize, useTurns, useVersion } from "./hooks";
import { LightArrow } from "./LightArrow";
import { LightDome } from "./LightDome";
import { type Picture, usePicture } from "./pictures";
import { Readout } from "./Readout";
import { SceneOptions } from "./SceneOptions";
import type { Keeper, Texel } from "./stageProps";
import { usePicking } from "./usePicking";
import { ViewerBar } from "./ViewerBar";
import { type Other, type ShownTile, useTile, useView } from "./view";

const LitStage = lazy(() => import("./LitStage"));

const PX = { flat: { moving: 512, resting: 1024 }, lit: { moving: 256, resting: 1024 } };

type ViewerProps = { set: TextureSet; edit: Edit; chosen: string };

/** Everything but the lineage: one picture, or two under one camera and one light. */
export function Viewer({ set, edit, chosen }: ViewerProps) {
  const { recipe, isMoving } = edit;
  const view = useView(
    useShallow(({ look, pictures, gain, marked, hasHistogram, other }) => ({
      look,
      pictures,
      gain,
      marked,
      hasHistogram,
      other: other[look],
    })),
  );
  const { look, pictures } = view;
  const isHeld = useHeldSpace();
  const isTurned = useTurns(pictures === "blink");
  const keeper = useRef<Keeper | null>(null);
  const [texel, setTexel] = useState<Texel | null>(null);
  const [box, size] = useSize();
  const tile = useTile(set.tiles);
  const px = PX[look][isMoving ? "moving" : "resting"];
  const { first, second, titles, isSecondThere } = useBoth(set, recipe, chosen, px, tile, isHeld);
  const { picks, onPick } = usePicking(set, chosen, edit);
  const { others, seenBy, here, there } = titles;
  const isSwapped = (isHeld && pictures === "one") || isTurned;
  const problem = first.problem ?? second.problem;
  const isBehind = first.isBehind || second.isBehind;
  const isMarked =
    look === "flat" &&
    view.marked?.set === set.id &&
    (tile === null || tile === view.marked.tile) &&
    view.marked.master === chosen &&
    recipe === set.recipe;
  const row = set.masters.find((m) => m.key === chosen);
  const Stage = look === "lit" ? LitStage : FlatStage;
  return (
    <section
      className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_34px]"
      aria-label="Viewer"
    >
      <ViewerBar
        chosen={chosen}
        tiles={set.tiles}
        ends={endsOf(recipe.facts.edges)}
        others={others}
        seenBy={seenBy}
      />
      <div
        ref={box}
        className="relative min-h-0 overflow-hidden bg-surround"
        data-state={stateOf(problem, isBehind || !first.picture)}
        data-testid="viewer"
      >
        {first.picture && (
          <Suspense fallback={<Tag side="left">Opening the light…</Tag>}>
            <Stage
              first={first.picture}
              second={second.shown}
              picks={picks}
              onPick={onPick}
              marks={
                isMarked
                  ? `/api/sets/${set.id}/marks?head=${set.head}&finding=${view.marked?.finding}&master=${chosen}${tile === null ? "" : `&tile=${tile}`}`
                  : null
              }
              isSwapped={isSwapped}
              size={size}
              label={look === "lit" ? `${set.name}, lit` : `Picture of ${here}`}
              onPoint={setTexel}
              keeper={keeper}
            />
          </Suspense>
        )}
        <Tag side="left">
          {leftTitle({
            here,
            there,
            pictures,
            gain: view.gain,
            isSwapped,
            hasOther: isSecondThere,
          })}
          {freshness(problem, isBehind, isMoving ? px : null)}
        </Tag>
        {(pictures === "divide" || pictures === "beside") && (
          <Tag side="right">{isSecondThere ? there : "Nothing before this step yet"}</Tag>
        )}
        {pictures === "divide" && <Divide />}
        {look === "lit" && <OverLit size={size} />}
        {look === "flat" && view.hasHistogram && first.picture && row && (
          <Histogram picture={first.picture} master={row} />
        )}
        <StageButtons keeper={keeper} name={`${set.name} ${look === "lit" ? "lit" : here}.png`} />
      </div>
      <Readout set={set} recipe={recipe} tile={tile} texel={texel} isMoving={isMoving} />
    </section>
  );
}

const stateOf = (problem: Error | null | undefined, isComputing: boolean) => {
  if (problem) return "problem";
  return isComputing ? "computing" : "ready";
};

/** Both pictures, and what they are called. */
function useBoth(
  set: TextureSet,
  recipe: Recipe,
  chosen: string,
  px: number,
  tile: ShownTile | null,
  isHeld: boolean,
) {
  const { look, pictures, other } = useView(
    useShallow(({ look, pictures, other }) => ({ look, pictures, other: other[look] })),
  );
  const { data: targets = [] } = useTargets();
  const version = useVersion(set.id, other);
  const before = set.before;
  const wanted = look === "lit" ? "lit" : chosen;
  const isShown = pictures !== "one" || isHeld;
  const made = otherRecipe({ look, other, isShown, recipe, before, version });
  const first = usePicture("first", recipe, wanted, px, tile);
  const master = look === "flat" ? keyOf(other, "master") : null;
  const second = usePicture("second", made, master ?? wanted, px, tile, keyOf(other, "target"));
  const seenBy = targets.map(({ target }): [Other, string] => [
    `target:${target.key}`,
    target.title,
  ]);
  const others = othersOf(set, look, chosen, other);
  const title = set.masters.find((m) => m.key === chosen)?.title ?? chosen;
  return {
    first,
    second: {
      ...second,
      shown: isShown ? secondOf(made, second.picture, first.picture, look, other) : undefined,
    },
    titles: {
      others,
      seenBy,
      here: look === "lit" ? "As it is" : title,
      there: otherTitle(other, others, seenBy),
    },
    isSecondThere: hasOther({ other, before, version }),
  };
}

/** A misreading shows the same maps in another way; everything else has a picture of its own. */
function secondOf(
  made: Recipe | null,
  own: Picture | undefined,
  first: Picture | undefined,
  look: string,
  other: Other,
) {
  if (made !== null) return own;
  return look === "lit" && (other === "green" || other === "bare") ? first : undefined;
}

/** Whether Space is held, which shows the other picture; V, C and T change the view. */
function useHeldSpace(): boolean {
  const [isHeld, setHeld] = useState(false);
  useKey(
    (key, event) => {
      const { look, pictures, set, testLight } = useView.getState();
      if (key === "v") set({ look: look === "flat" ? "lit" : "flat" });
      else if (key === "c") set({ pictures: pictures === "one" ? "divide" : "one" });
      else if (key === "t") testLight();
      else if (key === " " && !(event.target as HTMLElement).closest("button, a, [role=slider]")) {
        event.preventDefault();
        setHeld(true);
      }
    },
    (key) => key === " " && setHeld(false),
  );
  return isHeld;
}

/**
 * What lies over the lit picture: the lamp, over a test of the light which way it shines, and what
 * the scene is made of.
 */
function OverLit({ size }: { size: { width: number; height: number } }) {
  const isTest = useView(
    ({ pictures, other, body, isClay }) =>
      pictures === "divide" && other.lit === "green" && body === "plane" && isClay,
  );
  const isSceneOpen = useView((view) => view.isSceneOpen);
  return (
    <>
      {isTest && <LightArrow size={size} />}
      <LightDome />
      {isSceneOpen && <SceneOptions />}
    </>
  );
}

function StageButtons({ keeper, name }: { keeper: React.RefObject<Keeper | null>; name: string }) {
  const testLight = useView((view) => view.testLight);
  const keepPicture = async () => {
    const blob = await keeper.current?.();
    if (!blob) return;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(blob);
    link.download = name;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <span className="absolute bottom-3.5 left-3 flex flex-col items-start gap-1.5">
      <Hint says="Keep this view as a PNG; the eye stays where it is from set to set">
        <button type="button" className="button" onClick={() => void keepPicture()}>
          Keep picture
        </button>
      </Hint>
      <Hint says="Both readings of green under a lamp at a known side">
        <button type="button" className="button" onClick={testLight}>
          Light test <kbd>T</kbd>
        </button>
      </Hint>
    </span>
  );
}

function Tag({ side, children }: { side: "left" | "right"; children: React.ReactNode }) {
  return (
    <span
      className={`pointer-events-none absolute top-3 max-w-[70%] rounded-[3px] bg-tag px-2 py-0.5 text-on-tag ${side === "left" ? "left-3" : "right-3"}`}
    >
      {children}
    </span>
  );
}
