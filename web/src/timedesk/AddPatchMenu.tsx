import { PATCH_KINDS } from "@stride/motion";
import { Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Button } from "../ui/Button.tsx";
import { addPatch } from "./patchActions.ts";

/** Every kind of patch with its one-line description; what the registry knows is what stands here. */
export function AddPatchMenu() {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="ml-1 h-7!">
          <Plus size={14} /> Patch
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={4} className="z-50 w-90 rounded-sm border border-line bg-sheet py-1 shadow-lg">
          {PATCH_KINDS.map((kind) => (
            <DropdownMenu.Item
              key={kind.kind}
              className="cursor-pointer px-3 py-1.5 outline-none data-highlighted:bg-cobalt-wash"
              onSelect={() => addPatch(kind.kind)}
            >
              <span className="block font-semibold">{kind.title}</span>
              <span className="block text-ink-soft">{kind.description}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
