import type { ClipRow } from "@stride/server";
import { useEffect, useState } from "react";
import { useClipPicture } from "../api/useClipPicture.ts";
import { Chronophotograph } from "../ui/Chronophotograph.tsx";

/** A picture that is passed by faster than this, milliseconds, is neither asked for nor drawn. */
const PASSED_BY_MS = 90;

/** A clip's chronophotograph, which comes when it is first shown; where it is one of many that are scrolled by (`among`), once it stays. */
export function ClipPicture({
  clip,
  playing = false,
  height,
  among = false,
}: {
  clip: Pick<ClipRow, "id" | "unitScale" | "upAxis" | "summary">;
  playing?: boolean;
  height: number;
  among?: boolean;
}) {
  const [stays, setStays] = useState(!among);
  useEffect(() => {
    if (stays) return;
    const timer = window.setTimeout(() => setStays(true), PASSED_BY_MS);
    return () => window.clearTimeout(timer);
  }, [stays]);
  const picture = useClipPicture(stays ? clip : null);
  // A body without motion has one pose.
  return (
    <Chronophotograph picture={picture} seconds={clip.summary.frames / clip.summary.fps} playing={playing} height={height} alone={clip.summary.frames === 1} />
  );
}
