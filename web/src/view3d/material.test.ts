import { ShaderChunk, type WebGLProgramParametersWithUniforms, type WebGLRenderer } from "three";
import { describe, expect, it } from "vitest";
import { type Layer, mapsOf } from "./maps";
import { type Wear, wearing } from "./material";

const AS_IT_IS: Wear = {
  hasMaps: true,
  isClay: false,
  isMisread: false,
  without: null,
  holes: "cut",
  threshold: 0.4,
};
const packed = (...more: Layer[]) => {
  const layers: Layer[] = ["color", "shape", "shine", "glow", ...more];
  const bytes = new ArrayBuffer(8 * layers.length);
  return mapsOf({ width: 1, height: 1, bytes, layers }, { x: "wrap", y: "wrap" });
};
const worn = (change: Partial<Wear> = {}, ...more: Layer[]) =>
  wearing(packed(...more), { ...AS_IT_IS, ...change });

describe("a material that reads the packed layers", () => {
  it("takes each map from its layer", () => {
    const maps = packed();
    const made = wearing(maps, AS_IT_IS);
    expect(made.map).toBe(maps.color);
    expect([made.normalMap, made.displacementMap]).toEqual([maps.shape, maps.shape]);
    expect([made.roughnessMap, made.metalnessMap, made.aoMap]).toEqual(Array(3).fill(maps.shine));
    expect(made.emissiveMap).toBe(maps.glow);
    expect(made.specularColorMap).toBeNull();
  });

  it("mirrors by a color where the target reads one", () => {
    const made = worn({}, "mirror");
    expect(made.specularColorMap).not.toBeNull();
    expect(made.specularIntensityMap).toBeNull();
    expect(made.ior).toBeGreaterThan(1000);
  });

  it("has a coat where the set has one, and none without it", () => {
    expect(worn().clearcoat).toBe(0);
    const made = worn({}, "coat");
    expect([made.clearcoat, made.clearcoatRoughness]).toEqual([1, 1]);
    expect(made.clearcoatMap).not.toBeNull();
    expect(made.clearcoatRoughnessMap).toBe(made.clearcoatMap);
    const bare = worn({ without: "own_coat" }, "coat");
    expect([bare.clearcoat, bare.clearcoatMap]).toEqual([0, null]);
  });

  it("turns green over where it is misread, and nothing else", () => {
    expect(worn().normalScale.toArray()).toEqual([1, 1]);
    expect(worn({ isMisread: true }).normalScale.toArray()).toEqual([1, -1]);
  });

  it("is shape alone as clay, color alone without maps", () => {
    const clay = worn({ isClay: true });
    expect([clay.map, clay.roughnessMap]).toEqual([null, null]);
    expect(clay.normalMap).not.toBeNull();
    const bare = worn({ hasMaps: false });
    expect(bare.map).not.toBeNull();
    expect([bare.normalMap, bare.roughnessMap]).toEqual([null, null]);
  });

  it.each([
    ["base_color", "map"],
    ["normal", "normalMap"],
    ["height", "displacementMap"],
    ["roughness", "roughnessMap"],
    ["metallic", "metalnessMap"],
    ["occlusion", "aoMap"],
    ["emissive", "emissiveMap"],
  ] as const)("leaves out %s alone", (without, slot) => {
    const [all, left] = [worn(), worn({ without })];
    expect(left[slot]).toBeNull();
    expect(all[slot]).not.toBeNull();
    expect(left.displacementMap === null).toBe(without === "height");
    expect(left.normalMap === null).toBe(without === "normal");
  });

  it("cuts holes at the threshold, lets light through, or leaves them solid", () => {
    expect([worn().alphaTest, worn().transparent]).toEqual([0.4, false]);
    const through = worn({ holes: "through" });
    expect([through.alphaTest, through.transparent]).toEqual([0, true]);
    const solid = worn({ holes: "solid" });
    expect([solid.alphaTest, solid.transparent]).toEqual([0, false]);
  });

  it("reads our layers where the library reads its own, and finds all of its places", () => {
    const chunks = ["normal_fragment_maps", "displacementmap_vertex", "lights_physical_fragment"];
    const included = chunks.map((name) => `#include <${name}>`).join("\n");
    const shader = {
      vertexShader: included,
      fragmentShader: included,
    } as WebGLProgramParametersWithUniforms;
    worn().onBeforeCompile(shader, {} as WebGLRenderer);
    expect(shader.vertexShader).toContain("texture2D( displacementMap, vDisplacementMapUv ).a");
    expect(shader.fragmentShader).toContain(
      "vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz;",
    );
    expect(shader.fragmentShader).toContain("material.specularF90 = 1.0;");
    expect(shader.fragmentShader).not.toContain("#include <lights_physical_fragment>");
    // the library's own is as it was
    expect(ShaderChunk.normal_fragment_maps).toContain("* 2.0 - 1.0");
  });
});
