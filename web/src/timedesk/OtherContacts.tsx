import { pointLabel } from "@stride/motion";
import { DropdownMenu } from "radix-ui";
import { useBench } from "../state/bench.ts";
import { playhead } from "../state/playhead.ts";
import { addContactAt } from "./addContact.ts";

/** Contacts of parts that have no row yet: a hand on a rail, a knee, the back. */
export function OtherContacts() {
  const points = useBench((s) => s.character?.points);
  const contacts = useBench((s) => s.after?.contacts);
  if (!points || !contacts) return null;
  const others = points.filter((p) => !p.bears && !contacts.some((c) => c.point === p.id));
  if (others.length === 0) return null;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          type="button"
          className="mr-2 inline-flex items-center gap-0.5 rounded-sm px-1 text-xs text-ink-soft hover:bg-line/50 hover:text-ink"
          aria-label="Add a contact of another part at the playhead"
          title="A hand, knee, elbow, the tip of a toe, the back, seat or head, at the playhead"
        >
          + other part
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" side="top" sideOffset={4} className="z-50 w-44 rounded-sm border border-line bg-sheet py-1 shadow-lg">
          {others.map(({ id }) => (
            <DropdownMenu.Item
              key={id}
              className="cursor-pointer px-3 py-1 outline-none data-highlighted:bg-cobalt-wash"
              onSelect={() => addContactAt(id, playhead.frame)}
            >
              {pointLabel(id)}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
