/**
 * What a hand made of `before`, made of `now` instead: every part that it changed is as it wants
 * it, every other as it is now. Lists of one length go part by part, others are taken whole.
 *
 * `carried({ a: 1, b: 1 }, { a: 2, b: 1 }, { a: 1, b: 3 })` is `{ a: 2, b: 3 }`
 */
export function carried<T>(before: T, wanted: T, now: T): T {
  if (before === now || isSame(wanted, now)) return wanted;
  if (isSame(before, wanted)) return now;
  if (!isKeyed(before) || !isKeyed(wanted) || !isKeyed(now)) return wanted;
  if (!isAlike(before, wanted) || !isAlike(wanted, now)) return wanted;
  const made = Array.isArray(now) ? Object.assign([], now) : { ...now };
  for (const key of new Set([...Object.keys(before), ...Object.keys(wanted)]))
    if (!(key in wanted)) Reflect.deleteProperty(made, key);
    else if (!isSame(before[key], wanted[key]))
      Reflect.set(made, key, carried(before[key], wanted[key], now[key]));
  return made;
}

type Keyed = Record<string, unknown>;

const isKeyed = (value: unknown): value is Keyed => typeof value === "object" && value !== null;
const isAlike = (one: Keyed, other: Keyed) =>
  Array.isArray(one) ? Array.isArray(other) && one.length === other.length : !Array.isArray(other);

function isSame(one: unknown, other: unknown): boolean {
  if (one === other) return true;
  if (!isKeyed(one) || !isKeyed(other) || Array.isArray(one) !== Array.isArray(other)) return false;
  const keys = Object.keys(one);
  return (
    keys.length === Object.keys(other).length && keys.every((key) => isSame(one[key], other[key]))
  );
}
