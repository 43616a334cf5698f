import { allParts, type Hold, type PartRef, partFromKey, partKey, partOf } from "@stride/motion";
import { X } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { useBench } from "../../../state/bench.ts";
import { partInWords, partName } from "../../../state/partWords.ts";
import { usePlayheadFrame, usePlaying } from "../../../state/playhead.ts";
import { askWorker } from "../../../state/session.ts";
import { Button, IconButton } from "../../../ui/Button.tsx";
import type { FieldEditorProps } from "./drawnField.ts";

interface HoldListFieldProps {
  /** patch whose result the holds are measured in; null: nothing is measured */
  readonly patchId: string | null;
  readonly holds: readonly Hold[];
  set(label: string, make: (holds: readonly Hold[]) => readonly Hold[]): void;
}

/** Parts that stay on their own course while others are edited, each with how far it is from it. */
export function HoldListField({ patchId, holds, set }: HoldListFieldProps) {
  const frame = usePlayheadFrame();
  const playing = usePlaying();
  const opened = useBench((s) => s.opened);
  const parts = useBench((s) => s.parts);
  const after = useBench((s) => s.after);
  const body = useBench((s) => s.body);
  const on = useMemo(() => (opened && body ? { skeleton: opened.skeleton, body } : null), [opened, body]);
  const all = useMemo(() => (on ? allParts(on) : []), [on]);
  const [off, setOff] = useState<readonly { cm: number; degrees: number }[]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: measured anew with every motion and frame
  useEffect(() => {
    // While it plays nobody reads them, and the worker has better things to do.
    if (playing) return;
    if (!patchId || holds.length === 0) {
      setOff((list) => (list.length === 0 ? list : []));
      return;
    }
    let stale = false;
    void askWorker((w) => w.deviations(patchId, holds, frame)).then(
      (list) => {
        if (!stale) setOff(list);
      },
      () => {},
    );
    return () => {
      stale = true;
    };
  }, [patchId, holds, playing ? null : frame, playing, after]);
  if (!on) return null;
  const add = (joints: readonly number[]) =>
    set("Hold parts", (list) => [
      ...list.filter((h) => !joints.some((j) => partKey(partOf(on, j)) === partKey(h.part))),
      ...joints.map((j) => ({ part: partOf(on, j), position: true, orientation: true, on: null })),
    ]);
  const update = (held: PartRef, change: Partial<Hold>) =>
    set(`Hold of ${partInWords(held)}`, (list) => list.map((h) => (partKey(h.part) === partKey(held) ? { ...h, ...change } : h)));
  const feet = [body?.roles.leftFoot, body?.roles.rightFoot].flatMap((j) => (j === undefined ? [] : [j]));
  const hands = [body?.roles.leftHand, body?.roles.rightHand].flatMap((j) => (j === undefined ? [] : [j]));
  return (
    <fieldset className="mt-3 border-t border-line pt-2">
      <legend className="sr-only">Holds</legend>
      <div className="flex items-center justify-between gap-1 pb-1">
        <span title="Held parts keep to their own moving course while others are edited">Holds</span>
        <span className="flex gap-1">
          <Button className="h-6! px-2! text-xs" disabled={parts.length === 0} onClick={() => add(parts)}>
            Hold selected
          </Button>
          <Button className="h-6! px-2! text-xs" onClick={() => add(feet)} disabled={feet.length === 0}>
            Feet
          </Button>
          <Button className="h-6! px-2! text-xs" onClick={() => add(hands)} disabled={hands.length === 0}>
            Hands
          </Button>
        </span>
      </div>
      {holds.length === 0 && <p className="text-xs text-ink-soft">Nothing is held.</p>}
      <ul>
        {holds.map((hold, i) => (
          <li key={partKey(hold.part)} className="pb-1" data-hold={partKey(hold.part)}>
            <div className="flex items-center gap-1.5">
              <span className="min-w-0 flex-1 truncate font-semibold">{partName(hold.part)}</span>
              {off[i] && (
                <span
                  className={`figure ${off[i].cm < 0.05 && off[i].degrees < 0.5 ? "text-moss-ink" : "text-coral-ink"}`}
                  title="How far the part is from its own course at this frame"
                >
                  {off[i].cm.toFixed(2)} cm {off[i].degrees.toFixed(1)}°
                </span>
              )}
              <IconButton
                label={`Let go of ${partInWords(hold.part)}`}
                className="size-5!"
                onClick={() => set(`Let go of ${partInWords(hold.part)}`, (list) => list.filter((h) => h !== hold))}
              >
                <X size={12} />
              </IconButton>
            </div>
            <div className="flex items-center gap-2 text-xs text-ink-soft">
              <label className="flex items-center gap-1">
                <input
                  type="checkbox"
                  className="accent-[var(--ink)]"
                  checked={hold.position}
                  onChange={(e) => update(hold.part, { position: e.target.checked })}
                />{" "}
                place
              </label>
              <label className="flex items-center gap-1">
                <input
                  type="checkbox"
                  className="accent-[var(--ink)]"
                  checked={hold.orientation}
                  onChange={(e) => update(hold.part, { orientation: e.target.checked })}
                />{" "}
                turn
              </label>
              <label className="flex min-w-0 flex-1 items-center gap-1">
                in
                <select
                  aria-label={`${partName(hold.part)} is held in`}
                  className="min-w-0 flex-1 rounded-sm bg-transparent hover:bg-line/40"
                  value={partKey(hold.on)}
                  onChange={(e) => update(hold.part, { on: e.target.value === "" ? null : partFromKey(e.target.value) })}
                >
                  <option value="">the world</option>
                  {all
                    .filter((p) => partKey(p) !== partKey(hold.part))
                    .map((p) => (
                      <option key={partKey(p)} value={partKey(p)}>
                        {partName(p)}
                      </option>
                    ))}
                </select>
              </label>
            </div>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

/** A field that holds what a patch keeps in place. */
export function HoldsOfPatch({ patch, fields: [field] }: FieldEditorProps) {
  const holds = field.value as readonly Hold[];
  return <HoldListField patchId={patch.id} holds={holds} set={(label, make) => field.set(make(holds), `${label}, ${patch.name}`)} />;
}
