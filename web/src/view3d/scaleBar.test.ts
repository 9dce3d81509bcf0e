import { describe, expect, it } from "vitest";
import { barOf, lengthSaid } from "./scaleBar";

describe("the bar to judge sizes by", () => {
  it("is as long on the body as it says, and never wider than it", () => {
    for (const tileWidth of [0.000003, 0.02, 0.1, 0.25, 1, 3, 40, 5200]) {
      const { meters, length, fields } = barOf(2 / tileWidth); // a tile of 2 on the body
      expect(length).toBeCloseTo((2 * meters) / tileWidth, 9);
      expect(length).toBeLessThan(1.21);
      expect(length).toBeGreaterThan(0.47);
      expect(fields).toBeGreaterThanOrEqual(4);
    }
  });

  it("is a round length with fields of round lengths", () => {
    expect(barOf(2)).toEqual({ meters: 0.5, length: 1, fields: 5 });
    expect(barOf(8)).toMatchObject({ meters: 0.1, fields: 10 });
    expect(barOf(4)).toMatchObject({ meters: 0.2, fields: 4 });
    expect(barOf(1.2).meters).toBeCloseTo(1);
  });

  it("is said as people say lengths", () => {
    const said = [2000, 1, 0.5, 0.1, 0.02, 0.005, 0.00002].map(lengthSaid);
    expect(said).toEqual(["2 km", "1 m", "50 cm", "10 cm", "2 cm", "5 mm", "20 µm"]);
  });
});
