import type { ChronoPicture } from "@stride/server";
import { useEffect, useMemo, useState } from "react";
import { type ChronoColours, chronoBox, chronoPoints, chronoText } from "./chronoText.ts";
import { useIsNight } from "./useNight.ts";

/** A clip's picture: silhouettes along its travel with the footprints under them. While `playing`, one of them moves. */
export function Chronophotograph({ picture, seconds, playing, height }: { picture: ChronoPicture | null; seconds: number; playing: boolean; height: number }) {
  // What is not there yet takes its room already.
  if (!picture) return <span className="block w-full" style={{ height }} />;
  return playing ? <Moving picture={picture} seconds={seconds} height={height} /> : <Still picture={picture} height={height} />;
}

/** As an image of its own: one thing in the page, however many strips it has, drawn beside what else the page does. */
function Still({ picture, height }: { picture: ChronoPicture; height: number }) {
  const night = useIsNight();
  const source = useMemo(() => `data:image/svg+xml,${encodeURIComponent(chronoText(picture, coloursOf(night)))}`, [picture, night]);
  return <img src={source} alt="" className="pointer-events-none block w-full" style={{ height }} decoding="async" />;
}

const TOKENS: Readonly<Record<keyof ChronoColours, string>> = {
  left: "--plum",
  right: "--teal",
  middle: "--ink",
  line: "--line",
  sheet: "--sheet",
  smear: "--coral",
};
const known = new Map<boolean, ChronoColours>();

/** The tokens as they are by day or by night, whichever it is now: an image knows none of the page's. */
function coloursOf(night: boolean): ChronoColours {
  const before = known.get(night);
  if (before) return before;
  const style = getComputedStyle(document.documentElement);
  const colours = Object.fromEntries(Object.entries(TOKENS).map(([key, token]) => [key, style.getPropertyValue(token).trim()])) as unknown as ChronoColours;
  known.set(night, colours);
  return colours;
}

function Moving({ picture, seconds, height }: { picture: ChronoPicture; seconds: number; height: number }) {
  const [at, setAt] = useState(0);
  const count = picture.poses.length;
  useEffect(() => {
    const started = performance.now();
    let request = requestAnimationFrame(function step(now) {
      // A picture's time can lie before the moment it was asked for.
      setAt(Math.floor(((Math.max(0, now - started) / 1000 / seconds) * count) % count));
      request = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(request);
  }, [seconds, count]);
  const box = chronoBox(picture);
  const colour = { left: "var(--plum)", right: "var(--teal)", middle: "var(--ink)" } as const;
  return (
    <svg viewBox={box.join(" ")} height={height} className="pointer-events-none block w-full" preserveAspectRatio="xMidYMid meet" aria-hidden="true">
      <line x1={box[0]} x2={box[0] + box[2]} y1={0.02} y2={0.02} stroke="var(--line)" strokeWidth={0.014} />
      {picture.poses[at].map((strip, k) => (
        <polyline
          key={k}
          points={chronoPoints(strip.points)}
          fill="none"
          stroke={colour[strip.side]}
          strokeWidth={strip.width}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
    </svg>
  );
}
