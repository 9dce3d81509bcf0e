import { useRef, useState } from "react";
import type { TextureSet } from "../../api/client";
import { under } from "../../parts/under";
import { useKey } from "../../parts/useKey";
import { bodyWorn } from "../../view3d/names";
import type { Edit } from "./edit";
import { useSize } from "./hooks";
import { Pane } from "./Pane";
import { usePrepared } from "./prepare/usePrepared";
import { Readout } from "./Readout";
import { SceneOptions } from "./SceneOptions";
import type { Keeper, Pointed } from "./stageProps";
import { seenIn } from "./tiles";
import { useBoth, useTitles } from "./useBoth";
import { FlatOptions, LitOptions, ViewerBar } from "./ViewerBar";
import { type Look, PANES, type ShownTile, useTile, useView } from "./view";

type ViewerProps = {
  set: TextureSet;
  edit: Edit;
  chosen: string;
  isWhole: boolean; // the lineage is there too
};

const KEY_OF: Record<string, Look> = { p: "pair", f: "flat", l: "lit" };

/**
 * Everything but the lineage: the chosen map flat beside the whole material lit, or one of the two.
 */
export function Viewer({ set, edit, chosen, isWhole }: ViewerProps) {
  const { recipe, isMoving } = edit;
  const look = useView((view) => view.look);
  const isSceneOpen = useView((view) => view.isSceneOpen) && look !== "flat";
  const isHeld = useViewKeys();
  const keepers = { flat: useRef<Keeper | null>(null), lit: useRef<Keeper | null>(null) };
  const [pointed, setPointed] = useState<Pointed | null>(null);
  const tile = useTile(set.tiles);
  const tiles = { flat: tile, lit: useLitTile(tile, recipe.facts.edges) };
  const shown = { set, edit, chosen, isHeld, prepared: usePrepared(edit) };
  const sizes = { flat: useSize(), lit: useSize() };
  const pairs = {
    flat: useBoth({ pane: "flat", size: sizes.flat[1], tile: tiles.flat, ...shown }),
    lit: useBoth({ pane: "lit", size: sizes.lit[1], tile: tiles.lit, ...shown }),
  };
  const titles = useTitles(set, chosen, shown.prepared !== null);
  const states = PANES[look].map((pane) => pairs[pane].state);
  const isPair = look === "pair";
  return (
    <section
      className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_34px]"
      aria-label="Viewer"
    >
      <ViewerBar
        chosen={chosen}
        tiles={set.tiles}
        edges={recipe.facts.edges}
        others={titles.others}
        seenBy={titles.seenBy}
      />
      <div
        className={`grid min-h-0 ${isSceneOpen ? "grid-cols-[minmax(0,1fr)_264px]" : ""}`}
        data-state={["problem", "computing"].find((one) => states.includes(one)) ?? "ready"}
        data-testid="viewer"
      >
        <div
          className={`grid min-h-0 min-w-0 gap-px bg-hair
            ${isPair ? "grid-cols-2 max-[1180px]:grid-cols-1" : ""}`}
        >
          {PANES[look].map((pane) => (
            <div
              key={pane}
              className={
                isPair ? "grid min-h-0 min-w-0 grid-rows-[34px_minmax(0,1fr)]" : "grid min-h-0"
              }
            >
              {isPair && (
                <div className="flex min-w-0 items-center gap-2 overflow-x-auto bg-paper px-3 text-sm">
                  {pane === "flat" ? (
                    <FlatOptions chosen={chosen} />
                  ) : (
                    <LitOptions edges={recipe.facts.edges} />
                  )}
                </div>
              )}
              <Pane
                pane={pane}
                set={set}
                edit={edit}
                chosen={chosen}
                canOpen={isWhole || pane === "flat"}
                tile={tiles[pane]}
                both={pairs[pane]}
                sized={sizes[pane]}
                titles={titles}
                pointed={
                  pointed && pointed.pane !== pane
                    ? seenIn(pointed.texel, set.tiles, tiles[pointed.pane], tiles[pane])
                    : null
                }
                onPoint={setPointed}
                keeper={keepers[pane]}
              />
            </div>
          ))}
        </div>
        {isSceneOpen && <SceneOptions set={set} />}
      </div>
      <Readout
        set={set}
        recipe={recipe}
        tile={pointed ? tiles[pointed.pane] : tile}
        texel={pointed?.texel ?? null}
        isMoving={isMoving}
      />
    </section>
  );
}

/**
 * The tiles that the lit picture shows: a mesh of one's own wears all of them, whichever is looked
 * at flat.
 */
function useLitTile(tile: ShownTile | null, edges: { x: string; y: string }): ShownTile | null {
  const isOwn = useView(({ body, mesh }) => typeof bodyWorn(body, mesh, edges) === "object");
  return isOwn && tile !== null ? "all" : tile;
}

/** Whether Space is held, which shows the other picture; P, F, L, C and T change the view. */
function useViewKeys(): boolean {
  const [isHeld, setHeld] = useState(false);
  useKey(
    (key, event) => {
      const { pictures, set, testLight } = useView.getState();
      if (KEY_OF[key]) set({ look: KEY_OF[key] });
      else if (key === "c") set({ pictures: pictures === "one" ? "divide" : "one" });
      else if (key === "t") testLight();
      else if (key === " " && !under(event.target)?.closest("button, a, [role=slider]")) {
        event.preventDefault();
        setHeld(true);
      }
    },
    (key) => key === " " && setHeld(false),
  );
  return isHeld;
}
