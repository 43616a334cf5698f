import type { BodyMap, Skeleton } from "@stride/motion";
import { useBench } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";

/** The source's skeleton in its pose at the playhead, seen a little from the side; one joint can be pointed out. */
export function SkeletonDrawing({ skeleton, body, joint }: { skeleton: Skeleton; body: BodyMap; joint: number | null }) {
  const before = useBench((s) => s.before);
  if (before?.jointCount !== skeleton.names.length) return null;
  const { parents } = skeleton;
  const f = Math.min(playhead.frame, before.frameCount - 1);
  const turn = body.plan === "quadruped" ? 1.2 : 0.45;
  const point = (j: number): [number, number] => {
    const o = (f * before.jointCount + j) * 3;
    return [before.positions[o] * Math.cos(turn) + before.positions[o + 2] * Math.sin(turn), -before.positions[o + 1]];
  };
  const points = skeleton.names.map((_, j) => point(j));
  const sides = new Map<number, string>();
  for (const [role, j] of Object.entries(body.roles))
    if (j !== undefined) sides.set(j, role.startsWith("left") ? "var(--plum)" : role.startsWith("right") ? "var(--teal)" : "var(--ink)");
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  const pad = 0.12;
  const box = [Math.min(...xs) - pad, Math.min(...ys) - pad, Math.max(...xs) - Math.min(...xs) + 2 * pad, Math.max(...ys) - Math.min(...ys) + 2 * pad];
  return (
    <svg
      viewBox={box.join(" ")}
      className="size-full"
      role="img"
      aria-label={joint === null ? "The skeleton" : `The skeleton, pointing at ${skeleton.names[joint]}`}
    >
      {points.map((p, j) => {
        const parent = parents[j];
        return parent < 0 ? null : (
          <line
            key={j}
            x1={points[parent][0]}
            y1={points[parent][1]}
            x2={p[0]}
            y2={p[1]}
            stroke={sides.get(j) ?? "var(--ink-soft)"}
            strokeWidth={0.012}
            strokeDasharray={sides.has(j) ? undefined : "0.02 0.015"}
          />
        );
      })}
      {points.map((p, j) => (
        <circle key={j} cx={p[0]} cy={p[1]} r={0.012} fill={sides.get(j) ?? "var(--ink-soft)"} />
      ))}
      {joint !== null && <circle cx={points[joint][0]} cy={points[joint][1]} r={0.04} fill="none" stroke="var(--cobalt)" strokeWidth={0.016} />}
    </svg>
  );
}
