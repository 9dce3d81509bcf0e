import { type BufferGeometry, Triangle, Vector3 } from "three";

const MOST = 64; // places of one texel that are looked at

/** A place of a body that has a texel, and which way it faces. */
export type BodyPlace = { place: Vector3; facing: Vector3 };

/**
 * The places of a body whose texture coordinates, repeated `tiles` times a unit, name a texel
 * (shares of the tile from its upper left).
 */
export function placesOf(
  geometry: BufferGeometry,
  { u, v }: { u: number; v: number },
  tiles: number,
): BodyPlace[] {
  const { index } = geometry;
  const [places, uvs] = [geometry.getAttribute("position"), geometry.getAttribute("uv")];
  if (!uvs) return [];
  const corner = (k: number) => index?.getX(k) ?? k;
  const found: BodyPlace[] = [];
  const count = index?.count ?? places.count;
  for (let k = 0; k + 2 < count && found.length < MOST; k += 3) {
    const [a, b, c] = [corner(k), corner(k + 1), corner(k + 2)];
    const [ax, ay] = [uvs.getX(a) * tiles - u, uvs.getY(a) * tiles - (1 - v)];
    const [bx, by] = [uvs.getX(b) * tiles - u, uvs.getY(b) * tiles - (1 - v)];
    const [cx, cy] = [uvs.getX(c) * tiles - u, uvs.getY(c) * tiles - (1 - v)];
    // a whole number inside the triangle's box is a repeat that may lie in it
    const [x, y] = [Math.ceil(Math.min(ax, bx, cx)), Math.ceil(Math.min(ay, by, cy))];
    if (x > Math.max(ax, bx, cx) || y > Math.max(ay, by, cy)) continue;
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const ofB = ((x - ax) * (cy - ay) - (cx - ax) * (y - ay)) / area;
    const ofC = ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) / area;
    if (!(ofB >= 0 && ofC >= 0 && ofB + ofC <= 1)) continue;
    const [pa, pb, pc] = [a, b, c].map((one) => new Vector3().fromBufferAttribute(places, one));
    found.push({
      place: pa
        .clone()
        .multiplyScalar(1 - ofB - ofC)
        .addScaledVector(pb, ofB)
        .addScaledVector(pc, ofC),
      facing: new Triangle(pa, pb, pc).getNormal(new Vector3()),
    });
  }
  return found;
}
