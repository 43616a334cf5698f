import { pointLabel } from "@stride/motion";
import { change, useBench } from "../state/bench.ts";
import { sourceMomentOf } from "../state/times.ts";
import { withSpan } from "./contactEdits.ts";

/** Seconds on either side of its frame that a contact set by hand begins with. */
const NEW_CONTACT = 0.15;

/** Sets a contact of a point about a frame of the result, and picks it. */
export function addContactAt(point: string, frame: number): void {
  const { after, clocks } = useBench.getState();
  if (!after) return;
  const half = Math.max(2, Math.round(after.fps * NEW_CONTACT));
  const start = Math.max(0, Math.round(frame) - half);
  const end = Math.min(after.frameCount - 1, Math.round(frame) + half);
  const span = { point, start: sourceMomentOf(clocks, start), end: sourceMomentOf(clocks, end) };
  change(`Add ${pointLabel(point).toLowerCase()} contact`, (d) => withSpan(d, span, span));
  useBench.setState({ contact: { point, start, end } });
}
