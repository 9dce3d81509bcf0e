/** How names of many sets change. */
export type Naming = { find: string; put: string; before: string; after: string };

export const AS_IT_IS: Naming = { find: "", put: "", before: "", after: "" };

/** What a set is called afterwards. */
export function renamed(name: string, { find, put, before, after }: Naming): string {
  const changed = find ? name.replaceAll(find, put) : name;
  return `${before}${changed}${after}`.trim();
}

/** Why these names cannot be given, or null: none may be empty, and none given twice or taken. */
export function refusedNames(names: string[], others: string[]): string | null {
  const taken = new Set(others.map((name) => name.toLowerCase()));
  for (const name of names) {
    if (!name) return "A name would be empty.";
    if (taken.has(name.toLowerCase())) return `${name} would be there twice.`;
    taken.add(name.toLowerCase());
  }
  return null;
}
