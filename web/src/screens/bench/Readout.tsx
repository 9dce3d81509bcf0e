import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Recipe, settled, type TextureSet } from "../../api/client";
import type { Texel } from "./stageProps";
import type { ShownTile } from "./view";

type ReadoutProps = {
  set: TextureSet;
  recipe: Recipe;
  tile: ShownTile | null;
  texel: Texel | null;
  isMoving: boolean;
};

/** The texel under the pointer, in every master at once, as the server has it. */
export function Readout({ set, recipe, tile, texel, isMoving }: ReadoutProps) {
  const [asked, setAsked] = useState<Texel | null>(null);
  const probe = useQuery({
    queryKey: ["probe", set.id, set.head, tile, asked],
    queryFn: () =>
      settled(
        api.POST("/api/probes", {
          body: { recipe, x: asked?.u ?? 0, y: asked?.v ?? 0, size: 1024, tile },
        }),
      ),
    enabled: asked !== null && !isMoving,
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 10_000,
  });
  // one question at a time: the pointer is quicker than the answers
  if (texel !== asked && !probe.isFetching) setAsked(texel);
  const found = texel && probe.data;
  if (!found)
    return (
      <p className="flex items-center border-t border-hair px-3 text-sm text-ink2">
        Point at the picture to read every master there.
      </p>
    );
  return (
    <p
      role="status"
      aria-label="Texel"
      className="flex items-center gap-4 overflow-x-auto border-t border-hair px-3 text-sm
        whitespace-nowrap"
    >
      <span className="file-name text-ink2">
        {found.tile && `${found.tile}: `}
        {found.x}, {found.y}
      </span>
      {found.size < Math.max(recipe.facts.width, recipe.facts.height) && (
        <span className="text-ink2">read at {found.size} px:</span>
      )}
      {set.masters.map(
        (m) =>
          found.masters[m.key] && (
            <span key={m.key} className="text-ink2">
              {m.title} <b className="font-semibold text-ink">{said(m.key, found)}</b>
            </span>
          ),
      )}
    </p>
  );
}

type Probe = { masters: Record<string, number[]>; codes: Record<string, string> };

/**
 * A normal as a slope and a direction, a color as its sRGB code and its linear values, anything
 * else as its number.
 */
function said(key: string, { masters, codes }: Probe): string {
  const values = masters[key];
  if (key === "normal") {
    const [x, y, z] = values;
    const lean = (Math.atan2(Math.hypot(x, y), z) * 180) / Math.PI;
    return lean < 0.5
      ? "flat"
      : `${lean.toFixed(0)}° to ${ARROWS[Math.round(Math.atan2(y, x) / (Math.PI / 4)) & 7]}`;
  }
  return codes[key]
    ? `${codes[key]} (${values.map((v) => v.toFixed(2)).join(" ")})`
    : values[0].toFixed(2);
}

const ARROWS = ["→", "↗", "↑", "↖", "←", "↙", "↓", "↘"];
