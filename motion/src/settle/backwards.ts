import { CHUNK_MASK, CHUNK_SHIFT, type Clip, ClipDraft } from "../clip/clip.ts";
import type { Motion } from "../motion.ts";

/** A motion run backwards: frames, contacts and plants. Twice is the motion again. */
export function backwards(motion: Motion): Motion {
  const last = motion.clip.frameCount - 1;
  const turned = (values: Float64Array) => values.slice().reverse();
  return {
    ...motion,
    clip: backwardsClip(motion.clip),
    contacts: motion.contacts
      .map((c) => ({ ...c, start: last - c.end, end: last - c.start, rampIn: c.rampOut, rampOut: c.rampIn }))
      .sort((a, b) => a.start - b.start || a.point.localeCompare(b.point)),
    plants: motion.plants.map((p) => ({ ...p, weights: turned(p.weights) })),
    groundTravel: motion.groundTravel && { x: turned(motion.groundTravel.x), z: turned(motion.groundTravel.z) },
    settled: null,
  };
}

function backwardsClip(clip: Clip): Clip {
  const draft = ClipDraft.make(clip.name, clip.fps, clip.frameCount, clip.jointCount, clip.positionJoints);
  const last = clip.frameCount - 1;
  for (let f = 0; f <= last; f++) {
    const [chunk, at] = [(last - f) >> CHUNK_SHIFT, (last - f) & CHUNK_MASK];
    clip.rotations.forEach((track, j) => {
      draft.setRotation(j, f, track[chunk], at * 4);
    });
    clip.positions.forEach((track, s) => {
      draft.setPosition(s, f, track[chunk], at * 3);
    });
  }
  return draft.done();
}
