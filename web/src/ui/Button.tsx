import clsx from "clsx";
import { Tooltip } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";

interface ButtonProps extends ComponentProps<"button"> {
  readonly tone?: "plain" | "primary" | "quiet";
}

export function Button({ tone = "plain", className, ...rest }: ButtonProps) {
  return (
    <button
      type="button"
      className={clsx(
        "inline-flex h-7.5 items-center justify-center gap-1.5 whitespace-nowrap rounded-sm px-3 disabled:opacity-45",
        tone === "primary" && "bg-ink text-sheet hover:opacity-90",
        tone === "plain" && "border border-line bg-sheet hover:border-ink-soft",
        tone === "quiet" && "hover:bg-line/50",
        className,
      )}
      {...rest}
    />
  );
}

/** A button that is only an icon: its name is told by tooltip and to assistive technology, with its shortcut. */
export function IconButton({
  label,
  shortcut,
  pressed,
  className,
  children,
  ...rest
}: ComponentProps<"button"> & { label: string; shortcut?: string; pressed?: boolean; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>
        <button
          type="button"
          aria-label={label}
          aria-pressed={pressed}
          aria-keyshortcuts={shortcut}
          className={clsx(
            "inline-flex size-7 shrink-0 items-center justify-center rounded-sm disabled:opacity-40",
            pressed ? "bg-ink text-sheet" : "hover:bg-line/50",
            className,
          )}
          {...rest}
        >
          {children}
        </button>
      </Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content sideOffset={4} className="z-50 rounded-sm bg-ink px-2 py-1 text-xs text-sheet">
          {label}
          {shortcut && <kbd className="ml-2 opacity-75">{shortcut}</kbd>}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
