import { ClampToEdgeWrapping, MirroredRepeatWrapping, RepeatWrapping } from "three";
import { describe, expect, it } from "vitest";
import { mapsOf } from "./maps";

const bytes = (width: number, height: number, layers: number) =>
  Uint16Array.from({ length: width * height * layers * 4 }, (_, k) => k).buffer;

describe("textures of one packed answer", () => {
  it("are the layers in their order, each with its own part of the answer", () => {
    const maps = mapsOf({ width: 2, height: 3, bytes: bytes(2, 3, 4) }, { x: "wrap", y: "wrap" });
    expect(Object.keys(maps)).toEqual(["color", "shape", "shine", "glow"]);
    const first = (texture: { image: { data: unknown } }) => (texture.image.data as Uint16Array)[0];
    expect([maps.color, maps.shape, maps.shine, maps.glow].map(first)).toEqual([0, 24, 48, 72]);
    expect([maps.shape.image.width, maps.shape.image.height]).toEqual([2, 3]);
  });

  it("have a color of what is mirrored only where the answer has it", () => {
    expect(
      mapsOf({ width: 1, height: 1, bytes: bytes(1, 1, 5) }, { x: "", y: "" }).mirror,
    ).toBeDefined();
    expect(
      mapsOf({ width: 1, height: 1, bytes: bytes(1, 1, 4) }, { x: "", y: "" }).mirror,
    ).toBeUndefined();
  });

  it("go on beyond their edges as the set does", () => {
    const { color } = mapsOf(
      { width: 1, height: 1, bytes: bytes(1, 1, 4) },
      { x: "wrap", y: "mirror" },
    );
    expect([color.wrapS, color.wrapT]).toEqual([RepeatWrapping, MirroredRepeatWrapping]);
    const ends = mapsOf({ width: 1, height: 1, bytes: bytes(1, 1, 4) }, { x: "end", y: "end" });
    expect(ends.color.wrapS).toBe(ClampToEdgeWrapping);
  });
});
