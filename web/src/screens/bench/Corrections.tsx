import { useState } from "react";
import type { TextureSet } from "../../api/client";
import { useCorrections } from "../../api/tables";
import { Choice, optionsOf } from "../../parts/Choice";
import { Line } from "../../parts/Line";
import { sure } from "../../parts/sure";
import { Fields } from "./Controls";
import type { Edit } from "./edit";
import { isMoved, ofSource } from "./params";

type Master = TextureSet["masters"][number];
type Sampling = NonNullable<Edit["recipe"]["sources"][string]["sampling"]> | "";

const SAMPLINGS = optionsOf<Sampling>({
  "": "as the set",
  smooth: "smoothly",
  nearest: "as pixel art, sharp",
});

const PRIMARIES = optionsOf<Edit["recipe"]["sources"][string]["primaries"]>({
  rec709: "Rec. 709, as sRGB",
  p3: "Display P3",
  rec2020: "Rec. 2020",
  acescg: "ACEScg",
  aces2065: "ACES 2065-1",
});

/** What can be done to a map that was given, folded away while nothing was. */
export function Corrections({ master, edit }: { master: Master; edit: Edit }) {
  const kinds = useCorrections();
  const { source: name, held, correction } = sure(master.given, "the given map");
  const source = edit.recipe.sources[name];
  const kept = ofSource(edit, name, held);
  const row = sure(
    kinds.find(({ kind }) => kind === correction),
    correction,
  );
  const fields = row.params;
  const moved = fields.filter((field) => isMoved(kept, field)).length;
  const said = moved + (source.sampling ? 1 : 0) + (source.smooth_steps ? 1 : 0);
  const [wanted, setOpen] = useState<boolean | null>(null);
  const isOpen = wanted ?? said > 0;
  const told = (part: Partial<typeof source>) => ({
    ...edit.recipe,
    sources: { ...edit.recipe.sources, [name]: { ...source, ...part } },
  });
  const nothing = { sampling: null, smooth_steps: false, corrections: {} };
  return (
    <section aria-label={`Corrections of ${master.title}`}>
      <div className="flex items-center gap-2 py-1 pr-4 pl-8">
        <button
          type="button"
          aria-expanded={isOpen}
          className="cursor-pointer text-sm text-ink2 underline"
          onClick={() => setOpen(!isOpen)}
        >
          Corrections{said > 0 ? ` (${said})` : ""}
        </button>
        {said > 0 && (
          <button type="button" className="button ml-auto" onClick={() => edit.keep(told(nothing))}>
            As it came
          </button>
        )}
      </div>
      {isOpen && <Fields {...{ master, edit, kept, fields }} />}
      {isOpen && (
        <div className="flex flex-col gap-2 pr-4 pb-2 pl-8">
          <Line label="Resized">
            <Choice
              label={`How ${master.title} is resized`}
              className="min-w-0 grow"
              options={SAMPLINGS}
              value={source.sampling ?? ""}
              onChange={(way) => edit.keep(told({ sampling: way || null }))}
            />
          </Line>
          {held === "object_normal" && (
            <Line label="Up is">
              <Choice
                label="Which axis of the file points up"
                options={optionsOf<"y" | "z">({ y: "y", z: "z" })}
                value={source.object_up}
                onChange={(object_up) => edit.keep(told({ object_up }))}
              />
            </Line>
          )}
          {correction === "color" && (
            <Line label="Colors told in">
              <Choice
                label={`Primaries of ${master.title}`}
                className="min-w-0 grow"
                options={PRIMARIES}
                value={source.primaries}
                onChange={(primaries) => edit.keep(told({ primaries }))}
              />
            </Line>
          )}
          {held === "height" && source.depth < 32 && (
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={source.smooth_steps}
                onChange={(e) => edit.keep(told({ smooth_steps: e.target.checked }))}
              />{" "}
              Smooth the steps of 8 bits, within half a step
            </label>
          )}
        </div>
      )}
    </section>
  );
}
