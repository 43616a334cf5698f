import { Command as Cmdk } from "cmdk";
import type { Command } from "./commands.ts";

/** Type what you want to do. */
export function Palette({ open, onClose, commands }: { open: boolean; onClose: () => void; commands: readonly Command[] }) {
  // In the order in which the commands first name them, so that none can be left out.
  const groups = [...new Set(commands.map((c) => c.group))];
  return (
    <Cmdk.Dialog
      open={open}
      onOpenChange={(next) => !next && onClose()}
      label="Find a command"
      overlayClassName="fixed inset-0 z-40 bg-ink/35"
      contentClassName="fixed top-24 left-1/2 z-40 w-[480px] -translate-x-1/2 overflow-hidden rounded-sm border border-line bg-sheet shadow-lg"
    >
      <Cmdk.Input
        placeholder="What would you like to do?"
        className="h-10 w-full border-b border-line bg-transparent px-3.5 outline-none placeholder:text-ink-soft"
      />
      <Cmdk.List className="max-h-80 overflow-y-auto p-1">
        <Cmdk.Empty className="px-3 py-4 text-ink-soft">No such command.</Cmdk.Empty>
        {groups.map((group) => (
          <Cmdk.Group
            key={group}
            heading={group}
            className="[&_[cmdk-group-heading]]:px-2.5 [&_[cmdk-group-heading]]:py-1 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-ink-soft"
          >
            {commands
              .filter((c) => c.group === group)
              .map((command) => (
                <Cmdk.Item
                  key={command.id}
                  value={command.label}
                  className="flex cursor-pointer justify-between rounded-sm px-2.5 py-1.5 data-[selected=true]:bg-cobalt-wash"
                  onSelect={() => {
                    onClose();
                    command.run();
                  }}
                >
                  {command.label}
                  {command.shortcut && <kbd className="figure text-ink-soft">{command.shortcut}</kbd>}
                </Cmdk.Item>
              ))}
          </Cmdk.Group>
        ))}
      </Cmdk.List>
    </Cmdk.Dialog>
  );
}
