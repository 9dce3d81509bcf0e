import {
  CanvasTexture,
  DoubleSide,
  MeshBasicMaterial,
  RepeatWrapping,
  SRGBColorSpace,
} from "three";

/** A picture with holes that lies on a body, a hair in front of what it wears. */
export function markedBy(picture: HTMLCanvasElement): MeshBasicMaterial {
  const map = new CanvasTexture(picture);
  map.colorSpace = SRGBColorSpace;
  map.wrapS = map.wrapT = RepeatWrapping;
  return new MeshBasicMaterial({
    map,
    transparent: true,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -2,
    polygonOffsetUnits: -2,
    side: DoubleSide,
    toneMapped: false,
  });
}
