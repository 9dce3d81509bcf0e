import {
  type BufferAttribute,
  type Mesh,
  type MeshBasicMaterial,
  SphereGeometry,
  Vector3,
} from "three";
import { describe, expect, it } from "vitest";
import { houseOf, pictureOf, roomOf, SKIES } from "./situations";

const meshes = (room: ReturnType<typeof roomOf>) => room.children as Mesh[];

/** What glows straight above, at the horizon or straight below, without the tint. */
function glow(room: ReturnType<typeof roomOf>, up: -1 | 0 | 1, tint: number): number {
  const { geometry } = meshes(room)[0];
  const [at, color] = ["position", "color"].map((name) =>
    geometry.getAttribute(name),
  ) as BufferAttribute[];
  const found = Array.from({ length: at.count }, (_, k) => k).filter(
    (k) => Math.abs(at.getY(k) - 20 * up) < 1e-6,
  );
  expect(found.length).toBeGreaterThan(0);
  return color.getX(found[0]) / tint;
}

describe.each(Object.entries(SKIES))("the room of %s", (_, sky) => {
  const room = roomOf(sky);

  it("glows as its sky says, above, around and below", () => {
    expect(glow(room, 1, sky.tint[0])).toBeCloseTo(sky.zenith, 5);
    expect(glow(room, 0, sky.tint[0])).toBeCloseTo(sky.horizon, 5);
    expect(glow(room, -1, sky.tint[0])).toBeCloseTo(sky.ground, 5);
  });

  it("has every panel where it says, as bright as it says, looking at the body", () => {
    const panels = meshes(room).filter(({ geometry }) => !(geometry instanceof SphereGeometry));
    expect(panels.length).toBe(sky.panels.length);
    for (const [k, panel] of panels.entries()) {
      expect(panel.position.toArray()).toEqual(sky.panels[k].at);
      expect((panel.material as MeshBasicMaterial).color.r).toBe(sky.panels[k].glow);
      const looks = panel.getWorldDirection(new Vector3());
      expect(looks.dot(panel.position.clone().normalize())).toBeCloseTo(-1, 5);
    }
  });

  it("is brighter above than below, as daylight and rooms are", () => {
    expect(sky.zenith).toBeGreaterThan(sky.ground);
  });
});

it("stands in for a picture of surroundings until that has come", () => {
  expect(houseOf("own:a1")).toBe("indoor");
  expect(houseOf("low-sun")).toBe("low-sun");
});

it("a picture of surroundings has its sky above", () => {
  const texture = pictureOf({ width: 2, height: 1, bytes: new ArrayBuffer(16) });
  expect(texture.flipY).toBe(true);
  expect([texture.image.width, texture.image.height]).toEqual([2, 1]);
});
