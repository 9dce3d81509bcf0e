import { ClampToEdgeWrapping, MirroredRepeatWrapping, RepeatWrapping } from "three";
import { describe, expect, it } from "vitest";
import { type Layer, mapsOf } from "./maps";

const packed = (width: number, height: number, ...more: Layer[]) => {
  const layers: Layer[] = ["color", "shape", "shine", "glow", ...more];
  const { buffer } = Uint16Array.from({ length: width * height * layers.length * 4 }, (_, k) => k);
  return { width, height, layers, bytes: buffer };
};

describe("textures of one packed answer", () => {
  it("are the layers in their order, each with its own part of the answer", () => {
    const maps = mapsOf(packed(2, 3), { x: "wrap", y: "wrap" });
    expect(Object.keys(maps)).toEqual(["color", "shape", "shine", "glow"]);
    const first = (texture: { image: { data: unknown } }) => (texture.image.data as Uint16Array)[0];
    expect([maps.color, maps.shape, maps.shine, maps.glow].map(first)).toEqual([0, 24, 48, 72]);
    expect([maps.shape.image.width, maps.shape.image.height]).toEqual([2, 3]);
  });

  it("have a color of what is mirrored, and a coat, only where the answer has it", () => {
    const held = (...more: Layer[]) =>
      Object.keys(mapsOf(packed(1, 1, ...more), { x: "", y: "" })).slice(4);
    expect(held()).toEqual([]);
    expect(held("mirror")).toEqual(["mirror"]);
    expect(held("mirror", "coat")).toEqual(["mirror", "coat"]);
  });

  it("go on beyond their edges as the set does", () => {
    const { color } = mapsOf(packed(1, 1), { x: "wrap", y: "mirror" });
    expect([color.wrapS, color.wrapT]).toEqual([RepeatWrapping, MirroredRepeatWrapping]);
    const ends = mapsOf(packed(1, 1), { x: "end", y: "end" });
    expect(ends.color.wrapS).toBe(ClampToEdgeWrapping);
  });
});
