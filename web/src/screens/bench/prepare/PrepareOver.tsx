import type { Edit } from "../edit";
import { useView } from "../view";
import type { Place } from "./drawing";
import { LineOver } from "./LineOver";
import { PointsOver } from "./PointsOver";
import { SpotsOver } from "./SpotsOver";
import type { Step } from "./steps";

/** What lies over the flat picture while a step of preparing is open. */
export function PrepareOver({ edit, at }: { edit: Edit; at: Place }) {
  const prep = useView((view) => view.prep);
  const { preparing: steps } = edit;
  const step: Step | undefined = prep ? steps.steps[prep.at] : undefined;
  if (!prep || !step) return null;
  const shared = { at, index: prep.at, steps };
  if (step.kind === "spots") return <SpotsOver step={step} {...shared} />;
  if (prep.shows !== "picture") return null;
  if (step.kind === "straighten") return <PointsOver step={step} {...shared} />;
  if (step.kind === "repeat") return <LineOver step={step} {...shared} />;
  return null;
}
