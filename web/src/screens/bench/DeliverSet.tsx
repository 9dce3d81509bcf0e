import { useNavigate } from "react-router";
import type { TextureSet } from "../../api/client";
import { usePlans, useTargets } from "../../api/queries";
import { AfterChanges } from "../../line/AfterChanges";
import { counted, countOf, deliveringSaid, waitingSaid } from "../../line/counted";
import { isGoing, useRun } from "../../line/runs";
import { requestOf } from "../../line/useDeliverSets";
import { useUsual } from "../../line/usual";
import { Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";
import { Menu } from "../../parts/Menu";
import { useKey } from "../../parts/useKey";
import { usePress } from "../../parts/usePress";

type DeliverSetProps = { project: string; set: TextureSet; isBusy: boolean };

/**
 * Deliver this set to the project's usual targets: what changed, into the folder of before. Where
 * something waits or asks, the plan is opened instead.
 */
export function DeliverSet({ project, set, isBusy }: DeliverSetProps) {
  const { usual, isKnown, change } = useUsual(project);
  const { data: targets = [] } = useTargets();
  const plans = usePlans(project, String(set.head), { sets: [set.id], targets: usual });
  const { run, start, error } = useRun(project);
  const navigate = useNavigate();
  const count = countOf(plans.data ?? []);
  const asksFirst = count.waits.length > 0 || count.asks > 0;
  const canGo = !isGoing(run) && (count.going > 0 || asksFirst);
  const isSoon = isBusy || plans.isFetching;
  const press = usePress<void>(canGo, isSoon, () => {
    if (asksFirst) return void navigate(`/p/${project}/delivery?set=${set.id}`);
    start.mutate(requestOf([set.id], usual));
  });
  useKey((key) => key === "run" && usual.length > 0 && press());
  if (!isKnown) return null;
  if (!usual.length)
    return (
      <Menu
        label="Deliver to …"
        options={targets.map(({ target }) => [target.key, target.title] as const)}
        onPick={(key) => {
          change([key]);
          navigate(`/p/${project}/delivery?set=${set.id}`);
        }}
      />
    );
  const titles = usual.map((key) => targets.find((row) => row.target.key === key)?.target.title);
  return (
    <>
      <Hint says={`To ${titles.join(", ")}. Ctrl Enter does the same.`}>
        <button
          type="button"
          className="button-main"
          disabled={!canGo && !isSoon}
          onClick={() => press()}
        >
          {asksFirst ? "Look at the plan" : counted(count)}
        </button>
      </Hint>
      <span className="min-w-0 text-sm text-ink2">
        {waitingSaid(count) ??
          [titles.length === 1 ? titles[0] : `${titles.length} targets`, deliveringSaid(count)]
            .filter(Boolean)
            .join(", ")}
      </span>
      <AfterChanges project={project} text="every change" />
      <Problem error={plans.error ?? error} />
    </>
  );
}
