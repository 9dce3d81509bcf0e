import { type BufferGeometry, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { bodyOf } from "./bodies";
import { BODIES, type Body } from "./names";

const names = BODIES.map(([name]) => name);

type Corner = { place: Vector3; normal: Vector3; u: number; v: number };

/** Corners of every so many triangles of a body. */
function* trianglesOf(geometry: BufferGeometry, every = 97): Generator<Corner[]> {
  const [place, normal, uv] = ["position", "normal", "uv"].map((name) =>
    geometry.getAttribute(name),
  );
  const index = geometry.index;
  if (!index) throw new Error("a body without an index");
  for (let k = 0; k + 2 < index.count; k += 3 * every)
    yield [0, 1, 2].map((one) => {
      const at = index.getX(k + one);
      return {
        place: new Vector3().fromBufferAttribute(place, at),
        normal: new Vector3().fromBufferAttribute(normal, at),
        u: uv.getX(at),
        v: uv.getY(at),
      };
    });
}

const edges = ([a, b, c]: Corner[]) => [b.place.clone().sub(a.place), c.place.clone().sub(a.place)];

describe.each(names)("the body %s", (name: Body) => {
  const { geometry, tileWidth } = bodyOf(name, false);

  it("is lit from outside: its normals are units and face as its triangles do", () => {
    let seen = 0;
    for (const corners of trianglesOf(geometry)) {
      const [ab, ac] = edges(corners);
      const facing = ab.cross(ac);
      if (facing.length() < 1e-6) continue; // at a pole
      for (const { normal } of corners) {
        expect(normal.length()).toBeCloseTo(1, 4);
        expect(normal.dot(facing) / facing.length()).toBeGreaterThan(0.6);
      }
      seen++;
    }
    expect(seen).toBeGreaterThan(50);
  });

  it("wears a map unmirrored: to the right in the map is to the right seen from outside", () => {
    for (const [a, b, c] of trianglesOf(geometry)) {
      const inMap = (b.u - a.u) * (c.v - a.v) - (c.u - a.u) * (b.v - a.v);
      expect(inMap).toBeGreaterThan(0);
    }
  });

  it("faces the eye with its outside, its map the right way round and up", () => {
    const nearest = name === "ball" || name === "tube" ? 0 : -Infinity; // their back lies behind
    let seen = 0;
    for (const corners of trianglesOf(geometry, 1)) {
      const [ab, ac] = edges(corners);
      const middle = corners[0].place
        .clone()
        .addScaledVector(ab, 1 / 3)
        .addScaledVector(ac, 1 / 3);
      if (Math.hypot(middle.x, middle.y) > 0.3 || middle.z < nearest) continue;
      expect(ab.cross(ac).z).toBeGreaterThan(0);
      const ends = (axis: "x" | "y") => {
        const sorted = corners.toSorted((p, q) => p.place[axis] - q.place[axis]);
        return [sorted[0], sorted[2]];
      };
      const [left, right] = ends("x");
      const [low, high] = ends("y");
      expect(right.u).toBeGreaterThan(left.u);
      expect(high.v).toBeGreaterThan(low.v);
      seen++;
    }
    expect(seen).toBeGreaterThan(20);
  });

  it("has tiles about as wide as it says", () => {
    let [area, map] = [0, 0];
    for (const corners of trianglesOf(geometry, 7)) {
      const [ab, ac] = edges(corners);
      const [a, b, c] = corners;
      area += ab.cross(ac).length();
      map += Math.abs((b.u - a.u) * (c.v - a.v) - (c.u - a.u) * (b.v - a.v));
    }
    const width = Math.sqrt(area / map);
    expect(width / tileWidth).toBeGreaterThan(0.7);
    expect(width / tileWidth).toBeLessThan(1.3);
  });

  it("has places for every bump where it is displaced, and stands in the middle", () => {
    const displaced = bodyOf(name, true).geometry;
    const count = (one: BufferGeometry) => one.getAttribute("position").count;
    expect(count(displaced)).toBeGreaterThan(8 * count(geometry));
    displaced.computeBoundingBox();
    expect(displaced.boundingBox?.getCenter(new Vector3()).length()).toBeLessThan(1e-5);
  });
});

/** How wide a square of the picture is drawn, over how high, on the middle of a body. */
function squeezed(body: Body, aspect: number): number {
  const [across, up] = [0, 0].map(() => [] as number[]);
  for (const [a, b, c] of trianglesOf(bodyOf(body, false, aspect).geometry, 1)) {
    if (a.place.z < -0.5 || Math.hypot(a.place.x, a.place.y) > 0.15) continue;
    if (Math.abs(b.v - a.v) > 1e-6 || Math.abs(c.u - b.u) > 1e-6) continue;
    across.push(a.place.distanceTo(b.place) / (b.u - a.u) / aspect);
    up.push(b.place.distanceTo(c.place) / (c.v - b.v));
  }
  const mean = (values: number[]) => values.reduce((sum, one) => sum + one, 0) / values.length;
  expect(across.length).toBeGreaterThan(10);
  return mean(across) / mean(up);
}

describe("a picture that is not square", () => {
  it.each(names)("is as wide for its height on the %s as a square one", (name) => {
    const usual = squeezed(name, 1);
    for (const aspect of [3, 0.5]) expect(squeezed(name, aspect) / usual).toBeCloseTo(1, 1);
  });

  it("gives the plane its form, which keeps within the frame", () => {
    for (const aspect of [4, 0.25]) {
      const { geometry, tileWidth } = bodyOf("plane", false, aspect);
      geometry.computeBoundingBox();
      const size = geometry.boundingBox?.getSize(new Vector3()) ?? new Vector3();
      expect([size.x / size.y, Math.max(size.x, size.y)]).toEqual([aspect, 2]);
      expect(tileWidth).toBe(size.x);
    }
  });
});
