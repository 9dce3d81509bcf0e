import { beforeEach, describe, expect, it } from "vitest";
import { type Incoming, useIncoming } from "./incoming";

const one = (project: string, name: string): Incoming => ({
  project,
  files: [{ file: new File([], name), folder: "" }],
  into: null,
});

describe("files on their way to Intake", () => {
  beforeEach(() => useIncoming.setState({ incoming: [] }));

  it("wait for their own project and are taken once", () => {
    const { give, take } = useIncoming.getState();
    const [coat, hat, other] = [one("a", "coat.png"), one("a", "hat.png"), one("b", "bag.png")];
    for (const each of [coat, other, hat]) give(each);
    expect(take("a")).toEqual([coat, hat]);
    expect(take("a")).toEqual([]);
    expect(take("b")).toEqual([other]);
  });
});
