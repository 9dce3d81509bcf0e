/**
 * A ring over a picture, in CSS pixels from its upper left: what is pointed at in the other one.
 */
export function Ring({ x, y }: { x: number; y: number }) {
  return (
    <i
      aria-hidden
      data-testid="ring"
      className="pointer-events-none absolute size-4 -translate-1/2 rounded-full border-2
        border-copper shadow-[0_0_0_1.5px_white,inset_0_0_0_1.5px_white]"
      style={{ left: x, top: y }}
    />
  );
}
