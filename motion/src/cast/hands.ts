import { bodySkin } from "../character/bodySkin.ts";
import { ClipDraft } from "../clip/clip.ts";
import type { Motion } from "../motion.ts";
import { writeLimb } from "../plants/solve.ts";
import { drawWithinReach } from "../plants/withinReach.ts";
import { runningMean } from "../signal/filters.ts";
import { type Arm, armsOf, hungOn } from "./arms.ts";
import { besideBody, comesNear, metParts, type Nearness, NOTHING, nearestAway, nearness } from "./besideBody.ts";
import { OntoSkin } from "./ontoSkin.ts";
import { SomeJoints } from "./someJoints.ts";

/** So often it is looked at where hands are, times a second. */
const LOOKS_A_SECOND = 40;
/** How a palm is led is evened over twice so many seconds to either side: by volumes, whose edges are nowhere, and by the skin, where a quick pass must not be flattened. */
const EVEN_SECONDS = 0.03;
const EVEN_ON_SKIN = 0.02;
/** What evening takes of how palms are led by the skin is led once more, so often at most. */
const ROUNDS = 6;
/** Where that is no more than this, metres, nothing is. */
const FLATTENED = 0.001;
/** Where a hand comes nearer by less than this share of the arm's length, the skin is asked at every other look: not at fewer frames a second than so many. */
const SLOW = 0.02;
const NEVER_PASSED = 35;
const CLOSE = 0.01;

/** Where a palm is there and here, metres. */
interface Palm {
  readonly from: Float64Array;
  readonly to: Float64Array;
}

/** What hands are near at a frame. */
interface Look {
  readonly frame: number;
  readonly near: readonly Nearness[];
  /** how much the skin may lead each palm, 0..1 */
  readonly onSkin: readonly number[];
  /** how far each palm is on the source from what is nearest to it, by the volumes, metres */
  readonly was: readonly number[];
}

/**
 * A motion that was cast onto another body with its hands where they meet: palms as far from each other, and from trunk, head and thighs, as on the body that it was made for, in proportion to the
 * arms' reach: first by the volumes of the parts, then, on a body with a skin, by the skin as it is posed. How much a hand is led so goes over smoothly with its distance, there and here, so that
 * nothing pops; a hand that meets nothing keeps its bits. `source` is what was cast, frame for frame.
 */
export function handsKept(cast: Motion, source: Motion): Motion {
  const arms = armsOf(cast.character, source.character);
  if (arms.length === 0) return cast;
  const met = metParts(cast.character, source.character);
  const [skinThere, skinHere] = [source, cast].map(({ character }) => bodySkin(character));
  const bySkins = skinThere !== null && skinHere !== null;
  const scale = arms[0].limb.length / (source.character.rig.limbs.find((l) => l.end === arms[0].from)?.length ?? arms[0].limb.length);
  const reach = arms[0].limb.length / scale;
  const onSource = [...arms.map((arm) => arm.from), ...met.map((part) => part.from.volume.joint), ...(skinThere?.joints ?? [])];
  const from = new SomeJoints(source.character.skeleton, source.clip, onSource);
  const { parents } = cast.character.skeleton;
  const ofArms = arms.flatMap(({ to, limb }) => [to, limb.upper, limb.lower, limb.end, parents[limb.upper], hungOn(cast.character, limb)]);
  const own = new SomeJoints(cast.character.skeleton, cast.clip, [...ofArms, ...met.map((part) => part.to.volume.joint), ...(skinHere?.joints ?? [])]);
  const { frameCount, fps } = cast.clip;
  const step = Math.max(1, Math.floor(fps / LOOKS_A_SECOND));
  const looks: Look[] = [];
  const palms = arms.map((): Palm => ({ from: new Float64Array(3), to: new Float64Array(3) }));
  const place = (frame: number) => {
    from.load(frame);
    own.load(frame);
    arms.forEach((arm, i) => {
      from.point(palms[i].from, arm.from, arm.fromPalm);
      own.point(palms[i].to, arm.to, arm.toPalm);
    });
  };
  const led = new Leads(arms.length, frameCount, step);
  for (let frame = 0; frame < frameCount; frame += step) {
    place(frame);
    for (const part of met) part.to.place(own);
    // What it was further from and would come near to, or into, on the new body keeps its distance as well.
    const near = nearness(palms, met, from, reach).map(({ hands, body }, i) => ({ hands, body: Math.max(body, comesNear(palms[i].to, met, reach * scale)) }));
    const far = near.every(({ hands, body }) => hands < NOTHING && body < NOTHING);
    // Where the other body's skin is known that alone says what a palm is near.
    if (!far || bySkins) looks.push({ frame, near, onSkin: near.map(({ body }) => (bySkins ? 1 : body)), was: arms.map((_, i) => nearestAway(met, i)) });
    if (far) continue;
    const beside = palms.map(({ to }, i): number[] => {
      const at = near[i].body >= NOTHING ? besideBody(i, met, reach, scale) : null;
      return at ? at.map((v, c) => near[i].body * (v - to[c])) : [0, 0, 0];
    });
    led.add(frame, together(near, palms, beside, scale));
  }
  if (looks.length === 0) return cast;
  // A hand that trembles at the edge of what it meets is led evenly.
  let leads = led.evened((course) => twice(course, spanOf(EVEN_SECONDS, fps)));
  if (skinHere) {
    const onto = new OntoSkin(skinHere, own, skinThere, from, reach, scale);
    let due = looks.filter(({ onSkin }) => onSkin.some((share) => share >= NOTHING));
    for (let round = 0; round < ROUNDS && due.length > 0; round++) {
      const more = new Leads(arms.length, frameCount, step);
      for (const [i, { frame, near, onSkin, was }] of due.entries()) {
        if (fps > NEVER_PASSED && isBetween(due[i - 1], due[i], due[i + 1], step, SLOW * reach)) {
          more.passOver(frame);
          continue;
        }
        place(frame);
        onto.pose();
        palms.forEach(({ to }, i) => {
          for (let c = 0; c < 3; c++) to[c] += leads[i][c][frame];
        });
        const lacks = palms.map((palm, i) => (onSkin[i] < NOTHING ? [0, 0, 0] : onto.lack(palm.to, palm.from, was[i]).map((v) => onSkin[i] * v)));
        more.add(frame, together(near, palms, lacks, scale));
      }
      const rest = more.evened((course) => sharpened(course, spanOf(EVEN_ON_SKIN, fps)));
      leads = leads.map((axes, i) => axes.map((course, c) => sumOf(course, rest[i][c])));
      due = due.filter(({ frame }) => more.missed(rest, frame) > FLATTENED);
    }
  }
  return { ...cast, clip: withPalmsLed(cast, arms, own, leads) };
}

/** Is a look every other one, and do hands go slowly there, less than so many metres from the look before to the one behind, nearer to what they are near or further off? */
function isBetween(before: Look | undefined, look: Look, behind: Look | undefined, step: number, slow: number): boolean {
  if (look.frame % (2 * step) === 0 || before?.frame !== look.frame - step || behind?.frame !== look.frame + step) return false;
  return look.was.every((_, i) => Math.abs(behind.was[i] - before.was[i]) < slow);
}

/**
 * How far palms are led, [arm][3] metres, where `leads` is how far the body leads each: the two to each other, so far as they are near, and the one that the body holds less goes further. What
 * two hands hold between them, or clap, is between them whatever else they are near.
 */
function together(near: readonly Nearness[], palms: readonly Palm[], leads: readonly number[][], scale: number): readonly number[][] {
  const share = near[0].hands;
  if (palms.length < 2 || share < NOTHING) return leads;
  const free = near.map(({ body }) => 1 - body + CLOSE);
  const lack = [0, 1, 2].map((c) => (palms[0].from[c] - palms[1].from[c]) * scale - (palms[0].to[c] + leads[0][c] - palms[1].to[c] - leads[1][c]));
  return leads.map((lead, i) => lead.map((v, c) => v + ((i === 0 ? 1 : -1) * share * lack[c] * free[i]) / (free[0] + free[1])));
}

/** How far each palm is led: looked at now and then, and evenly in between. */
class Leads {
  /** [arm][axis][look] metres */
  private readonly seen: readonly (readonly Float64Array[])[];
  private readonly passed: number[] = [];

  constructor(
    arms: number,
    private readonly frameCount: number,
    private readonly step: number,
  ) {
    const looks = Math.ceil(frameCount / step);
    this.seen = Array.from({ length: arms }, () => [0, 1, 2].map(() => new Float64Array(looks)));
  }

  /** What is led at a look, [arm][3]. */
  add(frame: number, leads: readonly (readonly number[])[]): void {
    leads.forEach((lead, i) => {
      for (let c = 0; c < 3; c++) this.seen[i][c][frame / this.step] = lead[c];
    });
  }

  /** A look that is passed over: what is led there is between those beside it. */
  passOver(frame: number): void {
    this.passed.push(frame / this.step);
  }

  /** How far courses [arm][axis][frame] miss what is led at a look at most, metres. */
  missed(courses: readonly (readonly Float64Array[])[], frame: number): number {
    return this.seen.reduce((most, axes, i) => axes.reduce((far, seen, c) => Math.max(far, Math.abs(seen[frame / this.step] - courses[i][c][frame])), most), 0);
  }

  /** The courses [arm][axis][frame], behind the last look as there, evened. */
  evened(even: (course: Float64Array) => Float64Array): Float64Array[][] {
    const { frameCount, step } = this;
    return this.seen.map((axes) =>
      axes.map((seen) => {
        for (const look of this.passed) seen[look] = (seen[look - 1] + seen[look + 1]) / 2;
        const course = new Float64Array(frameCount);
        for (let look = 0, f = 0; look < seen.length; look++) {
          const [from, to] = [seen[look], seen[Math.min(seen.length - 1, look + 1)]];
          for (let k = 0; k < step && f < frameCount; k++, f++) course[f] = from + (k / step) * (to - from);
        }
        return even(course);
      }),
    );
  }
}

const spanOf = (seconds: number, fps: number) => Math.max(1, Math.round(seconds * fps));

/** Means of means over so many frames to either side. */
function twice(course: Float64Array, half: number): Float64Array {
  return runningMean(runningMean(course, half), half);
}

/** The same, and again of what that leaves out: what is quick is flattened less (Tukey's twicing). */
function sharpened(course: Float64Array, half: number): Float64Array {
  const once = twice(course, half);
  return sumOf(once, twice(sumOf(course, once, -1), half));
}

/** a + share · b. */
function sumOf(a: Float64Array, b: Float64Array, share = 1): Float64Array {
  const out = a.slice();
  for (let f = 0; f < out.length; f++) out[f] += share * b[f];
  return out;
}

/** The cast with its palms led, [arm][axis][frame] metres. */
function withPalmsLed(cast: Motion, arms: readonly Arm[], own: SomeJoints, leads: readonly (readonly Float64Array[])[]): Motion["clip"] {
  const draft = ClipDraft.of(cast.clip);
  const level = new Float64Array(cast.clip.frameCount);
  arms.forEach(({ limb }, i) => {
    const [upper, lower, end, above] = [limb.upper, limb.lower, limb.end, cast.character.skeleton.parents[limb.upper]].map((joint) => own.track(joint));
    const positions = Float64Array.from(end.positions);
    leads[i].forEach((axis, c) => {
      for (let f = 0; f < axis.length; f++) positions[f * 3 + c] += axis[f];
    });
    const course = { end, hip: upper.positions, knee: lower.positions, upper: upper.rotations, lower: lower.rotations, above: above.rotations };
    const rotations = Float64Array.from(end.rotations);
    drawWithinReach(course, { positions }, cast.clip.fps);
    writeLimb(cast.character.skeleton, draft, limb, course, { positions, rotations }, level, null, own.track(hungOn(cast.character, limb)));
  });
  return draft.done();
}
