type SectionProps = {
  title: string;
  says: React.ReactNode;
  /** The drawing of its mark, on 34 × 34. */
  path: string;
  isOpen: boolean;
  onOpen: () => void;
  children: React.ReactNode;
};

/** A part of the bench's list that is folded away until it is asked for. */
export function Section({ title, says, path, isOpen, onOpen, children }: SectionProps) {
  return (
    <div>
      <button
        type="button"
        aria-expanded={isOpen}
        onClick={onOpen}
        className="flex w-full cursor-pointer items-center gap-2.5 py-1.5 pr-4 pl-[14px] text-left
          focus-visible:-outline-offset-2 aria-expanded:bg-wash"
      >
        <svg
          aria-hidden
          viewBox="0 0 34 34"
          className="size-[34px] shrink-0 border border-hair bg-sheet text-ink2"
        >
          <path d={path} fill="none" stroke="currentColor" strokeWidth={1.6} />
        </svg>
        <span>
          <b className="block font-semibold">{title}</b>
          <span className="block text-sm text-ink2">{says}</span>
        </span>
      </button>
      {isOpen && children}
    </div>
  );
}
