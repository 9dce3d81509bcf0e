/** Which way the green of normals points. */
export const GREENS = [
  ["up", "Y+"],
  ["down", "Y−"],
] as const;
