import { Tabs } from "radix-ui";
import { type Panel, useBench } from "../../state/bench.ts";
import { PosePanel } from "./PosePanel.tsx";
import { SettingsPanel } from "./SettingsPanel.tsx";
import { ShelfPanel } from "./ShelfPanel.tsx";

const TAB =
  "h-8 flex-1 border-b-2 border-transparent text-ink-soft data-[state=active]:border-ink data-[state=active]:font-semibold data-[state=active]:text-ink";

/** The right of the bench: the selected patch, posing, or the shelf. */
export function SidePanel() {
  const panel = useBench((s) => s.panel);
  return (
    <Tabs.Root value={panel} onValueChange={(value) => useBench.setState({ panel: value as Panel })} className="flex h-full flex-col">
      <Tabs.List aria-label="Patch, pose or shelf" className="flex shrink-0 border-b border-line">
        <Tabs.Trigger value="patch" className={TAB}>
          Patch
        </Tabs.Trigger>
        <Tabs.Trigger value="pose" className={TAB} title="Parts, holds, pivot and poses (P)">
          Pose
        </Tabs.Trigger>
        <Tabs.Trigger value="shelf" className={TAB} title="Kept poses, hand shapes and patches (K)">
          Shelf
        </Tabs.Trigger>
      </Tabs.List>
      <Tabs.Content value="patch" className="min-h-0 flex-1">
        <SettingsPanel />
      </Tabs.Content>
      <Tabs.Content value="pose" className="min-h-0 flex-1">
        <PosePanel />
      </Tabs.Content>
      <Tabs.Content value="shelf" className="min-h-0 flex-1">
        <ShelfPanel />
      </Tabs.Content>
    </Tabs.Root>
  );
}
