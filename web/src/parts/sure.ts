/**
 * The value, where the program itself guarantees that there is one; an error that names what is
 * missing, where it does not.
 */
export function sure<T>(value: T | null | undefined, what: string): T {
  if (value === null || value === undefined)
    throw new Error(`${what} is missing: a fault of ours.`);
  return value;
}
