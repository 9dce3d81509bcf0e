import { describe, expect, it } from "vitest";
import type { Plan } from "../api/client";
import { counted, countOf, deliveringSaid, sizeSaid, waitingSaid } from "./counted";

const file = (name: string, said: object = {}) => ({
  name,
  left_out: null,
  disk: null,
  answer: null,
  why: null,
  memory_plain: 2e6,
  ...said,
});
const planOf = (...files: object[]) => [{ set: "silk", target: "t", files }] as unknown as Plan[];

describe("what stands on the button", () => {
  it("counts what is written and the most it can take", () => {
    expect(counted(countOf(planOf(file("a"), file("b"))))).toBe("Deliver 2 files, up to 4.0 MB");
    const large = { ...countOf(planOf(file("a"))), bytes: 3.132e9 };
    expect(counted(large)).toBe("Deliver 1 file, up to 3.1 GB");
    expect(counted(countOf(planOf(file("a", { disk: "same" }))))).toBe("Nothing to write");
  });

  it("counts the layers of one file once", () => {
    expect(countOf(planOf(file("all.tif"), file("all.tif"))).going).toBe(1);
  });

  it("leaves what somebody else changed until it may be replaced", () => {
    expect(countOf(planOf(file("a", { disk: "by-hand" })))).toMatchObject({ going: 0, asks: 1 });
    const answered = planOf(file("a", { disk: "by-hand", answer: "replace" }));
    expect(countOf(answered)).toMatchObject({ going: 1, asks: 0 });
  });

  it("says what waits, and for what where that is one thing", () => {
    const one = file("a", { left_out: "waits", why: "waits for base color" });
    expect(waitingSaid(countOf(planOf(one)))).toBe("1 file waits for base color");
    const two = countOf(planOf(one, { ...one, name: "b" }));
    expect(waitingSaid(two)).toBe("2 files wait for base color");
    const unfit = file("c", { left_out: "waits", why: "waits: its height does not fit the set" });
    expect(waitingSaid(countOf(planOf(unfit)))).toBe(
      "1 file waits: its height does not fit the set",
    );
    expect(waitingSaid(countOf(planOf(one, unfit)))).toBe("2 files wait; the list says for what");
    expect(waitingSaid(countOf(planOf(file("a"))))).toBeNull();
  });

  it("says how long it takes where that is long", () => {
    const lasting = (seconds: number, ...files: object[]) =>
      deliveringSaid(countOf(planOf(...files).map((plan) => ({ ...plan, seconds }))));
    expect(lasting(9, file("a"))).toBeNull();
    expect(lasting(38, file("a"))).toBe("takes about 40 seconds");
    expect(lasting(400, file("a"))).toBe("takes about 7 minutes");
    expect(lasting(7300, file("a"))).toBe("takes about 2 hours");
    expect(lasting(400, file("a", { disk: "same" }))).toBeNull();
    expect(deliveringSaid(countOf(planOf(file("a"))))).toBeNull();
  });

  it("says the size where it is one", () => {
    const set = (width: number) => ({ recipe: { facts: { width, height: 64 } } }) as never;
    expect(sizeSaid([set(64), set(64)], null)).toBe("64 × 64 px");
    expect(sizeSaid([set(64), set(32)], null)).toBe("each at its own size");
    expect(sizeSaid([], 512)).toBe("at most 512 px");
  });
});
