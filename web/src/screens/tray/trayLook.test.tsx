import { afterEach, describe, expect, it, vi } from "vitest";
import { drawn } from "../../drawn";
import { useTrayLook } from "./trayLook";

function Said({ count }: { count: number }) {
  const [{ sought, filters, sort }] = useTrayLook("p", count);
  return <p>{[sought || "all", ...filters, sort].join(" ")}</p>;
}
const keptAs = (kept: string | null) => vi.stubGlobal("sessionStorage", { getItem: () => kept });
const LOOK = JSON.stringify({ sought: "felt", filters: ["tiles"], sort: "name", count: 4 });

describe("the look of a tray", () => {
  afterEach(() => vi.unstubAllGlobals());

  it("is the whole of it at first", () => {
    keptAs(null);
    expect(drawn(<Said count={4} />).text).toBe("all taken");
  });

  it("is as it was left, also when sets were taken off", () => {
    keptAs(LOOK);
    expect(drawn(<Said count={4} />).text).toBe("felt tiles name");
    expect(drawn(<Said count={3} />).text).toBe("felt tiles name");
  });

  it("hides nothing that was taken in since, and keeps its order", () => {
    keptAs(LOOK);
    expect(drawn(<Said count={5} />).text).toBe("all name");
  });

  it("is the whole of it where something else was kept", () => {
    keptAs("{");
    expect(drawn(<Said count={1} />).text).toBe("all taken");
  });
});
