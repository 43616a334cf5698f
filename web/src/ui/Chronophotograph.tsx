import type { ChronoPicture } from "@stride/server";
import { useEffect, useState } from "react";

/** Every this-many-th of the kept poses stands in the still picture. */
const SPACING = 4;

/** A clip's picture: silhouettes along its travel with the footprints under them. While `playing`, one of them moves. */
export function Chronophotograph({ picture, ...rest }: { picture: ChronoPicture | null; seconds: number; playing: boolean; height: number }) {
  // What is not there yet takes its room already.
  return picture ? <Drawing picture={picture} {...rest} /> : <span className="block w-full" style={{ height: rest.height }} />;
}

function Drawing({ picture, seconds, playing, height }: { picture: ChronoPicture; seconds: number; playing: boolean; height: number }) {
  const [at, setAt] = useState(0);
  const count = picture.poses.length;
  useEffect(() => {
    if (!playing) return;
    const started = performance.now();
    let request = requestAnimationFrame(function step(now) {
      // A picture's time can lie before the moment it was asked for.
      setAt(Math.floor(((Math.max(0, now - started) / 1000 / seconds) * count) % count));
      request = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(request);
  }, [playing, seconds, count]);

  const tall = Math.max(picture.height, 0.8) * 1.12;
  const wide = Math.max(picture.width + 0.8, tall * 2.35);
  const left = (wide - picture.width) / 2;
  const shown = playing ? [at] : Array.from({ length: count }, (_, i) => i).filter((i) => i % SPACING === 0);
  return (
    <svg
      viewBox={`${-left} ${-tall} ${wide} ${tall + 0.34}`}
      height={height}
      className="pointer-events-none block w-full"
      preserveAspectRatio="xMidYMid meet"
      aria-hidden="true"
    >
      <line x1={-left} x2={wide - left} y1={0.02} y2={0.02} stroke="var(--line)" strokeWidth={0.014} />
      {picture.prints.map((print, i) => (
        <g key={i}>
          {print.smear > 0.008 && (
            <rect
              x={print.x - Math.max(0.1, print.smear)}
              y={0.17}
              width={Math.max(0.1, print.smear)}
              height={0.045}
              rx={0.02}
              fill="var(--coral)"
              opacity={0.85}
            />
          )}
          <ellipse
            cx={print.x}
            cy={print.side === "left" ? 0.23 : 0.16}
            rx={0.11}
            ry={0.036}
            fill={print.side === "left" ? "var(--plum)" : "var(--sheet)"}
            stroke={print.side === "left" ? "none" : "var(--teal)"}
            strokeWidth={0.02}
          />
        </g>
      ))}
      {shown.map((index, i) => {
        const last = playing || i === shown.length - 1;
        return (
          <g key={index} opacity={last ? 1 : 0.16 + (0.62 * i) / shown.length}>
            {picture.poses[index].map((strip, k) => (
              <polyline
                key={k}
                points={pairs(strip.points)}
                fill="none"
                stroke={strip.side === "left" ? "var(--plum)" : strip.side === "right" ? "var(--teal)" : "var(--ink)"}
                strokeWidth={strip.width}
                strokeLinecap="round"
                strokeLinejoin="round"
              />
            ))}
          </g>
        );
      })}
    </svg>
  );
}

function pairs(points: readonly number[]): string {
  let text = "";
  for (let i = 0; i < points.length; i += 2) text += `${points[i]},${-points[i + 1]} `;
  return text;
}
