import { CanvasTexture, Mesh, MeshBasicMaterial, PlaneGeometry, SRGBColorSpace } from "three";

const [LONGEST, THICKNESS] = [1.2, 0.14]; // in the body's units
const UNITS = [
  [1000, "km"],
  [1, "m"],
  [0.01, "cm"],
  [0.001, "mm"],
  [0.000001, "µm"],
] as const;
const FIELDS: Record<number, number> = { 1: 10, 2: 4, 5: 5 };
const PAINTED = { px: 160, field: 0.34, text: 0.5 }; // high, and shares of it

export type Bar = { meters: number; length: number; fields: number };

/**
 * The longest bar of 1, 2 or 5 of a power of ten that is no wider than the body; `unitsPerMeter` is
 * how long a meter is on it.
 */
export function barOf(unitsPerMeter: number): Bar {
  const power = 10 ** Math.floor(Math.log10(LONGEST / unitsPerMeter));
  const step = [5, 2, 1].find((one) => one * power * unitsPerMeter <= LONGEST * 1.0001) ?? 1;
  const meters = step * power;
  return { meters, length: meters * unitsPerMeter, fields: FIELDS[step] };
}

/** A length as people say it: 20 cm, 5 mm. */
export function lengthSaid(meters: number): string {
  const [size, unit] = UNITS.find(([one]) => meters >= one * 0.9999) ?? [0.000001, "µm"];
  return `${Number((meters / size).toPrecision(3))} ${unit}`;
}

/** A flat rod of light and dark fields with its length below, to judge the size of the grain by. */
export class ScaleBar {
  readonly mesh = new Mesh(
    new PlaneGeometry(1, 1),
    new MeshBasicMaterial({ toneMapped: false, transparent: true }),
  );
  private drawn = "";

  /** Stand in the middle, at a height and as near to the eye as said, or go away. */
  arrange(bar: Bar | null, height: number, near: number) {
    this.mesh.visible = bar !== null;
    if (!bar) return;
    this.mesh.scale.set(bar.length, THICKNESS, 1);
    this.mesh.position.set(0, height, near);
    const now = `${bar.meters} ${bar.fields} ${bar.length}`;
    if (now !== this.drawn) this.paint(bar);
    this.drawn = now;
  }

  private paint({ meters, length, fields }: Bar) {
    const canvas = document.createElement("canvas");
    canvas.height = PAINTED.px;
    canvas.width = Math.max(PAINTED.px, Math.round((PAINTED.px * length) / THICKNESS));
    const to = canvas.getContext("2d");
    if (!to) return;
    const wide = canvas.width / fields;
    for (let k = 0; k < fields; k++) {
      to.fillStyle = k % 2 ? "#f2f0ea" : "#1d1c1a";
      to.fillRect(k * wide, 0, wide, PAINTED.px * PAINTED.field);
    }
    to.strokeStyle = "#1d1c1a";
    to.lineWidth = 4;
    to.strokeRect(2, 2, canvas.width - 4, PAINTED.px * PAINTED.field - 4);
    to.font = `600 ${PAINTED.px * PAINTED.text}px sans-serif`;
    to.textAlign = "center";
    to.textBaseline = "bottom";
    to.lineWidth = 14;
    to.lineJoin = "round";
    to.strokeStyle = "#f2f0ea"; // it is read on any ground
    to.strokeText(lengthSaid(meters), canvas.width / 2, PAINTED.px);
    to.fillStyle = "#1d1c1a";
    to.fillText(lengthSaid(meters), canvas.width / 2, PAINTED.px);
    this.mesh.material.map?.dispose();
    this.mesh.material.map = new CanvasTexture(canvas);
    this.mesh.material.map.colorSpace = SRGBColorSpace;
    this.mesh.material.needsUpdate = true;
  }

  dispose() {
    this.mesh.material.map?.dispose();
    this.mesh.material.dispose();
    this.mesh.geometry.dispose();
  }
}
