type Waiting = { key: string; go: () => void };

/**
 * Lets at most so many asks go at once; the others wait for their turn, first come first served. A
 * browser opens few connections to one host, and what is looked at must not wait behind hundreds:
 * `hurry` lets one go that waits.
 */
export function inTurns(most: number) {
  let waiting: Waiting[] = [];
  let going = 0;
  const next = () => {
    const first = waiting.shift();
    if (first) first.go();
    else going--;
  };
  const ask = async <T>(key: string, what: () => Promise<T>): Promise<T> => {
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
  return { ask, hurry };
}
