import { curveValue, type Key, withKey } from "@stride/motion";
import { useBench } from "../../../state/bench.ts";
import { playhead, usePlayheadFrame } from "../../../state/playhead.ts";
import { momentIn } from "../../../state/times.ts";
import { Button } from "../../../ui/Button.tsx";
import { SliderRow } from "../../../ui/SliderRow.tsx";
import type { FieldEditorProps } from "./drawnField.ts";

/** A value keyed over time: its value at the playhead, where moving it sets a key, and a way back to one value throughout. */
export function KeyListField({ patch, fields: [field] }: FieldEditorProps) {
  const clocks = useBench((s) => s.clocks);
  const frame = usePlayheadFrame();
  const keys = field.value as readonly Key[];
  const { label, unit, help, step = 0.01, factor = 1, ends = [0, 1], unkeyed = 0 } = field.hint;
  const [least, most] = ends;
  const value = keys.length === 0 ? unkeyed : Math.max(least, Math.min(most, curveValue(keys, momentIn(clocks, patch.id, frame))));
  const keyed = (v: number) => withKey(keys, { at: momentIn(clocks, patch.id, playhead.frame), value: v / factor, tangent: "smooth" });
  return (
    <div className="flex items-end gap-1">
      <div className="min-w-0 flex-1">
        <SliderRow
          label={`${label} at f ${frame}`}
          unit={unit}
          help={help}
          value={value * factor}
          min={least * factor}
          max={most * factor}
          step={step * factor}
          onMove={(v) => field.show(keyed(v))}
          onCommit={(v) => field.set(keyed(v))}
        />
      </div>
      {keys.length > 0 && (
        <Button
          className="mb-1 h-6! px-2! text-xs"
          title={`${label} is the same throughout again`}
          onClick={() => field.set([], `Even ${label.toLowerCase()} of ${patch.name}`)}
        >
          Clear {keys.length} {keys.length === 1 ? "key" : "keys"}
        </Button>
      )}
    </div>
  );
}
