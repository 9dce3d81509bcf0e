type Waiting = { key: string; go: () => void };

/**
 * Lets at most so many asks go at once; the others wait for their turn, first come first served. A
 * browser opens few connections to one host, and what is looked at must not wait behind hundreds:
 * `hurry` lets one go that waits. `hold` lets none begin until what it answers is called, or so many
 * milliseconds are over.
 */
export function inTurns(most: number) {
  let waiting: Waiting[] = [];
  let going = 0;
  let held: Promise<void> | null = null;
  const next = () => {
    const first = waiting.shift();
    if (first) first.go();
    else going--;
  };
  const ask = async <T>(key: string, what: () => Promise<T>): Promise<T> => {
    if (held) await held;
    if (going < most) going++;
    else await new Promise<void>((go) => waiting.push({ key, go }));
    return what().finally(next);
  };
  const hurry = (key: string) => {
    const own = waiting.filter((one) => one.key === key);
    waiting = waiting.filter((one) => one.key !== key);
    going += own.length;
    for (const one of own) one.go();
  };
  const hold = (ms: number) => {
    let letGo = () => {};
    held = new Promise((resolve) => {
      letGo = resolve;
      setTimeout(resolve, ms);
    });
    return letGo;
  };
  return { ask, hurry, hold };
}
