import clsx from "clsx";
import { NumberInput } from "../../ui/NumberBox.tsx";

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

interface NumberCellProps {
  readonly label: string;
  readonly value: number;
  readonly min?: number;
  readonly max?: number;
  readonly decimals?: number;
  /** did a person set it? */
  readonly said: boolean;
  readonly onCommit: (value: number) => void;
}

/** A small number in a table's cell, degrees unless it is said otherwise. */
export function NumberCell({ label, value, min = -180, max = 180, decimals, said, onCommit }: NumberCellProps) {
  return (
    <NumberInput
      name={label}
      value={value}
      min={min}
      max={max}
      decimals={decimals}
      className={clsx("h-6 w-12 text-right text-xs", said ? "text-ink" : "text-ink-soft")}
      onCommit={onCommit}
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
