import type { ClipRow } from "@stride/server";
import { useClipPicture } from "../api/useClipPicture.ts";

/** A clip's silhouettes along a lane. */
export function LanePicture({ row, x, width, height }: { row: ClipRow; x: number; width: number; height: number }) {
  const picture = useClipPicture(row);
  if (!picture) return null;
  const tall = Math.max(0.8, picture.height) * 1.1;
  const scale = (height - 8) / tall;
  const count = Math.max(1, Math.min(picture.poses.length, Math.floor(width / 26)));
  return (
    <g opacity={0.6}>
      {Array.from({ length: count }, (_, i) => {
        const pose = picture.poses[Math.round((i * (picture.poses.length - 1)) / Math.max(1, count - 1))];
        const points = pose.flatMap((s) => s.points);
        const left = Math.min(...points.filter((_, k) => k % 2 === 0));
        return (
          <g key={i} transform={`translate(${x + (i + 0.5) * (width / count)} ${height - 4}) scale(${scale}) translate(${-left - 0.3} 0)`}>
            {pose.map((strip, k) => (
              <polyline
                key={k}
                points={strip.points.map((v, n) => (n % 2 === 0 ? `${v}` : `,${-v} `)).join("")}
                fill="none"
                stroke="var(--ink)"
                strokeWidth={strip.width}
                strokeLinecap="round"
                strokeLinejoin="round"
              />
            ))}
          </g>
        );
      })}
    </g>
  );
}
