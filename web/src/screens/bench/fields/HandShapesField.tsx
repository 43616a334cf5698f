import {
  type BodyMap,
  FINGERS,
  FLAT_HAND,
  type HandShape,
  handRotations,
  READY_SHAPES,
  type ReadyShape,
  readyShape,
  type Side,
  type Skeleton,
} from "@stride/motion";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { keepPose } from "../../../api/client.ts";
import { change, lookAtPart, useBench } from "../../../state/bench.ts";
import { Button } from "../../../ui/Button.tsx";
import { handPath } from "../../../ui/handSilhouette.ts";
import { Segmented } from "../../../ui/Segmented.tsx";
import { SliderRow } from "../../../ui/SliderRow.tsx";
import { KeptPoses } from "../KeptPoses.tsx";
import type { FieldEditorProps } from "./drawnField.ts";

const SMALL = "h-6! px-2! text-xs";

/** Hand shapes, one field a hand: ready and kept shapes, a slider a finger, single joints, and the other hand. */
export function HandShapesField({ patch, fields }: FieldEditorProps) {
  const [chosen, setChosen] = useState(fields.at(-1)?.name);
  const [name, setName] = useState("");
  const [joint, setJoint] = useState("Index2");
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const queries = useQueryClient();
  const field = fields.find((f) => f.name === chosen) ?? fields[0];
  const side = field.hint.side;
  if (!opened || !body) return null;
  if (!side) throw new Error(`the hint of ${field.name} does not say which hand its shape is for`);
  const shape = field.value as HandShape | null;
  const other = fields.find((f) => f.hint.side === (side === "left" ? "right" : "left"));
  const set = (label: string, next: HandShape | null) => field.set(next, `${label}, ${side} hand`);
  const fingers = [
    ...FINGERS.map((finger) => ({
      key: finger.toLowerCase() as "thumb" | "index" | "middle" | "ring" | "little",
      label: `${finger} curl`,
      min: -20,
      max: 100,
    })),
    { key: "spread" as const, label: "Spread", min: -10, max: 25 },
    { key: "thumbAcross" as const, label: "Thumb across", min: -20, max: 80 },
  ];
  const keep = async () => {
    if (!shape) return;
    await keepPose({
      kind: "hand",
      name: name.trim() || "Hand shape",
      data: shape,
      picture: handPath(opened.skeleton, body, side, handRotations(opened.skeleton, body, side, shape)),
    });
    setName("");
    await queries.invalidateQueries({ queryKey: ["poses"] });
  };
  return (
    <div className="border-t border-line py-2">
      <div className="flex items-center justify-between pb-2">
        <Segmented small label="Hand" value={field.name} onChange={setChosen} options={fields.map((f) => ({ value: f.name, label: f.hint.label }))} />
        <label className="flex items-center gap-1.5" title="Off: this hand keeps its own motion">
          <input
            type="checkbox"
            className="accent-[var(--ink)]"
            checked={shape !== null}
            onChange={(e) => set(e.target.checked ? "Shape" : "Own motion", e.target.checked ? FLAT_HAND : null)}
          />
          shaped
        </label>
      </div>
      {shape && (
        <>
          <HandPicture skeleton={opened.skeleton} body={body} side={side} shape={shape} />
          <div className="grid grid-cols-3 gap-1 py-1.5">
            {READY_SHAPES.map((ready) => (
              <Button key={ready.name} className={SMALL} onClick={() => set(ready.label, readyShape(ready.name as ReadyShape, opened.skeleton, body, side))}>
                {ready.label}
              </Button>
            ))}
          </div>
          <Button
            className={`${SMALL} mb-1 w-full`}
            onClick={() => {
              const middle = body.roles[`${side}Middle`] ?? body.roles[`${side}Hand`];
              if (middle !== undefined) lookAtPart(middle, 0.24, body.roles.hips ?? null);
            }}
          >
            Look at the {side} hand
          </Button>
          {other && (
            <Button
              className={`${SMALL} w-full`}
              onClick={() => change(`Mirrored from the ${side}, ${other.hint.label} of ${patch.name}`, (d) => other.written(d, shape))}
            >
              Mirror to the {other.hint.side} hand
            </Button>
          )}
          {fingers.map(({ key, label, min, max }) => (
            <SliderRow
              key={key}
              label={label}
              unit="°"
              value={shape[key]}
              min={min}
              max={max}
              step={1}
              onMove={(v) => field.show({ ...shape, [key]: v })}
              onCommit={(v) => set(label, { ...shape, [key]: v })}
            />
          ))}
          <div className="flex flex-wrap items-center gap-1 pt-1">
            <select
              aria-label="Single joint"
              value={joint}
              onChange={(e) => setJoint(e.target.value)}
              className="h-6 w-full rounded-sm border border-line bg-sheet"
            >
              {FINGERS.flatMap((finger) => [finger, `${finger}2`, `${finger}3`]).map((j) => (
                <option key={j} value={j}>
                  {j.replace(/(\d)$/, " joint $1")}
                </option>
              ))}
            </select>
            {[-10, -5, 5, 10].map((by) => (
              <Button
                key={by}
                className={SMALL}
                aria-label={`Bend ${joint} by ${by}°`}
                onClick={() =>
                  set(`${joint} ${by}°`, { ...shape, single: { ...shape.single, [joint]: Math.max(-60, Math.min(110, (shape.single[joint] ?? 0) + by)) } })
                }
              >
                {by > 0 ? `+${by}` : by}
              </Button>
            ))}
            <span className="figure flex-1 text-right">{shape.single[joint] ?? 0}°</span>
          </div>
          <div className="flex gap-1 pt-2">
            <input
              aria-label="Name of the hand shape"
              placeholder="Name"
              value={name}
              maxLength={120}
              onChange={(e) => setName(e.target.value)}
              onKeyDown={(e) => e.stopPropagation()}
              className="h-6 min-w-0 flex-1 rounded-sm border border-line bg-sheet px-2"
            />
            <Button className={SMALL} onClick={() => void keep()}>
              Keep shape
            </Button>
          </div>
          <KeptPoses kind="hand" label="Kept hand shapes" verb="Use" onUse={(row) => set(`Use ${row.name}`, row.data)} />
        </>
      )}
    </div>
  );
}

function HandPicture({ skeleton, body, side, shape }: { skeleton: Skeleton; body: BodyMap; side: Side; shape: HandShape }) {
  const rotations = handRotations(skeleton, body, side, shape);
  if (rotations.length === 0) return <p className="text-coral-ink">This body has no fingers on its {side} hand.</p>;
  return (
    <div className="grid grid-cols-2 gap-1" aria-hidden="true">
      {(["palm", "side"] as const).map((view) => (
        <figure key={view} className="rounded-sm border border-line bg-paper">
          <svg viewBox="0 0 100 100" className="block h-20 w-full">
            <path
              d={handPath(skeleton, body, side, rotations, view)}
              fill="none"
              stroke={side === "left" ? "var(--plum)" : "var(--teal)"}
              strokeWidth={5}
              strokeLinecap="round"
              strokeLinejoin="round"
            />
          </svg>
          <figcaption className="pb-0.5 text-center text-xs text-ink-soft">{view === "palm" ? "onto the palm" : "from the thumb"}</figcaption>
        </figure>
      ))}
    </div>
  );
}
