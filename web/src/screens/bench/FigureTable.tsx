import { TOLERANCE } from "@stride/motion";
import type { StageFigures } from "../../worker/views.ts";

const UNMEASURED = { slideWorstCm: 0, heightWorstCm: 0, pops: 0, jumps: 0, jitterDegrees: 0 };

/** A patch's figures before and after. Its rows stand there before they are measured, so that nothing below moves under the hand. */
export function FigureTable({ stage, poses }: { stage: StageFigures | undefined; poses: boolean }) {
  const before = stage?.before ?? UNMEASURED;
  const after = stage?.after ?? UNMEASURED;
  const moved = stage ? stage.poseMovedCm : 0;
  const rows: readonly (readonly [string, number | null, number | null, string, number])[] = [
    ["Slide, worst", before.slideWorstCm, after.slideWorstCm, "cm", TOLERANCE.slideCm],
    [
      after.heightWorstCm > 0 || (after.heightWorstCm === 0 && before.heightWorstCm > 0) ? "Float, worst" : "Sink, worst",
      Math.abs(before.heightWorstCm),
      Math.abs(after.heightWorstCm),
      "cm",
      TOLERANCE.heightCm,
    ],
    ["Pops", before.pops + before.jumps, after.pops + after.jumps, "", before.pops + before.jumps],
    ["Jitter, worst", before.jitterDegrees, after.jitterDegrees, "°", TOLERANCE.jitterDegrees],
    ["Pose moved", null, moved, "cm", poses ? Number.POSITIVE_INFINITY : TOLERANCE.poseMovedCm],
  ];
  return (
    <table className="mb-2 w-full rounded-sm border border-line" aria-label="Before and after this patch">
      <tbody>
        {rows.map(([name, from, to, unit, tolerance]) => {
          const show = (v: number | null) =>
            !stage ? "…" : v === null ? "—" : unit === "" ? String(v) : unit === "°" ? `${v.toFixed(1)}°` : `${v.toFixed(1)} cm`;
          const tone = !stage || to === null || tolerance === Number.POSITIVE_INFINITY ? "" : to <= tolerance ? "text-moss-ink" : "text-coral-ink";
          return (
            <tr key={name}>
              <th scope="row" className="px-2 py-0.5 text-left font-normal">
                {name}
              </th>
              <td className="figure px-1 text-right text-ink-soft">{from === null ? "" : show(from)}</td>
              <td className={`figure px-2 text-right font-semibold ${tone}`}>{show(to)}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
