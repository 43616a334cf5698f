import {
  type BodyMap,
  FINGERS,
  FLAT_HAND,
  type HandShape,
  type HandShapeSettings,
  handRotations,
  type Patch,
  READY_SHAPES,
  type ReadyShape,
  readyShape,
  type Side,
  type Skeleton,
} from "@stride/motion";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { keepPose } from "../../api/client.ts";
import { change, lookAtPart, preview, useBench, withSetting } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";
import { handPath } from "../../ui/handSilhouette.ts";
import { Segmented } from "../../ui/Segmented.tsx";
import { SliderRow } from "../../ui/SliderRow.tsx";
import { KeptPoses } from "./KeptPoses.tsx";

const SMALL = "h-6! px-2! text-xs";

/** A hand shape: ready and kept shapes, a slider a finger, single joints, and the other hand. */
export function HandShapeFields({ patch }: { patch: Patch }) {
  const [side, setSide] = useState<Side>("right");
  const [name, setName] = useState("");
  const [joint, setJoint] = useState("Index2");
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const queries = useQueryClient();
  if (!opened || !body) return null;
  const settings: HandShapeSettings = { left: FLAT_HAND, right: FLAT_HAND, ...(patch.settings as Partial<HandShapeSettings>) };
  const shape = settings[side];
  const other = side === "left" ? "right" : "left";
  const set = (label: string, next: HandShape | null, hand: Side = side) => change(`${label}, ${hand} hand`, (d) => withSetting(d, patch.id, hand, next));
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
        <Segmented
          small
          label="Hand"
          value={side}
          onChange={setSide}
          options={[
            { value: "left", label: "left hand" },
            { value: "right", label: "right hand" },
          ]}
        />
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
          <Button className={`${SMALL} w-full`} onClick={() => set(`Mirrored from the ${side}`, shape, other)}>
            Mirror to the {other} hand
          </Button>
          {fingers.map(({ key, label, min, max }) => (
            <SliderRow
              key={key}
              label={label}
              unit="°"
              value={shape[key]}
              min={min}
              max={max}
              step={1}
              onMove={(v) => preview((d) => withSetting(d, patch.id, side, { ...shape, [key]: v }))}
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
