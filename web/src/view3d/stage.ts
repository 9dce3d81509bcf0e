import { DirectionalLight, Mesh, type MeshPhysicalMaterial, NeutralToneMapping, PerspectiveCamera, PMREMGenerator, Raycaster, Scene, type Texture, Vector2, WebGLRenderer } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { bodyOf } from "./bodies";
import { type Maps, mapsOf, type Packed } from "./maps";
import { type Wear, wearing } from "./material";
import type { Body, Situation } from "./names";
import { roomOf, SKIES } from "./situations";

/** One side of the divide. */
export type Side = { packed: Packed; wear: Wear };
export type Scenery = { body: Body; situation: Situation; lamp: [number, number]; tiles: number; isDisplaced: boolean; exposure: number; rise: number; edges: { x: string; y: string } };

type Worn = { side: Side; maps: Maps; material: MeshPhysicalMaterial };

const LAMP_FAR = 6;

/** One body under one camera and one light, wearing one or two materials. Draws when something changed, never in a loop. */
export class LitScene {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(32, 1, 0.1, 50);
  private readonly lamp = new DirectionalLight();
  private readonly mesh = new Mesh();
  private readonly controls: OrbitControls;
  private readonly rooms = new Map<Situation, Texture>();
  private worn: Worn[] = [];
  private scenery: Scenery | null = null;
  private tileWidth = 1;
  private divide = 1;
  private frame = 0;

  constructor(canvas: HTMLCanvasElement, private readonly onDrawn: () => void) {
    this.renderer = new WebGLRenderer({ canvas, alpha: true, antialias: true });
    this.renderer.toneMapping = NeutralToneMapping;
    this.renderer.autoClear = false;
    this.camera.position.set(0, 0, 4.6);
    this.scene.add(this.mesh, this.camera);
    this.camera.add(this.lamp, this.lamp.target); // the dome is seen from the camera, so the lamp goes with it
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enablePan = false;
    this.controls.minDistance = 1.6;
    this.controls.maxDistance = 9;
    this.controls.addEventListener("change", this.ask);
  }

  resize(width: number, height: number) {
    this.renderer.setPixelRatio(window.devicePixelRatio);
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    this.ask();
  }

  /** Set everything but the maps. */
  arrange(next: Scenery) {
    if (next.body !== this.scenery?.body) {
      const { geometry, tileWidth } = bodyOf(next.body);
      this.mesh.geometry.dispose();
      this.mesh.geometry = geometry;
      this.tileWidth = tileWidth;
    }
    this.scene.environment = this.room(next.situation);
    this.lamp.intensity = SKIES[next.situation].lamp;
    const [x, y] = next.lamp;
    this.lamp.position.set(x, y, Math.sqrt(Math.max(0, 1 - x * x - y * y))).multiplyScalar(LAMP_FAR);
    this.renderer.toneMappingExposure = 2 ** next.exposure;
    this.scenery = next;
    this.fit();
  }

  /** Dress the body: one side, or two with the divide at a share of the width. Textures of a side that stayed are kept. */
  dress(sides: Side[], divide: number) {
    const before = this.worn;
    this.divide = divide;
    this.worn = sides.map((side) => {
      const kept = before.find((w) => w.side.packed === side.packed && isSame(w.side.wear, side.wear));
      if (kept) return kept;
      const maps = before.find((w) => w.side.packed === side.packed)?.maps ?? mapsOf(side.packed, this.scenery!.edges);
      return { side, maps, material: wearing(maps, side.wear) };
    });
    for (const old of before) {
      if (!this.worn.includes(old)) old.material.dispose();
      if (!this.worn.some((w) => w.maps === old.maps)) disposeMaps(old.maps);
    }
    this.fit();
  }

  /** What of the scenery stands in the materials: repeats, and the rise in the body's units. */
  private fit() {
    const { scenery } = this;
    if (!scenery) return;
    for (const { maps, material } of this.worn) {
      for (const texture of Object.values(maps)) texture.repeat.setScalar(scenery.tiles);
      const rise = scenery.isDisplaced ? (scenery.rise * this.tileWidth) / scenery.tiles : 0;
      material.displacementScale = rise;
      material.displacementBias = -rise / 2;
    }
    this.ask();
  }

  /** Share of the tile under a point of the canvas (0..1 from the upper left), or null beside the body. */
  texelAt(x: number, y: number): { u: number; v: number } | null {
    const ray = new Raycaster();
    ray.setFromCamera(new Vector2(2 * x - 1, 1 - 2 * y), this.camera);
    const uv = ray.intersectObject(this.mesh)[0]?.uv;
    if (!uv || !this.scenery) return null;
    const { tiles } = this.scenery;
    const share = (value: number) => ((value % 1) + 1) % 1;
    return { u: share(uv.x * tiles), v: share(1 - uv.y * tiles) };
  }

  zoom(factor: number | null) {
    const far = factor === null ? 4.6 : Math.min(9, Math.max(1.6, this.camera.position.length() / factor));
    if (factor === null) this.camera.position.set(0, 0, 1);
    this.camera.position.setLength(far);
    this.controls.update();
    this.ask();
  }

  private readonly ask = () => {
    if (!this.frame) this.frame = requestAnimationFrame(this.draw);
  };

  private readonly draw = () => {
    this.frame = 0;
    const size = this.renderer.getSize(new Vector2());
    if (!this.worn.length || size.x < 2) return;
    const at = this.worn.length > 1 ? Math.round(this.divide * size.x) : size.x;
    this.renderer.setScissorTest(false);
    this.renderer.clear();
    this.renderer.setScissorTest(true);
    this.worn.forEach(({ material }, k) => {
      this.mesh.material = material;
      this.renderer.setScissor(k ? at : 0, 0, k ? size.x - at : at, size.y);
      this.renderer.render(this.scene, this.camera);
    });
    this.onDrawn();
  };

  private room(situation: Situation): Texture {
    const known = this.rooms.get(situation);
    if (known) return known;
    const catcher = new PMREMGenerator(this.renderer);
    const caught = catcher.fromScene(roomOf(SKIES[situation]), 0.02).texture;
    catcher.dispose();
    this.rooms.set(situation, caught);
    return caught;
  }

  dispose() {
    cancelAnimationFrame(this.frame);
    this.controls.dispose();
    this.mesh.geometry.dispose();
    for (const { maps, material } of this.worn) {
      material.dispose();
      disposeMaps(maps);
    }
    for (const texture of this.rooms.values()) texture.dispose();
    this.renderer.dispose();
  }
}

const disposeMaps = (maps: Maps) => Object.values(maps).forEach((texture) => texture.dispose());

const isSame = (a: Wear, b: Wear) => a.hasMaps === b.hasMaps && a.isClay === b.isClay && a.isMisread === b.isMisread;
