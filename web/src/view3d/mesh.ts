import {
  Box3,
  type BufferGeometry,
  Float32BufferAttribute,
  Mesh,
  type Object3D,
  Vector3,
} from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { mergeGeometries } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import { type MeshLook, wornBy } from "../api/meshes";
import { inTurns } from "../api/turns";
import { sure } from "../parts/sure";
import type { OwnMesh, Piece } from "./names";

const KEPT = ["position", "normal", "uv"];
const readings = inTurns(2); // the pictures of the set in hand must not wait behind dozens
const RADIUS = 1.15; // of the ball that every mesh is brought into, in the bodies' units

/**
 * What of a person's own mesh wears one material, and where it is meant whole what wears the
 * others: centered together, brought to the size of our bodies.
 */
export async function meshOf(look: MeshLook, material: number, isWhole: boolean): Promise<OwnMesh> {
  const others = look.materials.flatMap(({ triangles }, k) =>
    isWhole && triangles > 0 && k !== material ? [k] : [],
  );
  const ask = (k: number) => readings.ask(String(k), () => pieceOf(look, k));
  const pieces = await Promise.all([
    ask(material),
    ...others.map((k) => ask(k).catch(() => null)), // one that the high mesh alone has
  ]);
  const [own, ...beside] = centered(pieces.filter((piece) => piece !== null));
  return { ...own, look, beside, isWhole };
}

/** All parts of one material as one, where they lie in the file. */
async function pieceOf(look: MeshLook, material: number): Promise<Omit<Piece, "tileWidth">> {
  const read = await new GLTFLoader().parseAsync(await wornBy(look, material), "");
  const parts = partsOf(read.scene);
  const hasMap = parts.every((part) => part.getAttribute("uv"));
  if (!hasMap) for (const part of parts) layFlat(part);
  const geometry = mergeGeometries(parts);
  const triangles = geometry.getAttribute("position").count / 3;
  return { material, geometry, triangles, hasMap };
}

/** The same around the middle of them all, as large as our bodies. */
function centered(pieces: Omit<Piece, "tileWidth">[]): Piece[] {
  const box = new Box3();
  for (const { geometry } of pieces) {
    geometry.computeBoundingBox();
    box.union(sure(geometry.boundingBox, "the mesh's box"));
  }
  const middle = box.getCenter(new Vector3());
  const scale = RADIUS / Math.max(box.getSize(new Vector3()).length() / 2, 1e-9);
  return pieces.map((piece) => {
    piece.geometry.translate(-middle.x, -middle.y, -middle.z).scale(scale, scale, scale);
    return { ...piece, tileWidth: tileWidthOf(piece.geometry) };
  });
}

/** Every mesh below, as loose triangles in the scene's own axes, with what we need and no more. */
function partsOf(scene: Object3D): BufferGeometry[] {
  const parts: BufferGeometry[] = [];
  scene.updateMatrixWorld(true);
  scene.traverse((node) => {
    if (!(node instanceof Mesh) || !node.geometry.getAttribute("position")?.count) return;
    const { geometry } = node;
    const part = geometry.index ? geometry.toNonIndexed() : geometry.clone();
    part.applyMatrix4(node.matrixWorld);
    const uv = part.getAttribute("uv");
    for (let k = 0; k < (uv?.count ?? 0); k++) uv.setY(k, 1 - uv.getY(k)); // a glTF's v points down
    if (!part.getAttribute("normal")) part.computeVertexNormals();
    for (const name of Object.keys(part.attributes))
      if (!KEPT.includes(name)) part.deleteAttribute(name);
    part.morphAttributes = {};
    parts.push(part);
  });
  return parts;
}

/** Lay the map onto a mesh from the front, as wide as the mesh. */
function layFlat(geometry: BufferGeometry) {
  geometry.computeBoundingBox();
  const { min, max } = sure(geometry.boundingBox, "the mesh's box");
  const width = Math.max(max.x - min.x, max.y - min.y, 1e-9);
  const at = geometry.getAttribute("position");
  const uv = Array.from({ length: at.count }, (_, k) => [
    (at.getX(k) - min.x) / width,
    (at.getY(k) - min.y) / width,
  ]).flat();
  geometry.setAttribute("uv", new Float32BufferAttribute(uv, 2));
}

/** The same mesh with its faces turned around: what was outside is inside. */
export const turned = (mesh: OwnMesh): OwnMesh => ({
  ...mesh,
  geometry: turnedFaces(mesh.geometry),
  beside: mesh.beside.map((piece) => ({ ...piece, geometry: turnedFaces(piece.geometry) })),
});

function turnedFaces(given: BufferGeometry): BufferGeometry {
  const geometry = given.clone();
  for (const [name, values] of Object.entries(geometry.attributes)) {
    const size = values.itemSize,
      from = Float32Array.from(values.array),
      to = from.slice();
    for (let k = 0; k < values.count; k += 3)
      for (const [a, b] of [
        [1, 2],
        [2, 1],
      ])
        to.set(from.subarray((k + b) * size, (k + b + 1) * size), (k + a) * size);
    geometry.setAttribute(
      name,
      new Float32BufferAttribute(name === "normal" ? to.map((v) => -v) : to, size),
    );
  }
  return geometry;
}

/** The same mesh whose map fills one tile exactly. */
export function fitted(mesh: OwnMesh): OwnMesh {
  const geometry = mesh.geometry.clone();
  const uv = geometry.getAttribute("uv");
  const ends = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < uv.count; k++) {
    const [u, v] = [uv.getX(k), uv.getY(k)];
    [ends[0], ends[1], ends[2], ends[3]] = [
      Math.min(ends[0], u),
      Math.min(ends[1], v),
      Math.max(ends[2], u),
      Math.max(ends[3], v),
    ];
  }
  const [wide, high] = [Math.max(ends[2] - ends[0], 1e-9), Math.max(ends[3] - ends[1], 1e-9)];
  const moved = Array.from({ length: uv.count }, (_, k) => [
    (uv.getX(k) - ends[0]) / wide,
    (uv.getY(k) - ends[1]) / high,
  ]).flat();
  geometry.setAttribute("uv", new Float32BufferAttribute(moved, 2));
  return { ...mesh, geometry, tileWidth: tileWidthOf(geometry) };
}

/**
 * Width of one tile on the mesh in its own units: the root of its area over the area of its map.
 */
function tileWidthOf(geometry: BufferGeometry): number {
  const [at, uv] = [geometry.getAttribute("position"), geometry.getAttribute("uv")];
  const corner = (k: number) => new Vector3(at.getX(k), at.getY(k), at.getZ(k));
  let [area, map] = [0, 0];
  for (let k = 0; k < at.count; k += 3) {
    const a = corner(k);
    area += corner(k + 1)
      .sub(a)
      .cross(corner(k + 2).sub(a))
      .length();
    map += Math.abs(
      (uv.getX(k + 1) - uv.getX(k)) * (uv.getY(k + 2) - uv.getY(k)) -
        (uv.getX(k + 2) - uv.getX(k)) * (uv.getY(k + 1) - uv.getY(k)),
    );
  }
  return map > 0 ? Math.sqrt(area / map) : 1;
}
