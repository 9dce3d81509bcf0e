/** Colors as codes (#RRGGBB, sRGB) and as masters hold them, in linear light. */

const decoded = (code: number) =>
  code <= 0.04045 ? code / 12.92 : ((code + 0.055) / 1.055) ** 2.4;
const encoded = (light: number) =>
  light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055;

/** Three linear values as a code; what lies outside of 0 to 1 is brought to its end. */
export const codeOf = (linear: readonly number[]): string =>
  `#${linear
    .map((value) => Math.round(encoded(Math.min(1, Math.max(0, value))) * 255))
    .map((step) => step.toString(16).padStart(2, "0"))
    .join("")}`;

/** A code, with or without its #, of three digits or six, as linear values; null for what is none. */
export function linearOf(code: string): [number, number, number] | null {
  const digits = code.trim().replace(/^#/, "");
  if (!/^([0-9a-f]{3}|[0-9a-f]{6})$/i.test(digits)) return null;
  const pairs = digits.length === 3 ? [...digits].map((d) => d + d) : digits.match(/../g);
  const [r, g, b] = (pairs ?? []).map((pair) => decoded(Number.parseInt(pair, 16) / 255));
  return [r, g, b];
}
