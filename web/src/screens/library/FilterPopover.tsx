import type { FindingKind } from "@stride/motion";
import type { ClipFacets } from "@stride/server";
import { ListFilter } from "lucide-react";
import { Popover } from "radix-ui";
import { Button } from "../../ui/Button.tsx";
import { FAULT_WORDS } from "./faultWords.ts";

/** What narrows the list beside words and characters. */
export interface Filters {
  readonly folder?: string;
  readonly fault?: FindingKind;
  readonly fps?: number;
  /** seconds */
  readonly shortest?: number;
  readonly longest?: number;
}

export const NO_FILTERS: Filters = {};

export function filterCount(filters: Filters): number {
  return Object.values(filters).filter((v) => v !== undefined).length;
}

/** Folder, fault, rate and length. */
export function FilterPopover({ filters, facets, onChange }: { filters: Filters; facets: ClipFacets | undefined; onChange: (filters: Filters) => void }) {
  const count = filterCount(filters);
  const field = "h-7.5 w-full rounded-sm border border-line bg-sheet px-2";
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button className={count > 0 ? "border-ink!" : ""}>
          <ListFilter size={14} /> Filter{count > 0 ? ` (${count})` : ""}
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label="Filter"
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className="z-50 w-78 rounded-sm border border-line bg-sheet p-3 shadow-lg"
        >
          <div className="grid grid-cols-[5rem_1fr] items-center gap-x-3 gap-y-2">
            <label htmlFor="filter-folder">Folder</label>
            <select
              id="filter-folder"
              className={field}
              value={filters.folder ?? ANY}
              onChange={(event) => onChange({ ...filters, folder: event.target.value === ANY ? undefined : event.target.value })}
            >
              <option value={ANY}>any</option>
              <option value="">in none</option>
              {facets?.folders.map(({ name, count: n }) => (
                <option key={name} value={name}>{`${name} (${n})`}</option>
              ))}
            </select>
            <label htmlFor="filter-fault">What is wrong</label>
            <select
              id="filter-fault"
              className={field}
              value={filters.fault ?? ANY}
              onChange={(event) => onChange({ ...filters, fault: event.target.value === ANY ? undefined : (event.target.value as FindingKind) })}
            >
              <option value={ANY}>anything or nothing</option>
              {facets?.faults.map(({ name, count: n }) => (
                <option key={name} value={name}>{`${FAULT_WORDS[name]} (${n})`}</option>
              ))}
            </select>
            <label htmlFor="filter-rate">Rate</label>
            <select
              id="filter-rate"
              className={field}
              value={filters.fps ?? ANY}
              onChange={(event) => onChange({ ...filters, fps: event.target.value === ANY ? undefined : Number(event.target.value) })}
            >
              <option value={ANY}>any</option>
              {facets?.rates.map(({ name, count: n }) => (
                <option key={name} value={name}>{`${Math.round(name * 100) / 100} fps (${n})`}</option>
              ))}
            </select>
            <span>Length</span>
            <span className="flex items-center gap-1.5">
              <Seconds label="Shortest, seconds" value={filters.shortest} onChange={(shortest) => onChange({ ...filters, shortest })} />
              to
              <Seconds label="Longest, seconds" value={filters.longest} onChange={(longest) => onChange({ ...filters, longest })} />s
            </span>
          </div>
          <div className="flex justify-end pt-3">
            <Button disabled={count === 0} onClick={() => onChange(NO_FILTERS)}>
              Clear
            </Button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** The choice that narrows nothing; no folder, kind or rate is called so. */
const ANY = "\u0000";

/** Seconds, or nothing. */
function Seconds({ label, value, onChange }: { label: string; value: number | undefined; onChange: (value: number | undefined) => void }) {
  return (
    <input
      type="number"
      min={0}
      step="any"
      aria-label={label}
      placeholder="any"
      value={value ?? ""}
      className="figure h-7.5 w-full min-w-0 rounded-sm border border-line bg-sheet px-2"
      onChange={(event) => {
        const typed = Number(event.target.value);
        onChange(event.target.value === "" || !(typed >= 0) ? undefined : typed);
      }}
    />
  );
}
