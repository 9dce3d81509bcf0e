const TIME = { hour: "2-digit", minute: "2-digit" } as const;
const DAY = { day: "numeric", month: "short" } as const;

/** When something was done: the time of today, with the day before today, with the year before this one. */
export function whenSaid(moment: string, now = new Date()): string {
  const then = new Date(moment);
  const time = then.toLocaleTimeString(undefined, TIME);
  if (then.toDateString() === now.toDateString()) return time;
  const isThisYear = then.getFullYear() === now.getFullYear();
  const day = then.toLocaleDateString(undefined, isThisYear ? DAY : { ...DAY, year: "numeric" });
  return `${day}, ${time}`;
}

/** A sentence whose numbers keep their units on their line. */
export const tied = (sentence: string): string =>
  sentence.replace(/(\d) (?=(?:%|×|px|m|°|texels?)(?![\w]))/g, "$1\u00a0");
