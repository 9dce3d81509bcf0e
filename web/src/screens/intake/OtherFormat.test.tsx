import { describe, expect, it } from "vitest";
import { drawn } from "../../drawn";
import { OtherFormat } from "./OtherFormat";
import type { Row } from "./rows";

const row = (told: object, isLeftOut = false) =>
  ({ look: { readable: true, ...told }, byHand: {}, isLeftOut }) as unknown as Row;
const heading = (rows: Row[]) => drawn(<OtherFormat rows={rows}>3 files</OtherFormat>).text;

describe("only another format or size", () => {
  it("is offered where there is a picture that can be read and is meant", () => {
    expect(heading([row({})])).toBe("3 files Only another format or size");
    expect(heading([row({ readable: false }), row({}, true)])).toBe("3 files");
    expect(heading([])).toBe("3 files");
  });
});
