import clsx from "clsx";

interface NumberInputProps {
  readonly value: number;
  readonly min: number;
  readonly max: number;
  /** figures behind the point (default: whole numbers) */
  readonly decimals?: number;
  /** its name where no label is around it */
  readonly name?: string;
  readonly className?: string;
  readonly onCommit: (value: number) => void;
}

/** A number that is typed, and taken with Enter or when left; what is no number, or too large, is put right. */
export function NumberInput({ value, min, max, decimals = 0, name, className, onCommit }: NumberInputProps) {
  const shown = Number(value.toFixed(decimals));
  return (
    <input
      type="number"
      aria-label={name}
      min={min}
      max={max}
      step={10 ** -decimals}
      key={shown}
      defaultValue={shown}
      className={clsx(
        "figure [appearance:textfield] rounded-sm border border-line bg-sheet px-1 [&::-webkit-inner-spin-button]:appearance-none",
        className ?? "w-full text-ink",
      )}
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
  );
}

/** The same under its label. */
export function NumberBox({ label, title, ...input }: Omit<NumberInputProps, "name" | "className"> & { readonly label: string; readonly title?: string }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the number is the control
    <label className="text-xs text-ink-soft" title={title}>
      {label}
      <NumberInput {...input} />
    </label>
  );
}
