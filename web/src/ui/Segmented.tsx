import clsx from "clsx";
import { ToggleGroup } from "radix-ui";

interface SegmentedProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly options: readonly { readonly value: T; readonly label: string; readonly hint?: string }[];
  readonly onChange: (value: T) => void;
  readonly small?: boolean;
}

/** One choice out of a few, all in sight. */
export function Segmented<T extends string>({ label, value, options, onChange, small }: SegmentedProps<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => {
        if (next) onChange(next as T);
      }}
      className="inline-flex w-fit rounded-sm border border-line bg-sheet"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          title={option.hint}
          className={clsx(
            "border-line whitespace-nowrap px-2.5 not-first:border-l data-[state=on]:bg-ink data-[state=on]:text-sheet",
            small ? "h-6 text-xs" : "h-7",
          )}
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
