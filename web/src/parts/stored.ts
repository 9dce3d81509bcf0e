import type { components } from "../api/schema";
import { optionsOf } from "./Choice";

/** How a value is stored: its bits, as a whole number or a float. */
export type Depth = components["schemas"]["DepthRow"];

export const FORMATS = optionsOf<components["schemas"]["FormatRow"]["key"]>({
  png: "PNG",
  tga: "TGA",
  tiff: "TIFF",
  exr: "EXR",
  "exr-tiled": "EXR, tiled with mips",
  jpeg: "JPEG",
});

export const depthKey = ({ depth, sample }: Depth) => `${depth} ${sample}`;

const DEPTHS: Record<string, string> = {
  "8 uint": "8 bit",
  "16 uint": "16 bit",
  "16 float": "Half float",
  "32 float": "Float",
};

/** The depths of a format, to choose from. */
export const depthOptions = (depths: readonly Depth[]) =>
  depths.map((one) => [depthKey(one), DEPTHS[depthKey(one)]] as const);
