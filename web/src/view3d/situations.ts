import {
  BackSide,
  Color,
  DataTexture,
  EquirectangularReflectionMapping,
  Float32BufferAttribute,
  HalfFloatType,
  LinearFilter,
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  RGBAFormat,
  Scene,
  SphereGeometry,
} from "three";
import { type House, isHouse, type Situation } from "./names";

/** A picture of the whole sphere: linear half floats, four a texel, first row on top. */
export type Light = { width: number; height: number; bytes: ArrayBuffer };

/** The situation itself, and indoor for a picture that has not come yet. */
export const houseOf = (situation: Situation): House => (isHouse(situation) ? situation : "indoor");

type Panel = { at: [number, number, number]; width: number; height: number; glow: number };
type Sky = {
  zenith: number;
  horizon: number;
  ground: number;
  tint: [number, number, number];
  lamp: number;
  panels: Panel[];
};

/**
 * Light around the body: a sky from zenith to ground in linear light, glowing panels, and how
 * strong the lamp is.
 */
export const SKIES: Record<House, Sky> = {
  indoor: {
    zenith: 0.35,
    horizon: 0.3,
    ground: 0.18,
    tint: [1, 0.98, 0.95],
    lamp: 2.2,
    panels: [
      { at: [-5, 4, 3], width: 3, height: 4, glow: 5 },
      { at: [6, 2, 1], width: 1.2, height: 5, glow: 3 },
      { at: [0, 7, -2], width: 6, height: 2, glow: 2 },
    ],
  },
  overcast: {
    zenith: 1.1,
    horizon: 0.8,
    ground: 0.25,
    tint: [0.97, 0.99, 1],
    lamp: 0.5,
    panels: [],
  },
  "low-sun": {
    zenith: 0.35,
    horizon: 0.6,
    ground: 0.15,
    tint: [0.9, 0.95, 1],
    lamp: 4,
    panels: [{ at: [-8, 1.2, 2], width: 1, height: 1, glow: 40 }],
  },
};

/** A picture of the whole sphere, to be caught by the renderer. Whoever calls disposes of it. */
export function pictureOf({ width, height, bytes }: Light): DataTexture {
  const texture = new DataTexture(
    new Uint16Array(bytes),
    width,
    height,
    RGBAFormat,
    HalfFloatType,
    EquirectangularReflectionMapping,
  );
  texture.flipY = true; // the sky is above
  texture.magFilter = texture.minFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

/** A room to be caught once by the renderer as the light from every side. */
export function roomOf(sky: Sky): Scene {
  const scene = new Scene();
  const dome = new SphereGeometry(20, 32, 24);
  const heights = dome.getAttribute("position");
  const colors = Array.from({ length: heights.count }, (_, k) => {
    const up = heights.getY(k) / 20;
    const glow =
      up >= 0
        ? sky.horizon + (sky.zenith - sky.horizon) * up
        : sky.horizon + (sky.ground - sky.horizon) * Math.min(1, -up * 5);
    return sky.tint.map((t) => t * glow);
  });
  dome.setAttribute("color", new Float32BufferAttribute(colors.flat(), 3));
  scene.add(new Mesh(dome, new MeshBasicMaterial({ side: BackSide, vertexColors: true })));
  for (const panel of sky.panels) {
    const mesh = new Mesh(
      new PlaneGeometry(panel.width, panel.height),
      new MeshBasicMaterial({ color: new Color().setScalar(panel.glow) }),
    );
    mesh.position.set(...panel.at);
    mesh.lookAt(0, 0, 0);
    scene.add(mesh);
  }
  return scene;
}
