import { findPart, type Patch, partOf } from "@stride/motion";
import clsx from "clsx";
import { useMemo, useState } from "react";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { partName } from "../../state/partWords.ts";
import { playhead } from "../../state/playhead.ts";
import { Button } from "../../ui/Button.tsx";
import { Segmented } from "../../ui/Segmented.tsx";
import { bodyGroups, type GroupName, withGroup } from "./bodyGroups.ts";

/** The body as it stands at the playhead, seen from the front; press a limb, or a single joint, to take it into the patch or leave it out. */
export function BodyPicker({ patch }: { patch: Patch }) {
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const before = useBench((s) => s.before);
  const [by, setBy] = useState<"limb" | "joint">("limb");
  const groups = useMemo(() => (opened && body ? bodyGroups(opened.skeleton, body) : []), [opened, body]);
  if (!opened || !body || !before) return null;
  const on = { skeleton: opened.skeleton, body };
  const { names, parents } = opened.skeleton;
  const every = names.map((_, j) => j);
  const chosen = new Set(patch.parts === null ? every : patch.parts.flatMap((p) => findPart(on, p) ?? []));
  const write = (joints: ReadonlySet<number>) =>
    change(`Parts of ${patch.name}`, (d) =>
      withPatch(d, patch.id, { parts: joints.size === names.length ? null : every.filter((j) => joints.has(j)).map((j) => partOf(on, j)) }),
    );
  const members = (joint: number) => (by === "joint" ? [joint] : every.filter((j) => groups[j] === groups[joint]));
  const press = (joint: number) => write(withGroup(chosen, members(joint)));
  const take = (wanted: readonly GroupName[]) => write(new Set(every.filter((j) => wanted.includes(groups[j]))));
  const { points, box } = drawing(before, parents, Math.min(playhead.frame, before.frameCount - 1), body.plan === "quadruped", body.roles.hips ?? 0);
  const legs: GroupName[] = body.plan === "quadruped" ? ["hips", "left leg", "right leg", "left arm", "right arm"] : ["hips", "left leg", "right leg"];
  return (
    <fieldset className="mt-1 border-t border-line pt-2">
      <legend className="sr-only">Parts on the body</legend>
      <div className="flex items-center justify-between gap-2 pb-1">
        <span>On the body: {patch.parts === null ? "all of it" : `${chosen.size} of ${names.length} joints`}</span>
        <Segmented
          small
          label="Picked by"
          value={by}
          options={[
            { value: "limb", label: "Limb" },
            { value: "joint", label: "Joint" },
          ]}
          onChange={setBy}
        />
      </div>
      <div className="flex gap-2">
        <svg viewBox={box.join(" ")} className="h-52 min-w-0 flex-1 rounded-sm border border-line bg-paper" aria-label="The body's parts">
          {every.map((j) => {
            const parent = parents[j];
            if (parent < 0) return null;
            const label = by === "joint" ? partName(partOf(on, j)) : groups[j];
            return (
              // biome-ignore lint/a11y/useSemanticElements: a bone in a drawing cannot be a button element
              <g
                key={j}
                role="button"
                tabIndex={by === "joint" || every.find((k) => groups[k] === groups[j] && parents[k] >= 0) === j ? 0 : -1}
                aria-pressed={members(j).every((k) => chosen.has(k))}
                aria-label={label}
                className="cursor-pointer outline-none [&:focus-visible>line:last-of-type]:stroke-ink"
                onClick={() => press(j)}
                onKeyDown={(event) => {
                  if (event.key !== "Enter" && event.key !== " ") return;
                  event.preventDefault();
                  event.stopPropagation();
                  press(j);
                }}
              >
                <title>{label}</title>
                <line x1={points[parent][0]} y1={points[parent][1]} x2={points[j][0]} y2={points[j][1]} stroke="transparent" strokeWidth={0.09} />
                <line
                  x1={points[parent][0]}
                  y1={points[parent][1]}
                  x2={points[j][0]}
                  y2={points[j][1]}
                  stroke={chosen.has(j) ? "var(--cobalt)" : "var(--ink-soft)"}
                  strokeWidth={chosen.has(j) ? 0.045 : 0.014}
                  strokeLinecap="round"
                />
              </g>
            );
          })}
        </svg>
        <div className="flex w-24 shrink-0 flex-col gap-1">
          {[
            { label: "All", run: () => write(new Set(every)) },
            { label: "Upper body", run: () => write(new Set(every.filter((j) => !legs.includes(groups[j])))) },
            { label: "Arms", run: () => take(["left arm", "right arm"]) },
            { label: "Legs and hips", run: () => take(legs) },
            { label: "Flip", run: () => write(new Set(every.filter((j) => !chosen.has(j)))) },
          ].map(({ label, run }) => (
            <Button key={label} className={clsx("h-6.5! justify-start! px-2! text-xs")} onClick={run}>
              {label}
            </Button>
          ))}
        </div>
      </div>
      <p className="pt-1 text-xs text-ink-soft">Thick is taken from the other clip. The hips bring the body's place, and with whole legs their contacts.</p>
    </fieldset>
  );
}

/** Joints as a drawing shows them: from the front, a four-legged body from its side; and the box around them. */
function drawing(
  view: { positions: Float32Array | Float64Array; rotations: Float32Array | Float64Array; jointCount: number },
  parents: ArrayLike<number>,
  frame: number,
  side: boolean,
  hips: number,
) {
  const at = (j: number) => (frame * view.jointCount + j) * 3;
  // Seen along the body's own heading: across it lies the line that its hips' x axis makes on the floor.
  const q = (frame * view.jointCount + hips) * 4;
  const [x, y, z, w] = [0, 1, 2, 3].map((i) => view.rotations[q + i]);
  const heading = Math.atan2(-2 * (x * z - w * y), 1 - 2 * (y * y + z * z));
  const turn = heading + (side ? Math.PI / 2 - 0.25 : 0.3);
  const points = Array.from(parents, (_, j): [number, number] => [
    -(view.positions[at(j)] * Math.cos(turn) - view.positions[at(j) + 2] * Math.sin(turn)),
    -view.positions[at(j) + 1],
  ]);
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  const pad = 0.1;
  const box = [Math.min(...xs) - pad, Math.min(...ys) - pad, Math.max(...xs) - Math.min(...xs) + 2 * pad, Math.max(...ys) - Math.min(...ys) + 2 * pad];
  return { points, box };
}
