import { type Clip, type Motion, PointTracks, quatAngleFlat, readRotation } from "@stride/motion";

/** How far the modelled foot joints of a motion's contacts move from where they are in the middle of their spans, centimetres; each contact's furthest. */
export function contactSlides({ character, clip, points, contacts }: Motion): number[] {
  const tracks = new PointTracks(character.skeleton, clip, points);
  return contacts.flatMap((c) => {
    const point = points.find((p) => p.id === c.point);
    if (!point?.modelled || !point.bears || typeof c.on === "object") return [];
    const at = tracks.joint(point.named).positions;
    const middle = ((c.start + c.end) >> 1) * 3;
    let most = 0;
    for (let f = c.start; f <= c.end; f++) most = Math.max(most, Math.hypot(at[f * 3] - at[middle], at[f * 3 + 2] - at[middle + 2]));
    return [100 * most];
  });
}

/** Angle that a joint turns by from one frame to the next, degrees a second. */
export function turnSpeeds(clip: Clip, joint: number): Float64Array {
  const [a, b] = [new Float64Array(4), new Float64Array(4)];
  return Float64Array.from({ length: clip.frameCount - 1 }, (_, f) => {
    readRotation(clip, joint, f, a, 0);
    readRotation(clip, joint, f + 1, b, 0);
    return (quatAngleFlat(a, 0, b, 0) * clip.fps * 180) / Math.PI;
  });
}

/** The largest change of a joint's turning speed from one frame to the next over some frames, over all joints but those left out, degrees a second. */
export function speedJumps(clip: Clip, first = 1, last = clip.frameCount - 2, without: ReadonlySet<number> = new Set()): number[] {
  const out = new Array<number>(Math.max(0, last - first + 1)).fill(0);
  for (let j = 0; j < clip.jointCount; j++) {
    if (without.has(j)) continue;
    const v = turnSpeeds(clip, j);
    for (let f = first; f <= last; f++) out[f - first] = Math.max(out[f - first], Math.abs(v[f] - v[f - 1]));
  }
  return out;
}
