import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { heldAgain, newFrames, STEPPED } from "../signal/holds.ts";
import type { Contact } from "./contact.ts";
import type { Grounding } from "./find.ts";

/** A clip that goes by steps as its poses alone, evenly paced, and the frame of the clip on which each begins. */
export interface Poses {
  readonly clip: Clip;
  readonly frames: Int32Array;
}

/** Those of a clip in which every part goes by the same steps: held poses would be taken for parts that rest, and what comes all at once for a swing. Null where it goes on from frame to frame. */
export function posesOf(clip: Clip): Poses | null {
  const n = clip.frameCount;
  // A frame on which anything at all is new is a pose.
  const isNew = new Uint8Array(n);
  isNew[0] = 1;
  let count = 1;
  const sample = [new Float64Array(4), new Float64Array(4)];
  const look = (size: number, read: (frame: number, dst: Float64Array) => void) => {
    read(0, sample[0]);
    for (let f = 1; f < n; f++) {
      const [before, here] = [sample[(f - 1) & 1], sample[f & 1]];
      read(f, here);
      if (isNew[f]) continue;
      for (let i = 0; i < size; i++)
        if (here[i] !== before[i]) {
          isNew[f] = 1;
          count++;
          break;
        }
    }
    return n - count >= STEPPED * n;
  };
  for (let slot = 0; slot < clip.positions.length; slot++) if (!look(3, (f, dst) => readPosition(clip, slot, f, dst, 0))) return null;
  for (let joint = 0; joint < clip.jointCount; joint++) if (!look(4, (f, dst) => readRotation(clip, joint, f, dst, 0))) return null;
  const frames = newFrames(cumulated(isNew), 1);
  return frames && (clip.fps * frames.length) / n >= LEAST_RATE ? { clip: shownAt(clip, frames), frames } : null;
}

/** With fewer poses a second a stand is one or two of them, and says nothing of how fast anything goes: as long as it is held it is at least seen to rest. */
const LEAST_RATE = 11.5;

/** How many poses there have been up to each frame: it repeats where nothing is new. */
function cumulated(isNew: Uint8Array): Float64Array {
  let sum = 0;
  return Float64Array.from(isNew, (v) => {
    sum += v;
    return sum;
  });
}

function shownAt(clip: Clip, frames: Int32Array): Clip {
  const draft = ClipDraft.make(clip.name, (clip.fps * frames.length) / clip.frameCount, frames.length, clip.jointCount, clip.positionJoints);
  const q = new Float64Array(4);
  frames.forEach((from, f) => {
    for (let joint = 0; joint < clip.jointCount; joint++) {
      readRotation(clip, joint, from, q, 0);
      draft.setRotation(joint, f, q);
    }
    for (let slot = 0; slot < clip.positions.length; slot++) {
      readPosition(clip, slot, from, q, 0);
      draft.setPosition(slot, f, q);
    }
  });
  return draft.done();
}

/** What was found of poses, on all the frames that hold them. */
export function onFrames<Found extends Pick<Grounding, "contacts" | "way">>(found: Found, { frames }: Poses, frameCount: number): Found {
  const last = (pose: number) => (frames[pose + 1] ?? frameCount) - 1;
  return {
    ...found,
    contacts: found.contacts.map(({ start, end, doubtful, ...contact }): Contact => {
      const span = { ...contact, start: frames[start], end: last(end) };
      if (!doubtful) return span;
      const [before, after] = [frames[Math.max(0, start - doubtful[0])], last(Math.min(frames.length - 1, end + doubtful[1]))];
      return { ...span, doubtful: [span.start - before, after - span.end] };
    }),
    way: found.way && heldAgain(found.way, 2, frames, frameCount),
  };
}
