import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { IconButton } from "./Button.tsx";

interface DialogProps {
  readonly open: boolean;
  readonly onClose: () => void;
  readonly title: string;
  readonly description: string;
  readonly children: ReactNode;
  readonly wide?: boolean;
}

export function Dialog({ open, onClose, title, description, children, wide }: DialogProps) {
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          tabIndex={-1}
          onOpenAutoFocus={(event) => {
            // The dialog itself, not its close button, whose tooltip would cover what was opened.
            event.preventDefault();
            (event.currentTarget as HTMLElement).focus();
          }}
          className={`outline-none fixed top-1/2 left-1/2 z-40 flex max-h-[90vh] -translate-x-1/2 -translate-y-1/2 flex-col rounded-sm border border-line bg-sheet shadow-lg ${wide ? "w-[1040px]" : "w-[520px]"} max-w-[95vw]`}
        >
          <header className="flex items-start justify-between border-b border-line px-4 py-3">
            <div>
              <Radix.Title className="text-base font-semibold">{title}</Radix.Title>
              <Radix.Description className="text-ink-soft">{description}</Radix.Description>
            </div>
            <Radix.Close asChild>
              <IconButton label="Close" shortcut="Esc">
                <X size={16} />
              </IconButton>
            </Radix.Close>
          </header>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long dialog must scroll by keyboard */}
          <div className="min-h-0 overflow-auto p-4" tabIndex={0}>
            {children}
          </div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
