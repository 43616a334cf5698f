import { curveValue, type Key, type LayerSettings, type Patch, receivedSeconds, type Work, withKey } from "@stride/motion";
import { toast } from "sonner";
import { zeroEnds } from "../../curves/curveEdits.ts";
import { change, preview, useBench, withSetting } from "../../state/bench.ts";
import { playhead, usePlayheadFrame } from "../../state/playhead.ts";
import { momentIn } from "../../state/times.ts";
import { mergeDown } from "../../timedesk/patchActions.ts";
import { Button } from "../../ui/Button.tsx";
import { SliderRow } from "../../ui/SliderRow.tsx";

/** A layer's keys in short, its keyed weight, and what can be done with it as a whole. */
export function LayerFields({ patch }: { patch: Patch }) {
  const settings = patch.settings as Partial<LayerSettings>;
  const channels = settings.channels ?? [];
  const weightKeys = settings.weightKeys ?? [];
  const clocks = useBench((s) => s.clocks);
  const last = receivedSeconds(clocks, patch.id);
  const frame = usePlayheadFrame();
  const keys = channels.reduce((sum, c) => sum + c.keys.length, 0);
  const weight = weightKeys.length === 0 ? 1 : Math.max(0, Math.min(1, curveValue(weightKeys, momentIn(clocks, patch.id, frame))));
  const weighed = (value: number) => (d: Work) => {
    const key: Key = { at: momentIn(clocks, patch.id, playhead.frame), value, tangent: "smooth" };
    return withSetting(d, patch.id, "weightKeys", withKey(weightKeys, key));
  };
  return (
    <div className="border-t border-line py-2">
      <p className="pb-1.5 text-ink-soft">
        {keys === 0 ? "No keys yet: the motion is as it was. Pose the body, or set keys in the curve view." : `${keys} keys on ${channels.length} curves`}
      </p>
      <SliderRow
        label={`Weight at f ${frame}${weightKeys.length > 0 ? `, ${weightKeys.length} keys` : ""}`}
        unit="%"
        value={weight * 100}
        min={0}
        max={100}
        step={1}
        onMove={(v) => preview(weighed(v / 100))}
        onCommit={(v) => change(`Weight of ${patch.name}`, weighed(v / 100))}
      />
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
          disabled={weightKeys.length === 0}
          onClick={() => change(`Even weight of ${patch.name}`, (d) => withSetting(d, patch.id, "weightKeys", []))}
        >
          Even weight
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
