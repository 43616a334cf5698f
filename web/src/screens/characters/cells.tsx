import clsx from "clsx";

// What the tables of the characters screen are made of.
export const HEAD = "sticky top-0 z-10 bg-sheet px-2 py-1.5 text-left text-xs font-normal text-ink-soft";
export const CELL = "px-2 py-1 align-top";

export function Heads({ of }: { of: readonly string[] }) {
  return (
    <thead>
      <tr>
        {of.map((head, i) => (
          <th key={`${i} ${head}`} className={HEAD}>
            {head}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** A small number in a table's cell: typed, and taken with Enter or when left. */
export function Cell({
  label,
  value,
  min = -180,
  max = 180,
  decimals = 0,
  said,
  onCommit,
}: {
  label: string;
  value: number;
  min?: number;
  max?: number;
  decimals?: number;
  /** did a person set it? */
  said: boolean;
  onCommit: (value: number) => void;
}) {
  const shown = Number(value.toFixed(decimals));
  return (
    <input
      type="number"
      aria-label={label}
      min={min}
      max={max}
      step={10 ** -decimals}
      key={shown}
      defaultValue={shown}
      className={clsx(
        "figure h-6 w-12 [appearance:textfield] rounded-sm border border-line bg-sheet px-1 text-right text-xs [&::-webkit-inner-spin-button]:appearance-none",
        said ? "text-ink" : "text-ink-soft",
      )}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
      }}
      onBlur={(event) => {
        const typed = Number(event.target.value);
        const rounded = Number(Math.max(min, Math.min(max, typed)).toFixed(decimals));
        if (event.target.value.trim() !== "" && Number.isFinite(typed) && rounded !== shown) onCommit(rounded);
        else event.target.value = String(shown);
      }}
    />
  );
}

/** Takes back what a person said of one row. */
export function AsFound({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button type="button" aria-label={label} title={label} className="text-xs text-cobalt underline" onClick={onClick}>
      as found
    </button>
  );
}
