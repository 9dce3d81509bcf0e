/** The places in working order; their numbers are their keys. */
export const PLACES = [
  ["tray", "Tray"],
  ["intake", "Intake"],
  ["bench", "Bench"],
  ["routing", "Routing"],
  ["delivery", "Delivery"],
] as const;
