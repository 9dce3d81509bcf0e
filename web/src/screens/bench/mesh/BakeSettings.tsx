import type { TextureSet } from "../../../api/client";
import { type MapName, type MeshLook, useBakeable, type Worn } from "../../../api/meshes";
import { Choice } from "../../../parts/Choice";
import { Hint } from "../../../parts/Hint";
import { Line } from "../../../parts/Line";
import { NumberField } from "../../../parts/NumberField";
import { Segments } from "../../../parts/Segments";
import { SIZES } from "../../../parts/sizes";
import { meaning } from "../../../parts/words";
import type { Edit } from "../edit";
import { bakedTiles } from "./bakedTiles";
import { lackOf } from "./lacking";
import { MaterialChoice } from "./MaterialChoice";

const RAYS = [
  ["64", "64, to look"],
  ["256", "256, to deliver"],
] as const;
const SAMPLES = [
  ["1", "1 a texel"],
  ["2", "4 a texel"],
  ["4", "16 a texel"],
] as const;
const AS_THE_SET = "";

type BakeSettingsProps = { set: TextureSet; edit: Edit; worn: Worn; look: MeshLook | null };

/** What is baked for the set, and how; every change is one step of undo. */
export function BakeSettings({ set, edit, worn, look }: BakeSettingsProps) {
  const keep = (changed: Partial<Worn>) =>
    edit.keep({ ...edit.recipe, worn: { ...worn, ...changed } });
  const { width, height } = set.recipe.frame ?? set.recipe.facts;
  return (
    <>
      <MaterialChoice
        look={look}
        material={worn.material}
        onChange={(material, called) => keep({ material, called })}
      />
      {worn.high.length > 0 && !worn.cage && (
        <Line label="Offset" says={meaning("offset of rays")}>
          <NumberField
            label="How far above the low mesh rays start"
            value={worn.offset?.toString() ?? ""}
            low={0.001}
            high={50}
            unit="%"
            isEmptyTaken
            placeholder="found"
            className="w-20"
            onDone={(offset) => keep({ offset })}
          />
          <span className="text-sm text-ink2">% of its size</span>
        </Line>
      )}
      <Line label="Rays" says={meaning("rays of occlusion")}>
        <Segments
          label="Rays of each texel for occlusion and thickness"
          options={RAYS}
          value={String(worn.rays)}
          onChange={(rays) => keep({ rays: Number(rays) })}
        />
      </Line>
      <Line label="Samples" says={meaning("samples of a bake")}>
        <Choice
          label="Samples of each texel"
          className="w-28"
          options={SAMPLES}
          value={String(worn.samples)}
          onChange={(samples) => keep({ samples: Number(samples) })}
        />
        <Choice
          label="Size of the baked maps"
          className="w-36"
          options={[
            [AS_THE_SET, `${Math.max(width, height)} px, as the set`],
            ...SIZES.map((px) => [String(px), `${px} px`] as const),
          ]}
          value={worn.size?.toString() ?? AS_THE_SET}
          onChange={(px) => keep({ size: px ? Number(px) : null })}
        />
      </Line>
      {look && look.tiles.length > 1 && <Tiles set={set} worn={worn} look={look} keep={keep} />}
      <Line label="Maps" isHigh>
        <Maps worn={worn} look={look} onChange={(maps) => keep({ maps })} />
      </Line>
      <Hint says={meaning("beyond the islands")}>
        <label className="flex items-center gap-2 pl-[76px] text-sm text-ink2">
          <input
            type="checkbox"
            checked={worn.is_padded}
            onChange={(e) => keep({ is_padded: e.target.checked })}
          />
          Delivered maps go on beyond the islands
        </label>
      </Hint>
    </>
  );
}

type TilesProps = {
  set: TextureSet;
  worn: Worn;
  look: MeshLook;
  keep: (changed: Partial<Worn>) => void;
};

/**
 * Whether each tile of the mesh has a picture; of a set whose files lie in tiles, or in none, that
 * is known.
 */
function Tiles({ set, worn, look, keep }: TilesProps) {
  const isKnown = Object.values(set.recipe.sources).some((source) => !source.baked);
  return (
    <Hint
      says={
        isKnown
          ? "The files of this set tell whether it lies in tiles."
          : "Its UV lie in these tiles. Off, only 1001 is baked."
      }
    >
      <label className="flex items-center gap-2 pl-[76px] text-sm text-ink2">
        <input
          type="checkbox"
          checked={bakedTiles(set, worn, look).length > 0}
          disabled={isKnown}
          onChange={(e) => keep({ is_in_tiles: e.target.checked })}
        />
        Each of its {look.tiles.length} tiles
      </label>
    </Hint>
  );
}

type MapsProps = { worn: Worn; look: MeshLook | null; onChange: (maps: MapName[]) => void };

function Maps({ worn, look, onChange }: MapsProps) {
  const bakeable = useBakeable();
  return (
    <span className="grid grow grid-cols-2 gap-x-2 gap-y-0.5">
      {bakeable.map(({ map, title, ...needs }) => {
        const lacks = lackOf(needs, worn, look);
        const isOn = worn.maps.includes(map);
        return (
          <Hint key={map} says={lacks}>
            <label className={`flex items-center gap-1.5 ${lacks ? "text-ink2" : ""}`}>
              <input
                type="checkbox"
                checked={isOn && !lacks}
                disabled={!!lacks}
                onChange={() =>
                  onChange(
                    bakeable
                      .map((row) => row.map)
                      .filter((key) => (key === map ? !isOn : worn.maps.includes(key))),
                  )
                }
              />
              {title}
            </label>
          </Hint>
        );
      })}
    </span>
  );
}
