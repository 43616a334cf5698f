import { PATCH_GROUPS, PATCH_KINDS, type PatchGroup, patchKind } from "@stride/motion";
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { Plus } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { fetchKeptPatches } from "../api/client.ts";
import { playhead } from "../state/playhead.ts";
import { Button } from "../ui/Button.tsx";
import { addKept, addPatch } from "./patchActions.ts";

const GROUP_NAMES: Readonly<Record<PatchGroup, string>> = {
  time: "Time",
  ground: "Ground",
  correct: "Correct",
  combine: "Combine",
  hands: "Hands",
  deliver: "Deliver",
};

const GROUP = "[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-1 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-ink-soft";

/** Patches from the shelf: laid on with their settings, at the playhead. Behind the kinds, unless they are what is typed. */
function KeptGroup({ onDone }: { onDone: () => void }) {
  const kept = useQuery({ queryKey: ["patches"], queryFn: fetchKeptPatches });
  const usable = (kept.data ?? []).filter((k) => k.recipe !== null);
  if (usable.length === 0) return null;
  return (
    <Command.Group heading="From the shelf" className={GROUP}>
      {usable.map((k) => (
        <Command.Item
          key={k.id}
          value={`${k.name} ${k.id}`}
          className="cursor-pointer rounded-sm px-2 py-1 data-[selected=true]:bg-cobalt-wash"
          onSelect={() => {
            onDone();
            if (k.recipe) addKept(k.name, k.recipe, playhead.frame);
          }}
        >
          <span className="block font-semibold">{k.name}</span>
          <span className="block truncate text-xs text-ink-soft">{k.recipe?.patches.map((p) => patchKind(p.kind)?.title ?? p.kind).join(", ")}</span>
        </Command.Item>
      ))}
    </Command.Group>
  );
}

/** Every kind of patch in groups by the order of the work, found by typing; what the registry knows is what stands here. */
export function AddPatchMenu() {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button className="ml-1 h-7!">
          <Plus size={14} /> Patch
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className="z-50 flex max-h-[var(--radix-popover-content-available-height)] w-90 flex-col overflow-hidden rounded-sm border border-line bg-sheet shadow-lg"
        >
          <Command label="Add a patch" className="flex min-h-0 flex-col">
            <Command.Input
              placeholder="Which patch?"
              className="h-9 w-full shrink-0 border-b border-line bg-transparent px-3 outline-none placeholder:text-ink-soft"
            />
            <Command.List className="min-h-0 overflow-y-auto p-1">
              <Command.Empty className="px-3 py-3 text-ink-soft">No patch is called so.</Command.Empty>
              <KeptGroup onDone={() => setOpen(false)} />
              {PATCH_GROUPS.map((group) => {
                const kinds = PATCH_KINDS.filter((kind) => kind.group === group);
                if (kinds.length === 0) return null;
                return (
                  <Command.Group key={group} heading={GROUP_NAMES[group]} className={GROUP}>
                    {kinds.map((kind) => (
                      <Command.Item
                        key={kind.kind}
                        value={kind.title}
                        keywords={[kind.description]}
                        className="cursor-pointer rounded-sm px-2 py-1 data-[selected=true]:bg-cobalt-wash"
                        onSelect={() => {
                          setOpen(false);
                          addPatch(kind.kind);
                        }}
                      >
                        <span className="block font-semibold">{kind.title}</span>
                        <span className="block text-xs text-ink-soft">{kind.description}</span>
                      </Command.Item>
                    ))}
                  </Command.Group>
                );
              })}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
