import { useEffect } from "react";
import type { TextureSet } from "../../../api/client";
import { Problem } from "../../../parts/grades";
import { Hint } from "../../../parts/Hint";
import type { Edit } from "../edit";
import { Section } from "../Section";
import { useView } from "../view";
import { RepeatControls } from "./RepeatControls";
import { SpotsControls } from "./SpotsControls";
import { StraightenControls } from "./StraightenControls";
import { type Step, WHOLE } from "./steps";
import { TileSize } from "./TileSize";
import { VariantControls } from "./VariantControls";

type StepsProps = { set: TextureSet; project: string; edit: Edit };
type PrepareProps = StepsProps & { isOpen: boolean; onOpen: () => void };

const TITLES: Record<Step["kind"], string> = {
  straighten: "Straighten",
  spots: "Spots",
  repeat: "Repeat",
  variant: "Variant",
  crop: "Crop",
  turn: "Rotate",
  mirror: "Mirror",
  offset: "Offset",
};
const OPENS: readonly Step["kind"][] = ["straighten", "spots", "repeat", "variant"];
const START = {
  straighten: {
    kind: "straighten",
    is_on: true,
    points: WHOLE,
    aspect: null,
    bulge: 0,
    lens: "weighed",
  },
  spots: { kind: "spots", is_on: true, spots: [] },
} satisfies Record<string, Step>;
const FIRST_VARIANT = { seed: 1, cells: 4 };
const NEITHER: [null, null] = [null, null];
const FITTED = {
  x: true,
  y: true,
  sides: NEITHER,
  overlap: null,
  guide: { keep: [], avoid: [] },
  period: NEITHER,
  is_square: false,
  evens: null,
};

/** What is done to the set's pictures before anything is made of them; every map obeys. */
export function Prepare({ set, project, edit, isOpen, onOpen }: PrepareProps) {
  const openPrep = useView((view) => view.openPrep);
  useEffect(() => () => openPrep(null), [openPrep]); // another set has other steps
  const on = set.steps.filter((step) => step.is_on);
  const says = on.length ? on.map((step) => TITLES[step.kind]).join(", ") : "as they came";
  const handleOpen = () => {
    openPrep(null);
    onOpen();
  };
  return (
    <Section
      title="Prepare the pictures"
      says={says}
      path="M8 11L25 7L27 26L7 24ZM14 7.5L15 5M20 6L21 4M8 16H5M27.5 18H30"
      isOpen={isOpen}
      onOpen={handleOpen}
    >
      <Steps set={set} project={project} edit={edit} />
    </Section>
  );
}

function Steps({ set, project, edit }: StepsProps) {
  const prep = useView((view) => view.prep);
  const { openPrep, showPrep } = useView.getState();
  const { preparing: steps } = edit;
  const { facts } = edit.recipe;
  const repeat = steps.steps.find((step) => step.kind === "repeat");
  const isLastSpots = steps.steps.at(-1)?.kind === "spots";
  const repeats = facts.edges.x === "wrap" && facts.edges.y === "wrap";
  const hasVariant = steps.steps.some((step) => step.kind === "variant");
  const handleVariant = () => {
    const at = steps.steps.length;
    steps.vary(at, FIRST_VARIANT, () => {
      openPrep(at);
      showPrep("result");
    });
  };
  const handleSpots = () =>
    isLastSpots ? openPrep(steps.steps.length - 1) : steps.add(START.spots);
  const handleRepeat = () => {
    const at = steps.steps.length;
    steps.repeat(at, FITTED, () => {
      openPrep(at);
      showPrep("result");
    });
  };
  if (set.tiles.length)
    return (
      <p className="py-2 pr-4 pl-8 text-sm text-ink2">
        A set in tiles belongs to a mesh, so its pictures stay as they came.
      </p>
    );
  return (
    <div className="flex flex-col gap-0.5 pb-2">
      {steps.steps.map((step, at) => (
        <div key={at}>
          <StepRow
            step={step}
            row={set.steps[at]}
            isOpen={prep?.at === at}
            isBusy={steps.isBusy}
            onOpen={() => openPrep(prep?.at === at ? null : at)}
            onSwitch={(is_on) => steps.change(at, { ...step, is_on })}
            onRemove={() => {
              openPrep(null);
              steps.change(at, null);
            }}
          />
          {prep?.at === at && step.kind === "repeat" && (
            <RepeatControls at={at} step={step} steps={steps}>
              <TileSize set={set} project={project} />
            </RepeatControls>
          )}
          {prep?.at === at && step.kind === "spots" && (
            <SpotsControls at={at} step={step} steps={steps} />
          )}
          {prep?.at === at && step.kind === "variant" && (
            <VariantControls
              at={at}
              step={step}
              steps={steps}
              set={set}
              project={project}
              structure={repeat?.structure}
            />
          )}
          {prep?.at === at && step.kind === "straighten" && (
            <StraightenControls
              at={at}
              step={step}
              steps={steps}
              sides={at === steps.steps.length - 1 ? facts.width / facts.height : null}
            />
          )}
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-1.5 pt-1 pr-4 pl-8">
        <Hint says="Four points of the picture become its corners; a lens' bulge is taken out.">
          <button
            type="button"
            className="button"
            disabled={steps.isBusy}
            onClick={() => steps.add(START.straighten, 0)}
          >
            Straighten
          </button>
        </Hint>
        <Hint says="A click on a spot fills it from one other place of the picture.">
          <button type="button" className="button" disabled={steps.isBusy} onClick={handleSpots}>
            Take out spots
          </button>
        </Hint>
        <Hint
          says={
            repeat
              ? "It has been made to repeat: open that step above."
              : "Finds the size of tile that fits, and a line along which its copies meet unseen."
          }
        >
          <button
            type="button"
            className="button"
            disabled={steps.isBusy || repeat !== undefined}
            onClick={handleRepeat}
          >
            Make it repeat
          </button>
        </Hint>
        {repeats && (
          <Hint says="Another picture of the same stuff: pieces of it in another order, cut where they look alike. A pattern keeps its pattern.">
            <button
              type="button"
              className="button"
              disabled={steps.isBusy || hasVariant}
              onClick={handleVariant}
            >
              Make a variant
            </button>
          </Hint>
        )}
        {steps.isBusy && (
          <span className="text-sm text-ink2" role="status">
            Looking at the picture…
          </span>
        )}
        <Problem error={steps.problem} />
      </div>
    </div>
  );
}

type StepRowProps = {
  step: Step;
  row: TextureSet["steps"][number] | undefined;
  isOpen: boolean;
  isBusy: boolean;
  onOpen: () => void;
  onSwitch: (isOn: boolean) => void;
  onRemove: () => void;
};

function StepRow({ step, row, isOpen, isBusy, onOpen, onSwitch, onRemove }: StepRowProps) {
  const title = TITLES[step.kind];
  const name = (
    <>
      <b className="block font-semibold">{title}</b>
      <span className="block text-sm text-ink2">{row?.said ?? ""}</span>
    </>
  );
  return (
    <div className={`flex items-center gap-2 py-1 pr-4 pl-8 ${isOpen ? "bg-wash" : ""}`}>
      {OPENS.includes(step.kind) ? (
        <button
          type="button"
          aria-expanded={isOpen}
          className="min-w-0 grow cursor-pointer text-left"
          onClick={onOpen}
        >
          {name}
        </button>
      ) : (
        <span className="min-w-0 grow">{name}</span>
      )}
      <button
        type="button"
        className="button"
        disabled={isBusy}
        aria-label={`Remove: ${title}`}
        onClick={onRemove}
      >
        Remove
      </button>
      <input
        type="checkbox"
        aria-label={`${title} is on`}
        checked={step.is_on}
        disabled={isBusy}
        onChange={(e) => onSwitch(e.target.checked)}
      />
    </div>
  );
}
