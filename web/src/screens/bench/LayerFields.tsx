import { type LayerSettings, type Patch, receivedSeconds } from "@stride/motion";
import { toast } from "sonner";
import { zeroEnds } from "../../curves/curveEdits.ts";
import { change, useBench } from "../../state/bench.ts";
import { mergeDown } from "../../timedesk/patchActions.ts";
import { Button } from "../../ui/Button.tsx";

/** A layer's keys in short, and what can be done with it as a whole. */
export function LayerFields({ patch }: { patch: Patch }) {
  const settings = patch.settings as Partial<LayerSettings>;
  const channels = settings.channels ?? [];
  const clocks = useBench((s) => s.clocks);
  const last = receivedSeconds(clocks, patch.id);
  const keys = channels.reduce((sum, c) => sum + c.keys.length, 0);
  return (
    <div className="border-t border-line py-2">
      <p className="pb-1.5 text-ink-soft">
        {keys === 0 ? "No keys yet: the motion is as it was. Pose the body, or set keys in the curve view." : `${keys} keys on ${channels.length} curves`}
      </p>
      <div className="flex flex-wrap gap-1 pt-1">
        <Button className="h-6! px-2! text-xs" onClick={() => useBench.setState({ desk: "curves" })}>
          Curves
        </Button>
        <Button
          className="h-6! px-2! text-xs"
          disabled={keys === 0 || settings.mode === "override"}
          title="Nothing leaks before the first key or behind the last"
          onClick={() => change(`Zero keys at both ends of ${patch.name}`, (d) => zeroEnds(d, patch.id, last))}
        >
          Zero at both ends
        </Button>
        <Button
          className="h-6! px-2! text-xs"
          onClick={() => {
            if (!mergeDown(patch)) toast.error("Merging needs a layer right beneath with the same range, strength, mask and mode, and no curve in common");
          }}
        >
          Merge down
        </Button>
      </div>
    </div>
  );
}
