/** Sides in pixels that sizes are chosen from. */
export const SIZES = [64, 128, 256, 512, 1024, 2048, 4096, 8192];
