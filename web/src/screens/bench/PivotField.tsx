import { partOf } from "@stride/motion";
import { useBench } from "../../state/bench.ts";
import { partInWords } from "../../state/partWords.ts";
import { playhead } from "../../state/playhead.ts";
import { usePosing } from "../../state/posing.ts";
import { AxisField } from "../../ui/AxisField.tsx";
import { Button } from "../../ui/Button.tsx";

/** The point about which the body turns in the next edits. */
export function PivotField() {
  const pivot = usePosing((s) => s.pivot);
  const parts = useBench((s) => s.parts);
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const setFree = () => {
    const { after, parts: selected, body } = useBench.getState();
    if (!after) return;
    const joint = selected.at(-1) ?? body?.roles.hips ?? 0;
    const o = (playhead.frame * after.jointCount + joint) * 3;
    const at = [0, 1, 2].map((c) => Math.round(after.positions[o + c] * 1000) / 1000) as [number, number, number];
    usePosing.setState({ pivot: { parts: [], point: at } });
  };
  return (
    <fieldset className="mt-3 border-t border-line pt-2">
      <legend className="sr-only">Pivot</legend>
      <div className="flex items-center justify-between gap-1 pb-1">
        <span title="The hips turn the whole body about it; a part between it and the hips turns the other side">Pivot</span>
        <span className="flex gap-1">
          <Button
            className="h-6! px-2! text-xs"
            disabled={parts.length === 0 || !opened || !body}
            onClick={() =>
              opened && body && usePosing.setState({ pivot: { parts: parts.map((j) => partOf({ skeleton: opened.skeleton, body }, j)), point: null } })
            }
          >
            At selected
          </Button>
          <Button className="h-6! px-2! text-xs" onClick={setFree}>
            Free point
          </Button>
          <Button className="h-6! px-2! text-xs" disabled={!pivot} onClick={() => usePosing.setState({ pivot: null })}>
            None
          </Button>
        </span>
      </div>
      {!pivot && <p className="text-xs text-ink-soft">Each part turns about its own joint.</p>}
      {pivot && pivot.parts.length > 0 && <p data-testid="pivot">The body turns about {pivot.parts.map((p) => partInWords(p)).join(" and ")}.</p>}
      {pivot?.point && (
        <div className="grid grid-cols-3 gap-1.5">
          {["x", "y", "z"].map((axis, i) => (
            <AxisField
              key={axis}
              axis={axis}
              label={`Pivot ${axis}`}
              value={(pivot.point?.[i] ?? 0) * 100}
              unit="cm"
              of="pivot"
              onCommit={(value) =>
                usePosing.setState({
                  pivot: { parts: [], point: (pivot.point ?? [0, 0, 0]).map((v, c) => (c === i ? value / 100 : v)) as [number, number, number] },
                })
              }
            />
          ))}
        </div>
      )}
    </fieldset>
  );
}
