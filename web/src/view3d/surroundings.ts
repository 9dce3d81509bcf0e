import {
  Color,
  Group,
  Mesh,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  PlaneGeometry,
  SphereGeometry,
} from "three";
import { type Balls, FAR } from "./names";
import { type Bar, ScaleBar } from "./scaleBar";

const STEPS = 6; // balls from roughness 0 to 1
const [BALL_RADIUS, BALL_GAP, BALL_Y] = [0.1, 0.36, -1.16];
const BAR_Y = 1.15; // over the body, as far away as its middle
const BEFORE = 0.75; // the body, where the row stands on the ground
const GROUND_WIDTH = 14;

export type Ground = { color: string; roughness: number };

/** Where the body ends below, and towards the eye. */
type Extent = { lowest: number; front: number };

/**
 * What stands around the body to judge it by: ground under it, a row of balls from mirror to dull
 * before it, and a bar of a known length.
 */
export class Surroundings {
  readonly group = new Group();
  private readonly ground = new Mesh(
    new PlaneGeometry(GROUND_WIDTH, GROUND_WIDTH),
    new MeshStandardMaterial(),
  );
  private readonly row = new Group();
  private readonly bar = new ScaleBar();
  private readonly ball = new SphereGeometry(BALL_RADIUS, 48, 24);
  private readonly balls = Array.from(
    { length: STEPS },
    (_, k) =>
      new MeshPhysicalMaterial({ color: new Color(0.5, 0.5, 0.5), roughness: k / (STEPS - 1) }),
  );

  constructor() {
    this.ground.rotation.x = -Math.PI / 2;
    this.ground.receiveShadow = true;
    for (const [k, material] of this.balls.entries()) {
      const mesh = new Mesh(this.ball, material);
      mesh.position.set((k - (STEPS - 1) / 2) * BALL_GAP, BALL_Y, 0);
      this.row.add(mesh);
    }
    this.group.add(this.ground, this.row, this.bar.mesh);
  }

  /** The bar is as near to the eye as what of the body is nearest, to be held against it. */
  arrange(ground: Ground | null, balls: Balls, bar: Bar | null, { lowest, front }: Extent) {
    this.ground.visible = ground !== null;
    this.ground.position.y = lowest;
    if (ground) {
      this.ground.material.color.set(ground.color);
      this.ground.material.roughness = ground.roughness;
    }
    this.bar.arrange(bar, BAR_Y * (1 - front / FAR), front);
    this.row.visible = balls !== "none";
    this.row.position.set(0, ground ? lowest + BALL_RADIUS - BALL_Y : 0, ground ? BEFORE : 0);
    for (const material of this.balls) material.metalness = balls === "metal" ? 1 : 0;
  }

  dispose() {
    for (const one of [
      this.ground.geometry,
      this.ground.material,
      this.ball,
      ...this.balls,
      this.bar,
    ])
      one.dispose();
  }
}
