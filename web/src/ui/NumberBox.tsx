interface NumberBoxProps {
  readonly label: string;
  readonly value: number;
  readonly min: number;
  readonly max: number;
  /** figures behind the point (default: whole numbers) */
  readonly decimals?: number;
  readonly title?: string;
  readonly onCommit: (value: number) => void;
}

/** A number under its label: typed and taken with Enter or when left; what is no number, or too large, is put right. */
export function NumberBox({ label, value, min, max, decimals = 0, title, onCommit }: NumberBoxProps) {
  const shown = Number(value.toFixed(decimals));
  return (
    <label className="text-xs text-ink-soft" title={title}>
      {label}
      <input
        type="number"
        min={min}
        max={max}
        step={10 ** -decimals}
        key={shown}
        defaultValue={shown}
        className="figure w-full [appearance:textfield] rounded-sm border border-line bg-sheet px-1 text-ink [&::-webkit-inner-spin-button]:appearance-none"
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") event.currentTarget.blur();
        }}
        onBlur={(event) => {
          const typed = Number(event.target.value);
          const rounded = Number(Math.max(min, Math.min(max, typed)).toFixed(decimals));
          if (event.target.value.trim() !== "" && Number.isFinite(typed) && rounded !== shown) onCommit(rounded);
          else event.target.value = String(shown);
        }}
      />
    </label>
  );
}
