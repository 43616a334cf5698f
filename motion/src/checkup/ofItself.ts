import { type Leg, legChain, legsOf } from "../character/contactPoints.ts";
import { type Clip, ClipDraft, cropClip } from "../clip/clip.ts";
import { jointTracks } from "../contacts/tracks.ts";
import { quatAngleFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { offMiddles } from "../signal/pops.ts";
import { rotationLane, smoothLane } from "../signal/smoothRotation.ts";
import { withoutSpikes } from "../signal/spikes.ts";
import type { JointEvent, JointFaults } from "./jointFaults.ts";

/** A leg with its joints, and those that show where what it stands on goes. */
interface Chain extends ReturnType<typeof legChain> {
  readonly leg: Leg;
}

/**
 * What legs do of themselves, and at few frames a second looks like a fault of one of their joints: a knee that straightens as it pushes off, a foot that whips round as it
 * leaves the ground. A fault takes the foot off its course. What hips, knee and ankle do together keeps it there: mending one of them alone makes the foot's course rougher.
 * What a foot does on its own is told by being done again in the next strides.
 */
export class OfItself {
  private readonly chains: readonly Chain[];
  private readonly lanes = new Map<number, Float64Array>();
  private readonly bends = new Map<number, Float64Array>();

  constructor(private readonly motion: Motion) {
    const { skeleton, body, rig } = motion.character;
    this.chains = legsOf(skeleton, body, rig).map((leg) => ({ leg, ...legChain(skeleton, leg) }));
  }

  /** Faults of a joint without what its leg does of itself. */
  without(faults: JointFaults, joint: number): JointFaults {
    const chain = this.chains.find(({ joints }) => joints.includes(joint));
    if (!chain || faults.pops.length + faults.jitter.length === 0) return faults;
    return {
      ...faults,
      pops: faults.pops.filter((pop) => pop.end > pop.start || !(this.keepsFoot(chain, pop) || this.doneAgain(chain, pop))),
      jitter: faults.jitter.filter((event) => !(this.quickMove(chain, event) || this.comesOrGoes(chain, event))),
    };
  }

  /** Does the foot go more smoothly with the pop than without it? */
  private keepsFoot({ leg, ends }: Chain, { joint, start: f }: JointEvent): boolean {
    const cut = this.around(f, f);
    const mended = withoutSpikes(cut.clip, new Map([[joint, [f - cut.first]]]));
    return this.roughness(mended, leg, ends, SECOND, cut.at) > this.roughness(cut.clip, leg, ends, SECOND, cut.at);
  }

  /** Is it a short stretch on which the foot trembles more where the joint is smoothed? */
  private quickMove({ leg, ends }: Chain, { joint, start, end }: JointEvent): boolean {
    if (end - start + 1 > QUICK_SECONDS * this.motion.clip.fps) return false;
    const cut = this.around(start, end);
    const { clip } = cut;
    const lane = rotationLane(clip, joint);
    smoothLane(lane, clip.frameCount, SMOOTH_HALF, 1);
    const draft = ClipDraft.of(clip);
    for (let f = 0; f < clip.frameCount; f++) draft.setRotation(joint, f, lane.subarray(f * 4, f * 4 + 4));
    return this.roughness(draft.done(), leg, ends, FOURTH, cut.at) > this.roughness(clip, leg, ends, FOURTH, cut.at);
  }

  /** Is it a pop of a foot that comes to rest or leaves, as it is in other strides? */
  private doneAgain({ leg, joints, ends }: Chain, { joint, start: f }: JointEvent): boolean {
    const { clip } = this.motion;
    if (!ends.includes(joint) || !this.nearEdges(leg, f, f, EDGE_SECONDS)) return false;
    const bends = this.bendsOf(joint);
    const others = joints.map((j) => this.laneOf(j));
    const [x, y, z] = bends.subarray(f * 3, f * 3 + 3);
    const square = x * x + y * y + z * z;
    const along = (g: number) => (x * bends[g * 3] + y * bends[g * 3 + 1] + z * bends[g * 3 + 2]) / square;
    // One the other way has half of it on either side.
    const alike = (g: number) => along(g) >= ALIKE && Math.min(along(g - 1), along(g + 1)) > -OTHER_WAY * along(g);
    for (let g = POSES[3]; g < clip.frameCount - POSES[3]; g++) {
      if (Math.abs(g - f) < STRIDE_SECONDS * clip.fps || !(alike(g - 1) || alike(g) || alike(g + 1))) continue;
      const near = (d: number) => f + d < 0 || f + d >= clip.frameCount || others.every((of) => quatAngleFlat(of, (f + d) * 4, of, (g + d) * 4) < SAME_POSE);
      if (POSES.every(near)) return true;
    }
    return false;
  }

  /** A joint's rotations [frame][4], read once. */
  private laneOf(joint: number): Float64Array {
    const lane = this.lanes.get(joint) ?? rotationLane(this.motion.clip, joint);
    this.lanes.set(joint, lane);
    return lane;
  }

  /** A joint's bends (see `offMiddles`), worked out once. */
  private bendsOf(joint: number): Float64Array {
    const bends = this.bends.get(joint) ?? offMiddles(this.laneOf(joint), this.motion.clip.frameCount);
    this.bends.set(joint, bends);
    return bends;
  }

  /** Does a foot do it only while it comes to rest or leaves, no more than that takes, and is still for the rest? */
  private comesOrGoes({ leg, ends }: Chain, { joint, start, end, value }: JointEvent): boolean {
    return ends.includes(joint) && value < MOST_LANDING && this.nearEdges(leg, start, end, EDGE_SECONDS + WINDOW_SECONDS);
  }

  /** Does each of some frames lie within so many seconds of where a contact of the leg begins or ends? */
  private nearEdges({ limb }: Leg, from: number, to: number, seconds: number): boolean {
    const { clip, contacts, points } = this.motion;
    const most = Math.max(1, Math.round(seconds * clip.fps));
    const own = new Set(points.flatMap((point) => (point.limb === limb ? [point.id] : [])));
    const edges = contacts.flatMap(({ point, start, end }) => (own.has(point) && start <= to + most && end >= from - most ? [start, end] : []));
    for (let f = from; f <= to; f++) if (!edges.some((edge) => Math.abs(f - edge) <= most)) return false;
    return true;
  }

  /** The clip around some frames, the first of its frames, and where in it those are. */
  private around(start: number, end: number): { readonly clip: Clip; readonly first: number; readonly at: readonly [number, number] } {
    const { clip } = this.motion;
    const [first, last] = [Math.max(0, start - MARGIN), Math.min(clip.frameCount - 1, end + MARGIN)];
    return { clip: cropClip(clip, first, last), first, at: [start - first, end - first] };
  }

  /** Sum of squares of the differences, weighed as said, of the courses of a leg's ends seen from its root, over some frames. */
  private roughness(clip: Clip, { upper }: Leg, ends: readonly number[], weights: readonly number[], [from, to]: readonly [number, number]): number {
    const [root, ...courses] = jointTracks(this.motion.character.skeleton, clip, [upper, ...ends]).map((track) => track.positions);
    const half = weights.length >> 1;
    let sum = 0;
    for (const course of courses)
      for (let f = Math.max(half, from); f <= Math.min(clip.frameCount - 1 - half, to); f++)
        for (let i = 0; i < 3; i++) sum += weights.reduce((d, w, k) => d + w * (course[(f + k - half) * 3 + i] - root[(f + k - half) * 3 + i]), 0) ** 2;
    return sum;
  }
}

const SECOND = [1, -2, 1];
const FOURTH = [1, -4, 6, -4, 1];
/** Frames on either side that differences and cubics reach. */
const MARGIN = 5;
/** A longer stretch of trembling is no quick move, seconds; shorter ones are held against a quadratic over so many frames on either side. */
const QUICK_SECONDS = 0.4;
const SMOOTH_HALF = 2;
/** A foot whips round within that long of a landing or a leaving, seconds, which shows in trembling as far around as that is looked at, as so many degrees of it at most. */
const EDGE_SECONDS = 0.07;
const WINDOW_SECONDS = 0.08;
const MOST_LANDING = 4;
/** Another stride is further off, seconds. */
const STRIDE_SECONDS = 0.2;
/** The same at another stride: poses of the leg around it as near, radians, and a bend of that share of it at least, that is not beside one which is as large the other way, or so many times that. */
const SAME_POSE = (10 * Math.PI) / 180;
const ALIKE = 0.5;
const OTHER_WAY = 1.3;
const POSES = [-3, -2, 2, 3] as const;
