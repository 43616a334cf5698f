import { Slider } from "radix-ui";
import { useEffect, useId, useState } from "react";

interface SliderRowProps {
  readonly label: string;
  readonly unit?: string;
  /** shown value, already in the unit */
  readonly value: number;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly help?: string;
  /** while moving */
  readonly onMove: (value: number) => void;
  /** when let go, or typed */
  readonly onCommit: (value: number) => void;
}

/** A setting as a slider with a figure that can be typed. */
export function SliderRow({ label, unit, value, min, max, step, help, onMove, onCommit }: SliderRowProps) {
  const id = useId();
  const decimals = step >= 1 ? 0 : step >= 0.1 ? 1 : 2;
  const [text, setText] = useState(value.toFixed(decimals));
  useEffect(() => setText(value.toFixed(decimals)), [value, decimals]);
  const take = () => {
    const typed = Number(text.replace(",", "."));
    if (Number.isFinite(typed) && text.trim() !== "") onCommit(Math.max(min, Math.min(max, typed)));
    else setText(value.toFixed(decimals));
  };
  return (
    <div className="py-1" title={help}>
      <div className="flex items-baseline justify-between gap-2">
        <label htmlFor={id}>{label}</label>
        <span className="figure flex items-baseline gap-1">
          <input
            id={id}
            inputMode="decimal"
            className="w-14 rounded-sm bg-transparent text-right hover:bg-line/40"
            value={text}
            onChange={(event) => setText(event.target.value)}
            onBlur={take}
            onKeyDown={(event) => {
              if (event.key === "Enter") event.currentTarget.blur();
              event.stopPropagation();
            }}
          />
          <span className="w-4 text-ink-soft">{unit}</span>
        </span>
      </div>
      <Slider.Root
        className="relative flex h-4 touch-none items-center select-none"
        min={min}
        max={max}
        step={step}
        value={[value]}
        onValueChange={([next]) => onMove(next)}
        onValueCommit={([next]) => onCommit(next)}
      >
        <Slider.Track className="relative h-[3px] grow rounded-full bg-line">
          <Slider.Range className="absolute h-full rounded-full bg-ink" />
        </Slider.Track>
        <Slider.Thumb aria-label={label} className="block size-3.5 rounded-full border-2 border-ink bg-sheet" />
      </Slider.Root>
    </div>
  );
}
