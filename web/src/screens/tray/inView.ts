import {
  type CSSProperties,
  startTransition,
  useCallback,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import { sure } from "../../parts/sure";

const LEAST_PX = 230; // width of a card
const ACROSS_PX = 16; // between cards beside each other
const BELOW_PX = 56; // from a card's picture to that of the next: its name, its marks, a gap
const AHEAD_PX = 400; // beyond what is seen, so that pictures are there when they come into view
const RUSHES = 1.5; // pixels per millisecond from which no picture is looked at: two screens a second
const TOLD_MS = 80; // moves are told together over so long
const RESTS_MS = 120; // without a move, or slower for so long, it no longer rushes

/** What of a grid of cards is near what is seen: its columns, the height of a row, and which rows. */
export type View = { columns: number; rowPx: number; from: number; to: number };

/** Before anything was measured: as much as a window shows at first. */
export const AT_FIRST: View = { columns: 4, rowPx: 300, from: 0, to: 6 };

/** The view of a grid `width` px wide, of which what is seen lies from `top` on and is `height` high. */
export function viewOf(width: number, top: number, height: number): View {
  const columns = Math.max(1, Math.floor((width + ACROSS_PX) / (LEAST_PX + ACROSS_PX)));
  const rowPx = Math.floor((width - ACROSS_PX * (columns - 1)) / columns) + BELOW_PX;
  const from = Math.max(0, Math.floor((top - AHEAD_PX) / rowPx));
  return {
    columns,
    rowPx,
    from,
    to: Math.max(from + 1, Math.ceil((top + height + AHEAD_PX) / rowPx)),
  };
}

/** How fast the tray is scrolled, by where it is at each move: pixels per millisecond, none while too little is known. */
export function speedometer() {
  let last = 0;
  let from = { top: 0, at: 0 };
  return (top: number, at: number): number | null => {
    const isNew = at - last > RESTS_MS;
    const [far, took] = [Math.abs(top - from.top), at - from.at];
    last = at;
    if (!isNew && took < TOLD_MS) return null;
    from = { top, at };
    return isNew ? null : far / took;
  };
}

/** Whether cards rush by, and what tells it of every move. */
function useRush() {
  const [isRushed, setRushed] = useState(false);
  const [speed] = useState(speedometer);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(rest.current), []);
  const move = useCallback(
    (top: number) => {
      if ((speed(top, performance.now()) ?? 0) < RUSHES) return;
      setRushed(true);
      clearTimeout(rest.current);
      rest.current = setTimeout(() => setRushed(false), RESTS_MS);
    },
    [speed],
  );
  return [isRushed, move] as const;
}

const isSame = (one: View, other: View) =>
  one.columns === other.columns &&
  one.rowPx === other.rowPx &&
  one.from === other.from &&
  one.to === other.to;

/**
 * The cards that are drawn, of hundreds: those in view and a little beyond, in a grid as high as all
 * of them would be. Where it was scrolled to is where it is the next time, unless it opens at a card.
 */
export function useInView(project: string, count: number, opensAt: number) {
  const ref = useRef<HTMLDivElement>(null);
  const [view, setView] = useState(AT_FIRST);
  const [isRushed, move] = useRush();
  useLayoutEffect(() => {
    const grid = sure(ref.current, "grid");
    const around = grid.closest("main") ?? document.documentElement;
    let asked: View | null = null;
    const look = () => {
      const top = around.getBoundingClientRect().top - grid.getBoundingClientRect().top;
      const next = viewOf(grid.clientWidth, top, around.clientHeight);
      if (asked && isSame(asked, next)) return;
      asked = next;
      setView(next);
    };
    const keep = () => sessionStorage.setItem(keyOf(project), String(around.scrollTop));
    let rest: ReturnType<typeof setTimeout>;
    const handleScroll = () => {
      clearTimeout(rest);
      rest = setTimeout(keep, RESTS_MS);
      startTransition(() => {
        move(around.scrollTop);
        look(); // new rows are made between frames; there are some to spare
      });
    };
    look();
    const sizes = new ResizeObserver(look);
    sizes.observe(grid);
    sizes.observe(around);
    around.addEventListener("scroll", handleScroll, { passive: true });
    return () => {
      clearTimeout(rest);
      keep();
      sizes.disconnect();
      around.removeEventListener("scroll", handleScroll);
    };
  }, [project, move]);
  const isMeasured = view !== AT_FIRST; // before, it has not its height
  const { columns, rowPx } = view;
  const first = useRef(opensAt);
  useLayoutEffect(() => {
    const around = ref.current?.closest("main");
    if (!isMeasured || !around) return;
    const kept = Number(sessionStorage.getItem(keyOf(project)));
    around.scrollTop = first.current < 0 ? kept : Math.floor(first.current / columns) * rowPx;
    first.current = -1;
  }, [isMeasured, project, columns, rowPx]);
  const last = Math.max(0, Math.ceil(count / columns) - 1);
  const from = Math.min(view.from, last);
  const rows: CSSProperties = {
    gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`,
    gridAutoRows: rowPx,
    height: Math.ceil(count / columns) * rowPx,
    paddingTop: from * rowPx,
  };
  return { ref, rows, first: from * columns, end: view.to * columns, isRushed };
}

const keyOf = (project: string) => `tray scrolled ${project}`;
