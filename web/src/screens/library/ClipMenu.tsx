import type { ListedClip } from "@stride/server";
import { Copy, Ellipsis, Info, PersonStanding, Replace, Trash2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { type ReactNode, useState } from "react";

/** What can be done with one clip. */
export interface ClipActions {
  open(clip: ListedClip): void;
  about(clip: ListedClip): void;
  replace(clip: ListedClip): void;
  duplicate(clip: ListedClip): void;
  /** its body as a character */
  body(clip: ListedClip): void;
  remove(clip: ListedClip): void;
}

interface ClipMenuProps {
  readonly clip: ListedClip;
  readonly actions: ClipActions;
  readonly describedBy: string;
}

const BUTTON = "inline-flex size-6.5 items-center justify-center rounded-sm border border-line bg-sheet text-ink hover:border-ink-soft";

/**
 * A clip's menu. Its button is told apart by what describes it: the clip's name, which stands beside it. Thousands of clips are scrolled by: the menu itself is made when
 * it is opened for the first time.
 */
export function ClipMenu({ describedBy, ...rest }: ClipMenuProps) {
  const [made, setMade] = useState(false);
  if (made) return <Menu describedBy={describedBy} {...rest} />;
  return (
    <button type="button" aria-label="Clip menu" aria-haspopup="menu" aria-describedby={describedBy} className={BUTTON} onClick={() => setMade(true)}>
      <Ellipsis size={15} />
    </button>
  );
}

function Menu({ clip, actions, describedBy }: ClipMenuProps) {
  const used = clip.works + clip.drawnOnBy.length > 0;
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger asChild>
        <button type="button" aria-label="Clip menu" aria-describedby={describedBy} className={BUTTON}>
          <Ellipsis size={15} />
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} collisionPadding={8} className="z-50 min-w-56 rounded-sm border border-line bg-sheet p-1 shadow-lg">
          <Item onSelect={() => actions.about(clip)}>
            <Info size={14} /> About, and what uses it…
          </Item>
          <Item disabled={!used} onSelect={() => actions.replace(clip)}>
            <Replace size={14} /> Replace in works…
          </Item>
          <Item onSelect={() => actions.duplicate(clip)}>
            <Copy size={14} /> Duplicate
          </Item>
          {clip.summary.skin && (
            <Item onSelect={() => actions.body(clip)}>
              <PersonStanding size={14} /> Its body as a character
            </Item>
          )}
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          <Item onSelect={() => actions.remove(clip)}>
            <Trash2 size={14} /> Delete
          </Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export function Item({ children, disabled, onSelect }: { children: ReactNode; disabled?: boolean; onSelect: () => void }) {
  return (
    <DropdownMenu.Item
      disabled={disabled}
      onSelect={onSelect}
      className="flex cursor-pointer items-center gap-2 rounded-sm px-2 py-1.5 outline-none data-[disabled]:cursor-default data-[disabled]:opacity-45 data-[highlighted]:bg-cobalt-wash"
    >
      {children}
    </DropdownMenu.Item>
  );
}
