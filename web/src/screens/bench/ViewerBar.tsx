import { useEffect } from "react";
import { useShallow } from "zustand/react/shallow";
import { Choice } from "../../parts/Choice";
import { Hint } from "../../parts/Hint";
import { Segments } from "../../parts/Segments";
import { BODIES, bodyWorn } from "../../view3d/names";
import { endsOf, PICTURES } from "./comparing";
import { useLight } from "./useLight";
import { type Other, useTile, useView } from "./view";

const GAINS = [1, 2, 4, 8, 16, 32].map((n) => [String(n), `× ${n}`] as const);
const TIMES = [1, 2, 3] as const; // how often a picture is repeated
const CHANNELS = ["0", "1", "2"] as const;
const PARTS: Record<string, string[]> = {
  base_color: ["red", "green", "blue"],
  emissive: ["red", "green", "blue"],
  normal: ["x", "y", "z"],
};

type ViewerBarProps = {
  chosen: string;
  tiles: number[]; // UDIM numbers of a set in tiles
  edges: { x: string; y: string };
  others: [Other, string][];
  seenBy: [Other, string][];
};

/** How the picture is looked at, and what stands beside it. */
export function ViewerBar({ chosen, tiles, edges, others, seenBy }: ViewerBarProps) {
  const look = useView((view) => view.look);
  const set = useView((view) => view.set);
  return (
    <div className="flex h-[39px] items-center gap-2 border-b border-hair px-3 text-sm">
      <Segments
        label="Look"
        options={[
          ["pair", "Pair"],
          ["flat", "Flat"],
          ["lit", "Lit"],
        ]}
        value={look}
        onChange={(look) => set({ look })}
      />
      {tiles.length > 0 ? <TileChoice tiles={tiles} /> : <Repeat ends={endsOf(edges)} />}
      {look === "flat" && <FlatOptions chosen={chosen} />}
      {look === "lit" && <LitOptions edges={edges} />}
      <Comparison others={others} seenBy={seenBy} />
    </div>
  );
}

/** Which of a set's tiles is shown, or all of them as they lie beside each other. */
function TileChoice({ tiles }: { tiles: number[] }) {
  const tile = useTile(tiles);
  const set = useView((view) => view.set);
  useEffect(() => set({ tiles: 1 }), [set]); // an atlas is not repeated
  return (
    <Choice
      label="Tile"
      options={[
        ["all", `All ${tiles.length} tiles`],
        ...tiles.map((number) => [String(number), `Tile ${number}`] as const),
      ]}
      value={String(tile)}
      onChange={(key) => set({ tile: key === "all" ? key : Number(key) })}
    />
  );
}

/**
 * How often the picture is laid side by side, and where that shows a seam that is not in the maps.
 */
function Repeat({ ends }: { ends: string[] }) {
  const { tiles, isWrapped, set } = useView(
    useShallow(({ tiles, look, body, set }) => ({
      tiles,
      isWrapped: look !== "flat" && body !== null && body !== "plane" && body !== "own",
      set,
    })),
  );
  return (
    <>
      <Segments
        label="Repeat"
        options={TIMES.map((times) => [`${times}`, `${times} ×`] as const)}
        value={String(tiles)}
        onChange={(n) => set({ tiles: TIMES.find((times) => `${times}` === n) })}
      />
      {(tiles > 1 || isWrapped) && ends.length > 0 && (
        <Hint says="Where a set ends, its repeats show a seam that is not in the maps.">
          <span tabIndex={0} className="text-sm text-look">
            ◆ does not repeat {ends.join(" and ")}
          </span>
        </Hint>
      )}
    </>
  );
}

export function FlatOptions({ chosen }: { chosen: string }) {
  const parts = PARTS[chosen];
  const { hasHistogram, channel, set } = useView(
    useShallow(({ hasHistogram, channel, set }) => ({ hasHistogram, channel, set })),
  );
  return (
    <>
      <label className="flex items-center gap-1">
        <input
          type="checkbox"
          checked={hasHistogram}
          onChange={(e) => set({ hasHistogram: e.target.checked })}
        />
        Histogram
      </label>
      {parts && (
        <Choice
          label="Channel"
          options={[
            ["all", "All channels"],
            ...CHANNELS.map((k) => [k, `Only ${parts[Number(k)]}`] as const),
          ]}
          value={channel}
          onChange={(channel) => set({ channel })}
        />
      )}
    </>
  );
}

export function LitOptions({ edges }: { edges: { x: string; y: string } }) {
  const { situation, offered } = useLight();
  const { body, mesh, isClay, isSceneOpen, set } = useView(
    useShallow(({ body, mesh, isClay, isSceneOpen, set }) => ({
      body,
      mesh,
      isClay,
      isSceneOpen,
      set,
    })),
  );
  const worn = bodyWorn(body, mesh, edges);
  const shownBody = typeof worn === "string" ? worn : "own";
  return (
    <>
      <Choice
        label="Body"
        options={[...BODIES, ...(mesh ? [["own", "Own mesh"] as const] : [])]}
        value={shownBody}
        onChange={(body) => set({ body })}
      />
      <Choice
        label="Light"
        options={offered}
        value={situation}
        onChange={(situation) => set({ situation })}
      />
      <Hint says="Shape alone, in matte gray">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            checked={isClay}
            onChange={(e) => set({ isClay: e.target.checked })}
          />
          Clay
        </label>
      </Hint>
      <button
        type="button"
        className="button aria-expanded:border-copper aria-expanded:bg-wash"
        aria-expanded={isSceneOpen}
        onClick={() => set({ isSceneOpen: !isSceneOpen })}
      >
        Scene
      </button>
    </>
  );
}

function Comparison({ others, seenBy }: Pick<ViewerBarProps, "others" | "seenBy">) {
  const { look, pictures, gain, other, set } = useView(
    useShallow(({ look, pictures, gain, other, set }) => ({ look, pictures, gain, other, set })),
  );
  const known = [...others, ...seenBy].some(([key]) => key === other[look]);
  return (
    <span className="ml-auto flex items-center gap-2">
      <Choice
        label="Pictures"
        options={PICTURES}
        value={pictures}
        onChange={(pictures) => set({ pictures })}
      />
      {pictures === "difference" && (
        <Choice
          label="Difference times"
          options={GAINS}
          value={String(gain)}
          onChange={(gain) => set({ gain: Number(gain) })}
        />
      )}
      <Choice
        label="Compare with"
        options={others}
        group={{ title: "As a target sees it", options: seenBy }}
        value={known ? other[look] : others[0][0]}
        onChange={(key) => set({ other: { ...other, [look]: key } })}
      />
    </span>
  );
}
