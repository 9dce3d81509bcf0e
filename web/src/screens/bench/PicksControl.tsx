import { Hint } from "../../parts/Hint";
import { type Edit, withParam } from "./edit";
import { type Pick, spotsIn, wanting, withoutLast, wordsFor } from "./picks";
import { useView } from "./view";

type PicksControlProps = { label: string; about: string; node: string; picks: Pick[]; edit: Edit };

/** Choose what to say, then click on the picture; the answer follows at once. */
export function PicksControl({ label, about, node, picks, edit }: PicksControlProps) {
  const picking = useView((view) => view.picking);
  const pick = useView((view) => view.pick);
  const hasDoubt = useView((view) => view.hasDoubt);
  const set = useView((view) => view.set);
  const words = wordsFor(about);
  const asked = wanting(about, picks);
  const keep = (next: Pick[]) => edit.keep(withParam(edit.recipe, node, "picks", next));
  const handleWord = (value: number) => {
    const isOn = picking?.node === node && picking.value === value;
    pick(isOn ? null : { node, value });
  };
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="w-[84px] shrink-0">{label}</span>
        {words.map(([title, value]) => (
          <button
            type="button"
            key={title}
            aria-pressed={picking?.node === node && picking.value === value}
            className="button aria-pressed:border-copper aria-pressed:bg-wash"
            onClick={() => handleWord(value)}
          >
            <i
              className={`inline-block size-2.5 rounded-full border-2 border-copper
                ${value > 0.5 ? "bg-copper" : ""}`}
            />
            {title}
            <span className="text-sm text-ink2">
              {spotsIn(picks.filter((p) => p.value > 0.5 === value > 0.5))}
            </span>
          </button>
        ))}
        <span className="flex basis-full gap-1.5 pl-[90px]">
          <button
            type="button"
            className="button"
            disabled={!picks.length}
            onClick={() => keep(withoutLast(picks))}
          >
            Remove last
          </button>
          <button
            type="button"
            className="button"
            disabled={!picks.length}
            onClick={() => keep([])}
          >
            All off
          </button>
        </span>
      </div>
      {asked && <p className="pl-[90px] text-sm text-ink2">{asked}</p>}
      {picks.length > 0 && about !== "mask" && (
        <Hint says="Hatched over the map: the more, the less any pick is like it. The next pick tells most there.">
          <label className="flex items-center gap-1.5 pl-[90px]">
            <input
              type="checkbox"
              checked={hasDoubt}
              onChange={(e) => set({ hasDoubt: e.target.checked })}
            />
            Where it is unsure
          </label>
        </Hint>
      )}
      {picking?.node === node && (
        <p className="text-sm text-ink2">
          Click on the picture where it is{" "}
          {words.find(([, value]) => value === picking.value)?.[0].toLowerCase()}, or brush along it
          (Shift and drag moves the picture). Press the button again when done.
        </p>
      )}
    </div>
  );
}
