import { Ellipsis } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { DialogName } from "./TopBar.tsx";

const ITEMS = [
  { name: "range", label: "Save as a clip…", hint: "the result, or a range of it" },
  { name: "copy", label: "Copy patches to other works…", hint: "one repair over many clips" },
  { name: "version", label: "Make a version…", hint: "numbered, kept for ever" },
  { name: "beside", label: "Compare with another…", hint: "side by side, in step" },
  { name: "keep", label: "Keep patches on the shelf…", hint: "to be used on any work" },
  { name: "duplicate", label: "Duplicate this work…", hint: "with a history of its own" },
] as const satisfies readonly { name: DialogName; label: string; hint: string }[];

/** What is done with a work as a whole, and with its patches elsewhere. */
export function WorkMenu({ onOpen }: { onOpen: (name: DialogName) => void }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          type="button"
          aria-label="Work menu"
          title="Work menu"
          className="inline-flex size-7 shrink-0 items-center justify-center rounded-sm hover:bg-line/50"
        >
          <Ellipsis size={16} />
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className="z-50 min-w-72 rounded-sm border border-line bg-sheet p-1 shadow-lg">
          {ITEMS.map(({ name, label, hint }) => (
            <DropdownMenu.Item
              key={name}
              onSelect={() => onOpen(name)}
              className="flex cursor-pointer items-baseline justify-between gap-4 rounded-sm px-2 py-1.5 outline-none data-[highlighted]:bg-cobalt-wash"
            >
              {label}
              <span className="text-xs text-ink-soft">{hint}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
