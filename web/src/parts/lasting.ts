const SLOW_S = 10; // what is done sooner is not worth a word

/** That something will take long, where it will: "takes about 40 seconds". */
export function lastingSaid(seconds: number): string | null {
  if (seconds < SLOW_S) return null;
  if (seconds < 95) return `takes about ${Math.round(seconds / 10) * 10} seconds`;
  if (seconds < 95 * 60) return `takes about ${Math.round(seconds / 60)} minutes`;
  return `takes about ${Math.round(seconds / 3600)} hours`;
}
