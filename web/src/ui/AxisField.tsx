interface AxisFieldProps {
  readonly axis: string;
  /** the field's whole name */
  readonly label: string;
  readonly value: number;
  readonly unit: string;
  /** made anew when this changes, so that it shows what is, not what was typed before */
  readonly of: string;
  readonly onCommit: (value: number) => void;
}

/** One of three numbers beside one another: read, and typed with Enter. What is no number is put back. */
export function AxisField({ axis, label, value, unit, of, onCommit }: AxisFieldProps) {
  const shown = value.toFixed(1);
  return (
    <label className="flex items-center gap-1 text-xs text-ink-soft">
      {axis}
      <input
        aria-label={label}
        inputMode="decimal"
        key={`${shown}-${of}`}
        defaultValue={shown}
        className="figure h-6 w-full rounded-sm border border-line bg-sheet px-1 text-right text-ink"
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") event.currentTarget.blur();
        }}
        onBlur={(event) => {
          const typed = Number(event.target.value.replace(",", "."));
          if (event.target.value.trim() !== "" && Number.isFinite(typed) && Math.abs(typed - value) > 0.05) onCommit(typed);
          else event.target.value = shown;
        }}
      />
      {unit}
    </label>
  );
}
