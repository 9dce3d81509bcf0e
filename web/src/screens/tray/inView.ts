import { type CSSProperties, useLayoutEffect, useRef, useState } from "react";
import { sure } from "../../parts/sure";

const LEAST_PX = 230; // width of a card
const ACROSS_PX = 16; // between cards beside each other
const BELOW_PX = 56; // from a card's picture to that of the next: its name, its marks, a gap
const AHEAD_PX = 600; // beyond what is seen, so that pictures are there when they come into view

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
  useLayoutEffect(() => {
    const grid = sure(ref.current, "grid");
    const around = grid.closest("main") ?? document.documentElement;
    const look = () => {
      const top = around.getBoundingClientRect().top - grid.getBoundingClientRect().top;
      const next = viewOf(grid.clientWidth, top, around.clientHeight);
      setView((now) => (now !== AT_FIRST && isSame(now, next) ? now : next));
    };
    const handleScroll = () => {
      sessionStorage.setItem(keyOf(project), String(around.scrollTop));
      look();
    };
    look();
    const sizes = new ResizeObserver(look);
    sizes.observe(grid);
    sizes.observe(around);
    around.addEventListener("scroll", handleScroll, { passive: true });
    return () => {
      sizes.disconnect();
      around.removeEventListener("scroll", handleScroll);
    };
  }, [project]);
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
  return { ref, rows, first: from * columns, end: view.to * columns };
}

const keyOf = (project: string) => `tray scrolled ${project}`;
