import { type Clip, ClipDraft } from "../clip/clip.ts";
import type { Motion } from "../motion.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { contactsOnto } from "./contactsOnto.ts";
import type { Carried } from "./onto.ts";

/** Offsets nearer than this are the same, metres. */
const SAME_OFFSET = 1e-5;

/** A motion on the very same body, to the bit: also where its file has other joints beside, at the ends of bones. Null on another body. */
export function onSameBody(motion: Motion, like: Motion): Carried | null {
  return sameBody(motion, like) ? onTheVerySame(motion, like) : onAlikeBody(motion, like);
}

function sameBody(a: Motion, b: Motion): boolean {
  const [s, t] = [a.character.skeleton, b.character.skeleton];
  if (s === t) return true;
  const same = (x: ArrayLike<number>, y: ArrayLike<number>, within: number) =>
    x.length === y.length && Array.from(x).every((v, i) => Math.abs(v - y[i]) <= within);
  return (
    s.names.length === t.names.length &&
    s.names.every((name, j) => name === t.names[j]) &&
    same(s.parents, t.parents, 0) &&
    same(withoutRoots(s, a.clip), withoutRoots(t, b.clip), SAME_OFFSET) &&
    same(s.restRotations, t.restRotations, SAME_OFFSET) &&
    same(a.clip.positionJoints, b.clip.positionJoints, 0)
  );
}

/** Offsets, but for roots that every frame places anew. */
function withoutRoots({ offsets, parents }: Skeleton, clip: Clip): Float64Array {
  return offsets.map((v, i) => (parents[Math.floor(i / 3)] < 0 && clip.positionJoints.includes(Math.floor(i / 3)) ? 0 : v));
}

function onTheVerySame(motion: Motion, like: Motion): Carried {
  const joints = new Set(like.character.skeleton.names.keys());
  const ids = new Set(like.points.map((p) => p.id));
  const contacts = motion.contacts.filter((c) => ids.has(c.point));
  return { motion: { ...motion, character: like.character, contacts }, joints, without: [], same: true };
}

/**
 * The same body in another file: every joint of the one is there by name under the same joint, its bone as long and resting the same, and what the other has beside hangs at the ends. Rotations and
 * places are the same to the bit. Null where the bodies differ.
 */
function onAlikeBody(motion: Motion, like: Motion): Carried | null {
  const [s, t] = [motion.character.skeleton, like.character.skeleton];
  const there = s.names.map((name) => t.names.indexOf(name));
  if (there.includes(-1) || new Set(there).size < there.length) return null;
  const [own, other] = [withoutRoots(s, motion.clip), withoutRoots(t, like.clip)];
  const alike = there.every((joint, j) => {
    const near = (x: Float64Array, y: Float64Array, size: number) =>
      Array.from({ length: size }, (_, i) => Math.abs(x[j * size + i] - y[joint * size + i])).every((v) => v <= SAME_OFFSET);
    const above = s.parents[j] < 0 ? -1 : there[s.parents[j]];
    return t.parents[joint] === above && near(own, other, 3) && near(s.restRotations, t.restRotations, 4);
  });
  // What the other has beside hangs where the one ends: a joint along a bone would have a part in its turning.
  const ends = new Set(there.filter((_, j) => !s.parents.includes(j)));
  const beside = [...t.names.keys()].filter((joint) => !there.includes(joint));
  for (const joint of beside) if (ends.has(t.parents[joint])) ends.add(joint);
  const placed = Array.from(motion.clip.positionJoints, (j) => there[j]);
  if (!alike || !beside.every((joint) => ends.has(joint)) || placed.some((joint) => !like.clip.positionJoints.includes(joint))) return null;
  const { clip } = motion;
  const draft = ClipDraft.make(clip.name, clip.fps, clip.frameCount, t.names.length, like.clip.positionJoints);
  for (const joint of beside) for (let f = 0; f < clip.frameCount; f++) draft.setRotation(joint, f, t.restRotations.subarray(joint * 4, joint * 4 + 4));
  like.clip.positionJoints.forEach((joint, slot) => {
    if (!placed.includes(joint)) for (let f = 0; f < clip.frameCount; f++) draft.setPosition(slot, f, t.offsets.subarray(joint * 3, joint * 3 + 3));
  });
  const made = draft.done();
  const contacts = contactsOnto(
    motion,
    like,
    Int16Array.from(t.names, (_, joint) => there.indexOf(joint)),
  );
  return {
    motion: {
      ...motion,
      character: like.character,
      points: like.points,
      contacts,
      clip: {
        ...made,
        rotations: made.rotations.map((track, joint) => (there.includes(joint) ? clip.rotations[there.indexOf(joint)] : track)),
        positions: made.positions.map((track, slot) => {
          const from = placed.indexOf(like.clip.positionJoints[slot]);
          return from < 0 ? track : clip.positions[from];
        }),
      },
      settled: null,
    },
    joints: new Set(there),
    without: [],
    same: true,
  };
}
