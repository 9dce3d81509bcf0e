import {
  BufferGeometry,
  DirectionalLight,
  Mesh,
  MeshBasicMaterial,
  type MeshPhysicalMaterial,
  NeutralToneMapping,
  PCFShadowMap,
  PerspectiveCamera,
  Raycaster,
  Scene,
  Spherical,
  Vector2,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { sure } from "../parts/sure";
import { Apart } from "./apart";
import { Beside, type PieceBeside } from "./beside";
import { bodyOf } from "./bodies";
import { type Around, Lights } from "./lights";
import { type Maps, mapsOf, type Packed } from "./maps";
import { markedBy } from "./marked";
import { type Wear, wearing } from "./material";
import { type Backdrop, type Balls, type Body, FAR, type OwnMesh, type Situation } from "./names";
import { placesOf } from "./places";
import { barOf } from "./scaleBar";
import { isSoftware } from "./software";
import { subdivided } from "./subdivided";
import { type Ground, Surroundings } from "./surroundings";

/** One of the two that are compared: a material, how it is lit and how far it raises the body. */
export type Side = {
  packed: Packed;
  wear: Wear;
  situation: Situation;
  displacement: number; // 0 leaves the body smooth, 1 is the rise as it is
};
export type Scenery = {
  body: Body | OwnMesh;
  isDisplaced: boolean; // by any side
  lamp: [number, number];
  tiles: number;
  aspect: number; // width over height of what the body wears
  across: number; // tiles of a set side by side in it
  exposure: number;
  rise: number;
  edges: { x: string; y: string };
  backdrop: Backdrop;
  blur: number; // of what lights the body, seen behind it
  surroundings: Around;
  ground: Ground | null;
  balls: Balls;
  barBy: number | null; // the width of a tile in meters, where a bar of known length is shown
};
/**
 * How two sides stand: with a line at a share of the width, beside each other, or as what differs.
 */
export type Standing = { way: "divide" | "beside" | "difference"; divide: number; gain: number };

type Worn = { side: Side; maps: Maps; material: MeshPhysicalMaterial };
type Place = [number, number, number];

/** What decides the form of the body. */
const FORM = ["body", "isDisplaced", "aspect", "across"] as const;
const MOST_SEARCHED = 300_000; // corners of a mesh
const LAMP_FAR = 6;
const [NEAREST, FARTHEST] = [0.4, 12];
const POLE = 0.05; // radians from straight above or below, where left and right would change places
const SHADOW = { reach: 2.6, texels: 1024, bias: -0.0008, normalBias: 0.02, softness: 6 };

/**
 * One body under one camera and one light, wearing one or two materials. Draws when something
 * changed, never in a loop.
 */
export class LitScene {
  private readonly isSoftware = isSoftware();
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(32, 1, 0.1, 50);
  private readonly lamp = new DirectionalLight();
  private readonly mesh = new Mesh();
  private readonly over = new Mesh(new BufferGeometry(), new MeshBasicMaterial());
  private readonly surroundings = new Surroundings();
  private readonly apart = new Apart();
  private readonly beside = new Beside();
  private readonly controls: OrbitControls;
  private readonly lights: Lights;
  private worn: Worn[] = [];
  private scenery: Scenery | null = null;
  private standing: Standing = { way: "divide", divide: 1, gain: 1 };
  private tileWidth = 1;
  private retired: Worn[] = [];
  private frame = 0;

  /** `place` is where the eye was last, `onPlaced` hears where it goes. */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    place: Place | null,
    private readonly onDrawn: () => void,
    private readonly onPlaced: (place: Place) => void,
  ) {
    this.renderer = new WebGLRenderer({ canvas, alpha: true, antialias: !this.isSoftware });
    this.lights = new Lights(this.renderer, this.isSoftware);
    this.renderer.toneMapping = NeutralToneMapping;
    this.renderer.shadowMap.type = PCFShadowMap;
    this.renderer.autoClear = false;
    this.camera.position.set(...(place ?? [0, 0, FAR]));
    this.over.visible = false;
    this.scene.add(this.mesh, this.beside.group, this.over, this.surroundings.group, this.camera);
    // the dome is seen from the camera, so the lamp goes with it
    this.camera.add(this.lamp, this.lamp.target);
    this.mesh.castShadow = true;
    const { camera: seen, mapSize } = this.lamp.shadow;
    [seen.left, seen.right, seen.top, seen.bottom, seen.far] = [
      -SHADOW.reach,
      SHADOW.reach,
      SHADOW.reach,
      -SHADOW.reach,
      3 * LAMP_FAR,
    ];
    mapSize.setScalar(SHADOW.texels);
    [this.lamp.shadow.bias, this.lamp.shadow.normalBias, this.lamp.shadow.radius] = [
      SHADOW.bias,
      SHADOW.normalBias,
      SHADOW.softness,
    ];
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enablePan = false;
    this.controls.minDistance = NEAREST;
    this.controls.maxDistance = FARTHEST;
    this.controls.addEventListener("change", () => {
      this.placeLamp();
      this.ask();
    });
    this.controls.addEventListener("end", () => this.onPlaced(this.camera.position.toArray()));
  }

  /** Turn the eye around the body, by radians to the right and upwards. */
  turn(right: number, up: number) {
    const at = new Spherical().setFromVector3(this.camera.position);
    at.theta += right;
    at.phi = Math.min(Math.PI - POLE, Math.max(POLE, at.phi - up));
    this.camera.position.setFromSpherical(at);
    this.controls.update();
    this.onPlaced(this.camera.position.toArray());
  }

  resize(width: number, height: number) {
    this.renderer.setPixelRatio(window.devicePixelRatio);
    this.renderer.setSize(width, height, false);
    this.ask();
  }

  /** Set everything but the maps. */
  arrange(next: Scenery) {
    const before = this.scenery;
    if (FORM.some((key) => next[key] !== before?.[key])) this.wear(next);
    this.scene.backgroundBlurriness = next.blur;
    this.renderer.toneMappingExposure = 2 ** next.exposure;
    this.renderer.shadowMap.enabled = this.lamp.castShadow = next.ground !== null;
    const isSolid = (one: Scenery | null) => !!one?.ground || typeof one?.body === "object";
    if (isSolid(next) && !isSolid(this.scenery) && this.isAtStart())
      this.camera.position.set(0, 1.2, FAR); // what stands somewhere is seen from above
    this.scenery = next;
    this.controls.update();
    this.placeLamp();
    this.fit();
  }

  /** What of the mesh wears other sets, around the body. */
  surround(pieces: PieceBeside[], wear: Wear) {
    this.beside.arrange(pieces, wear);
    this.fit();
  }

  /**
   * On the dome around the body, seen from the eye; its shadow falls where the body stands, however
   * far that is.
   */
  private placeLamp() {
    const [x, y] = this.scenery?.lamp ?? [0, 0];
    const far = this.camera.position.length();
    this.lamp.target.position.set(0, 0, -far);
    this.lamp.position
      .set(x, y, Math.sqrt(Math.max(0, 1 - x * x - y * y)))
      .multiplyScalar(LAMP_FAR)
      .add(this.lamp.target.position);
  }

  private wear({ body, isDisplaced, aspect, across }: Scenery) {
    const isOwn = typeof body !== "string";
    const own = isOwn && isDisplaced ? { ...body, geometry: subdivided(body).geometry } : body;
    const { geometry, tileWidth } =
      typeof own === "string" ? bodyOf(own, isDisplaced, aspect) : own;
    if (!this.mesh.userData.isOwn) this.mesh.geometry.dispose();
    this.mesh.geometry = this.over.geometry = geometry;
    this.mesh.userData.isOwn = isOwn; // it is the view's, and may be worn again
    this.tileWidth = isOwn ? tileWidth : tileWidth / across;
    geometry.computeBoundingBox();
  }

  private isAtStart() {
    const { x, y } = this.camera.position;
    return Math.abs(x) + Math.abs(y) < 1e-6;
  }

  /**
   * Dress the body: one side, or two as they are to stand. Textures of a side that stayed are kept.
   */
  dress(sides: Side[], standing: Standing) {
    const before = this.worn;
    this.standing = standing;
    this.worn = sides.map((side) => {
      const kept = before.find(
        (w) => w.side.packed === side.packed && isSame(w.side.wear, side.wear),
      );
      if (kept) return { ...kept, side };
      const maps =
        before.find((w) => w.side.packed === side.packed)?.maps ??
        mapsOf(side.packed, sure(this.scenery, "the scenery").edges);
      return { side, maps, material: wearing(maps, side.wear) };
    });
    // only once the next has been drawn: it is drawn by the same program, which would go with the
    // last material
    this.retired.push(...before);
    this.fit();
  }

  /**
   * What of the scenery stands in the materials and under the body: repeats, and the rise in the
   * body's units.
   */
  private fit() {
    const { scenery } = this;
    if (!scenery) return;
    const riseOf = (displacement: number) =>
      (displacement * scenery.rise * this.tileWidth) / scenery.tiles;
    for (const { side, maps, material } of this.worn) {
      for (const texture of Object.values(maps)) texture.repeat.setScalar(scenery.tiles);
      material.displacementScale = riseOf(side.displacement);
      material.displacementBias = -riseOf(side.displacement) / 2;
    }
    const highest = Math.max(0, ...this.worn.map(({ side }) => side.displacement));
    const { min, max } = this.beside
      .box()
      .union(sure(this.mesh.geometry.boundingBox, "the body's box"));
    this.surroundings.arrange(
      scenery.ground,
      scenery.balls,
      scenery.barBy === null ? null : barOf(this.tileWidth / scenery.tiles / scenery.barBy),
      { lowest: min.y - riseOf(highest) / 2, front: max.z + riseOf(highest) / 2 },
    );
    this.ask();
  }

  /**
   * Share of the tile under a point of the canvas (0..1 from the upper left), or null beside the
   * body.
   */
  texelAt(x: number, y: number): { u: number; v: number } | null {
    const ray = new Raycaster();
    const isBeside = this.worn.length > 1 && this.standing.way === "beside";
    ray.setFromCamera(new Vector2(2 * (isBeside ? (2 * x) % 1 : x) - 1, 1 - 2 * y), this.camera);
    const nearest = ray.intersectObjects([this.mesh, ...this.beside.group.children])[0];
    const uv = nearest?.object === this.mesh && nearest.uv;
    if (!uv || !this.scenery) return null;
    const { tiles } = this.scenery;
    const share = (value: number) => ((value % 1) + 1) % 1;
    return { u: share(uv.x * tiles), v: share(1 - uv.y * tiles) };
  }

  /**
   * Where a texel stands on the canvas (shares of it from the upper left), nearest to the eye; null
   * where no part of the body that faces it has it. Meshes of very many triangles are not searched.
   */
  pointOf(texel: { u: number; v: number }): { x: number; y: number } | null {
    const { geometry } = this.mesh;
    if (!this.scenery || (geometry.index?.count ?? 0) > MOST_SEARCHED) return null;
    const found = placesOf(geometry, texel, this.scenery.tiles)
      .filter(({ place, facing }) => facing.dot(this.camera.position.clone().sub(place)) > 0)
      .map(({ place }) => ({ place, far: place.distanceTo(this.camera.position) }))
      .sort((a, b) => a.far - b.far)[0];
    if (!found) return null;
    const { x, y } = found.place.project(this.camera);
    return { x: (x + 1) / 2, y: (1 - y) / 2 };
  }

  /** A picture over the body's own, such as the borders of islands; null takes it away. */
  mark(picture: HTMLCanvasElement | null) {
    this.over.visible = picture !== null;
    const before = this.over.material;
    before.map?.dispose();
    before.dispose();
    if (picture) this.over.material = markedBy(picture);
    this.ask();
  }

  zoom(factor: number | null) {
    const far =
      factor === null
        ? FAR
        : Math.min(FARTHEST, Math.max(NEAREST, this.camera.position.length() / factor));
    if (factor === null) this.camera.position.set(0, this.scenery?.ground ? 0.26 : 0, 1);
    this.camera.position.setLength(far);
    this.controls.update();
    this.ask();
  }

  /** The view as it is now, as a PNG. */
  picture(): Promise<Blob | null> {
    this.draw(); // the buffer holds the drawing only until the browser has shown it
    return new Promise((resolve) => this.canvas.toBlob(resolve, "image/png"));
  }

  /** Show nothing. What was worn is let go of with the next drawing, so that its program stays. */
  undress() {
    this.retired.push(...this.worn);
    this.worn = [];
    this.renderer.setScissorTest(false);
    this.renderer.clear();
  }

  /** Let go of what was worn before and is not any more. */
  private retire() {
    for (const old of this.retired) {
      if (!this.worn.some((w) => w.material === old.material)) old.material.dispose();
      if (!this.worn.some((w) => w.maps === old.maps)) disposeMaps(old.maps);
    }
    this.retired = [];
  }

  private readonly ask = () => {
    if (!this.frame) this.frame = requestAnimationFrame(this.draw);
  };

  private readonly draw = () => {
    this.frame = 0;
    const size = this.renderer.getSize(new Vector2());
    if (!this.worn.length || size.x < 2) return;
    // caught before anything is cleared: it leaves its own color
    for (const { side } of this.worn) this.lightOf(side);
    this.renderer.setClearColor(0x000000, 0);
    const { way, divide, gain } = this.standing;
    const hasTwo = this.worn.length > 1;
    this.renderer.setScissorTest(false);
    this.renderer.setViewport(0, 0, size.x, size.y);
    if (hasTwo && way === "difference") {
      this.frameWithin(size.x, size.y);
      const [first, second] = this.worn.map((worn) => () => this.render(worn));
      this.apart.draw(this.renderer, [first, second], gain);
      this.retire();
      return this.onDrawn();
    }
    this.renderer.clear();
    this.renderer.setScissorTest(true);
    const at = hasTwo ? Math.round((way === "beside" ? 0.5 : divide) * size.x) : size.x;
    this.worn.forEach((worn, k) => {
      const [left, width] = k ? [at, size.x - at] : [0, at];
      if (way === "beside") this.renderer.setViewport(left, 0, width, size.y);
      this.frameWithin(way === "beside" ? width : size.x, size.y);
      this.renderer.setScissor(left, 0, width, size.y);
      this.render(worn);
    });
    this.retire();
    this.onDrawn();
  };

  private lightOf({ situation }: Side) {
    return this.lights.of(situation, this.scenery?.surroundings ?? null);
  }

  private frameWithin(width: number, height: number) {
    this.camera.aspect = width / height;
    this.camera.zoom = Math.min(1, this.camera.aspect); // a narrow frame still shows the whole body
    this.camera.updateProjectionMatrix();
  }

  private render({ side, material }: Worn) {
    this.mesh.material = material;
    const { room, lamp, turn, strength } = this.lightOf(side);
    this.scene.environment = room;
    this.scene.environmentRotation.y = this.scene.backgroundRotation.y = turn;
    this.scene.environmentIntensity = this.scene.backgroundIntensity = strength;
    this.scene.background = this.scenery?.backdrop === "room" ? this.scene.environment : null;
    this.lamp.intensity = lamp;
    this.renderer.render(this.scene, this.camera);
  }
}

const disposeMaps = (maps: Maps) => {
  for (const texture of Object.values(maps)) texture.dispose();
};

const isSame = (a: Wear, b: Wear) => JSON.stringify(a) === JSON.stringify(b);
