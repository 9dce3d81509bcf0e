import type { Plan, TextureSet } from "../../api/client";
import { AfterChanges } from "../../line/AfterChanges";
import { counted, countOf, deliveringSaid, sizeSaid, waitingSaid } from "../../line/counted";
import { Choice } from "../../parts/Choice";
import { SIZES } from "../../parts/sizes";
import type { Chosen } from "./choice";
import { MOST_PLANS, workingOut } from "./long";

type DeliveryHeadProps = {
  project: string;
  sets: TextureSet[];
  shown: Plan[];
  chosen: Chosen;
  canGo: boolean;
  isBusy: boolean; // the plan is worked out, or the delivery is being started
  onDeliver: () => void;
  onChange: (next: (now: Chosen) => Chosen) => void;
};

/** What is still to be chosen. */
function lackingSaid({ sets, targets }: Chosen): string {
  if (sets.length && !targets.length) return "Choose a target";
  return targets.length && !sets.length ? "Choose a set" : "Choose sets and targets";
}

/** What one press does, counted, at which size and into which folder. */
export function DeliveryHead(props: DeliveryHeadProps) {
  const { project, sets, shown, chosen, canGo, isBusy, onDeliver, onChange } = props;
  if (!shown.length)
    return (
      <h1 className="mb-2" aria-live="polite">
        {isBusy ? workingOut(chosen.sets.length, chosen.targets.length) : lackingSaid(chosen)}
      </h1>
    );
  const count = countOf(shown);
  const isLong = chosen.sets.length * chosen.targets.length > MOST_PLANS;
  const folder = shown.find((plan) => plan.folder)?.folder;
  const isSent = shown.some((plan) => plan.place);
  return (
    <>
      <div className="mb-2 flex min-h-[26px] flex-wrap items-center gap-3">
        <button type="button" className="button-main" disabled={!canGo} onClick={onDeliver}>
          {chosen.remove.length && !count.going
            ? `Remove ${chosen.remove.length} of our files`
            : counted(count)}
        </button>
        <SizeChoice sets={sets} chosen={chosen} onChange={onChange} />
        {(folder || isSent || chosen.into === "new") && (
          <Choice
            label="Folder"
            options={[
              [
                "own",
                isSent
                  ? "Where each target is sent"
                  : `On in ${folder?.split("/").at(-1) ?? "the folder of before"}`,
              ],
              ["new", "A new folder of its own"],
            ]}
            value={chosen.into}
            onChange={(into) => onChange((now) => ({ ...now, into, answers: [], remove: [] }))}
          />
        )}
        <AfterChanges project={project} text="and again after every change" />
      </div>
      <p className="text-ink2">
        {[
          isBusy && isLong && workingOut(chosen.sets.length, chosen.targets.length),
          deliveringSaid(count),
          waitingSaid(count),
          count.asks > 0 &&
            `${count.asks} ${count.asks === 1 ? "place holds a file" : "places hold files"} that somebody else changed: say what to do`,
          count.replaced > 0 && `${count.replaced} replaced in place`,
          count.same > 0 && `${count.same} left as they lie`,
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
    </>
  );
}

type SizeChoiceProps = {
  sets: TextureSet[];
  chosen: Chosen;
  onChange: (next: (now: Chosen) => Chosen) => void;
};

function SizeChoice({ sets, chosen, onChange }: SizeChoiceProps) {
  const own = sets.filter((s) => chosen.sets.includes(s.id));
  const largest = Math.max(
    0,
    ...own.map(({ recipe: { facts } }) => Math.max(facts.width, facts.height)),
  );
  const sizes = SIZES.toReversed().filter((px) => px < largest || px === chosen.size);
  return (
    <Choice
      label="Size of this delivery"
      options={[
        ["own", own.length === 1 ? sizeSaid(own, null) : "Each set’s own size"],
        ...sizes.map((px) => [String(px), `At most ${px} px`] as const),
      ]}
      value={String(chosen.size ?? "own")}
      onChange={(px) => onChange((now) => ({ ...now, size: px === "own" ? null : Number(px) }))}
    />
  );
}
