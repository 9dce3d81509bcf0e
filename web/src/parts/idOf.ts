const ids = new WeakMap<object, number>();
let last = 0;

/** A number for an object, the same for as long as it lives: a key that need not be written out whole. */
export function idOf(one: object): number {
  const id = ids.get(one) ?? ++last;
  ids.set(one, id);
  return id;
}
