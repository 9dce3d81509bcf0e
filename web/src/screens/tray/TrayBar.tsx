import { Choice } from "../../parts/Choice";
import { Menu } from "../../parts/Menu";
import { type Filter, SORTS, type Sort } from "./sieve";

type TrayBarProps = {
  count: number;
  shown: number;
  sought: string;
  filters: Filter[];
  offered: [Filter, string][];
  sort: Sort;
  onSort: (sort: Sort) => void;
  onSought: (text: string) => void;
  onFilters: (filters: Filter[]) => void;
};

/** Words and filters that narrow the tray down; each filter is taken off where it stands. */
export function TrayBar(props: TrayBarProps) {
  const { count, shown, sought, filters, offered, sort, onSort, onSought, onFilters } = props;
  const titleOf = (filter: Filter) => offered.find(([key]) => key === filter)?.[1] ?? filter;
  const others = offered.filter(([key]) => !filters.includes(key));
  return (
    <div className="mb-3 flex flex-wrap items-center gap-3">
      <h1>
        {shown === count ? count : `${shown} of ${count}`} {count === 1 ? "set" : "sets"}
      </h1>
      <input
        type="search"
        className="field w-52"
        aria-label="Search the sets"
        placeholder="Search names and files"
        value={sought}
        onChange={(e) => onSought(e.target.value)}
      />
      {filters.map((filter) => (
        <button
          key={filter}
          type="button"
          className="rounded-full border border-copper bg-wash px-2.5 py-0.5"
          aria-label={`Do not filter by: ${titleOf(filter)}`}
          onClick={() => onFilters(filters.filter((one) => one !== filter))}
        >
          {titleOf(filter)} ×
        </button>
      ))}
      {others.length > 0 && (
        <Menu label="Filter" options={others} onPick={(key) => onFilters([...filters, key])} />
      )}
      <Choice label="Sort" className="w-40" options={SORTS} value={sort} onChange={onSort} />
      {shown === 0 && <span className="text-ink2">None passes. Take a filter off.</span>}
    </div>
  );
}
