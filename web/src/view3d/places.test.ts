import { BufferAttribute, BufferGeometry } from "three";
import { describe, expect, it } from "vitest";
import { bodyOf } from "./bodies";
import { placesOf } from "./places";

describe("the places of a body that wear a texel", () => {
  const plane = bodyOf("plane", false).geometry;

  it("are where the texel lies, counted from the upper left", () => {
    const [one, ...others] = placesOf(plane, { u: 0.2513, v: 0.1257 }, 1);
    expect(others).toEqual([]);
    expect(one.place.toArray().map((x) => Number(x.toFixed(5)))).toEqual([-0.4974, 0.7486, 0]);
    expect(one.facing.toArray()).toEqual([0, 0, 1]);
  });

  it("are as many as the map is repeated", () => {
    expect(placesOf(plane, { u: 0.3017, v: 0.7029 }, 3).length).toBe(9);
    const ball = bodyOf("ball", false).geometry; // 4 × 2 tiles cover it
    const found = placesOf(ball, { u: 0.3117, v: 0.5231 }, 1);
    expect(found.length).toBe(8);
    for (const { place, facing } of found) {
      expect(place.length()).toBeCloseTo(1, 2);
      expect(place.clone().normalize().dot(facing)).toBeGreaterThan(0.99);
    }
  });

  it("are none on a body without a map, and none beside the map", () => {
    const bare = new BufferGeometry();
    bare.setAttribute("position", new BufferAttribute(new Float32Array(9), 3));
    expect(placesOf(bare, { u: 0.5, v: 0.5 }, 1)).toEqual([]);
    const corner = new BufferGeometry();
    corner.setAttribute(
      "position",
      new BufferAttribute(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), 3),
    );
    corner.setAttribute("uv", new BufferAttribute(new Float32Array([0, 0, 0.5, 0, 0, 0.5]), 2));
    expect(placesOf(corner, { u: 0.9, v: 0.1 }, 1)).toEqual([]);
    expect(placesOf(corner, { u: 0.1, v: 0.9 }, 1).length).toBe(1);
  });
});
