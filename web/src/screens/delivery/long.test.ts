import { expect, it } from "vitest";
import type { Plan } from "../../api/client";
import { firstPlans, MOST_PLANS, workingOut } from "./long";

const plan = (left_out: string | null) =>
  ({
    set: "silk",
    target: "t",
    files: [{ name: "a.png", left_out, disk: "new", why: "" }],
  }) as never as Plan;

it("shows the first of hundreds of plans, and whichever waits", () => {
  const plans = Array.from({ length: MOST_PLANS + 20 }, () => plan(null));
  const waiting = plan("waits");
  const shown = firstPlans([...plans, waiting]);
  expect(shown).toHaveLength(MOST_PLANS + 1);
  expect(shown.at(-1)).toBe(waiting);
  expect(firstPlans(plans.slice(0, 3))).toHaveLength(3);
});

it("says what is worked out", () => {
  expect(workingOut(300, 1)).toBe("Working out the files of 300 sets for 1 target…");
});
