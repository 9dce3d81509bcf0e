/** What stands behind the question mark of an address. */
export const addressed = (query: Record<string, string | number>): string =>
  new URLSearchParams(Object.entries(query).map(([key, value]) => [key, String(value)])).toString();
