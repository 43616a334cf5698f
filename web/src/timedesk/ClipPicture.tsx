import type { ClipRow } from "@stride/server";
import { useClipPicture } from "../api/useClipPicture.ts";
import { Chronophotograph } from "../ui/Chronophotograph.tsx";

/** A clip's chronophotograph, which comes when it is first shown. */
export function ClipPicture({
  clip,
  playing = false,
  height,
}: {
  clip: Pick<ClipRow, "id" | "unitScale" | "upAxis" | "summary">;
  playing?: boolean;
  height: number;
}) {
  const picture = useClipPicture(clip);
  return <Chronophotograph picture={picture} seconds={clip.summary.frames / clip.summary.fps} playing={playing} height={height} />;
}
