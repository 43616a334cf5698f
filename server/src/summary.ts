import {
  type Clip,
  Evaluator,
  emptyWork,
  type FileBytes,
  type FileReading,
  type FindingKind,
  findingsOf,
  groundHeight,
  type Motion,
  type MotionFile,
  MotionFormatError,
  measure,
  oneSource,
  PoseFrame,
  readMotion,
  type Skeleton,
  type SkinPart,
  skinOfFile,
  totalsOf,
} from "@stride/motion";

/** What the library knows of a clip without opening it. */
export interface ClipSummary {
  readonly fps: number;
  readonly frames: number;
  readonly joints: number;
  readonly plan: "biped" | "quadruped";
  readonly unitScale: number;
  readonly upAxis: "y" | "z";
  readonly warnings: readonly string[];
  readonly slideWorstCm: number;
  readonly findings: number;
  /** the worst finding's words, such as "Right toe slides" with its figure */
  readonly worst: { readonly kind: FindingKind; readonly title: string; readonly value: number; readonly unit: string } | null;
  /** all that is wrong, and how often */
  readonly wrong: readonly { readonly kind: FindingKind; readonly title: string; readonly count: number }[];
  /** the animations of a file that holds several, this clip's own among them */
  readonly takes?: readonly string[];
  /** a body without a motion of its own; absent in what was read before there were any */
  readonly character?: boolean;
  /** null where the file has no surface */
  readonly skin?: SkinSummary | null;
  /** standing height, metres */
  readonly height?: number;
}

/** The surface of a body, and how large it is. */
export interface SkinSummary {
  readonly vertices: number;
  readonly triangles: number;
  /** names of the joints that move it */
  readonly bones: readonly string[];
  /** why it cannot be shown, where it cannot be read */
  readonly problem: string | null;
}

/** What reading a clip gives: what lists tell of it, and its picture. */
export interface ClipReading {
  readonly summary: ClipSummary;
  readonly picture: ChronoPicture;
}

/** A chronophotograph: bodies along their travel, as line strips in metres; x along the travel, y up. */
export interface ChronoPicture {
  readonly poses: readonly (readonly { readonly side: "left" | "right" | "middle"; readonly width: number; readonly points: readonly number[] }[])[];
  /** footprints under them: x, half length, smear */
  readonly prints: readonly { readonly side: "left" | "right"; readonly x: number; readonly smear: number }[];
  readonly width: number;
  readonly height: number;
}

/** Reads, checks and pictures a clip. Throws MotionFormatError on a file that cannot be read. Runs in a worker. */
export function summarize(bytes: FileBytes, options: FileReading): ClipReading {
  const file = readMotion(bytes, options);
  const { base } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate(emptyWork());
  const measures = measure(base);
  const findings = findingsOf(base, measures);
  const worst = findings[0];
  const summary: ClipSummary = {
    fps: file.clip.fps,
    frames: file.clip.frameCount,
    joints: file.clip.jointCount,
    plan: base.character.body.plan,
    unitScale: file.unitScale,
    upAxis: file.upAxis,
    warnings: file.warnings,
    slideWorstCm: totalsOf(measures).slideWorstCm,
    findings: findings.length,
    worst: worst ? { kind: worst.kind, title: worst.title, value: worst.value, unit: worst.unit } : null,
    wrong: wrongOf(findings),
    ...(file.takes && file.takes.length > 1 && { takes: file.takes }),
    character: file.still === true,
    skin: skinSummary(file, options.fileName),
    height: base.character.height,
  };
  const picture = chronoPicture(
    base,
    measures.spans.map((s) => ({ point: s.contact.point, start: s.contact.start, end: s.contact.end, slideCm: s.slideCm })),
  );
  return { summary, picture };
}

function skinSummary(file: MotionFile, fileName: string): SkinSummary | null {
  try {
    const skin = skinOfFile(file, fileName);
    if (!skin) return null;
    const sum = (of: (part: SkinPart) => number) => skin.parts.reduce((total, part) => total + of(part), 0);
    return {
      vertices: sum((p) => p.positions.length / 3),
      triangles: sum((p) => p.indices.length / 3),
      bones: [...new Set(skin.joints)].map((j) => file.skeleton.names[j]),
      problem: null,
    };
  } catch (error) {
    if (!(error instanceof MotionFormatError)) throw error;
    return { vertices: 0, triangles: 0, bones: [], problem: error.message };
  }
}

/** Findings by their title, with how often each stands there. */
function wrongOf(findings: readonly { readonly kind: FindingKind; readonly title: string }[]): ClipSummary["wrong"] {
  const wrong = new Map<string, { kind: FindingKind; title: string; count: number }>();
  for (const { kind, title } of findings) wrong.set(title, { kind, title, count: (wrong.get(title)?.count ?? 0) + 1 });
  return [...wrong.values()];
}

/** Poses kept: every fourth stands in the picture, all of them play under the pointer. */
const POSES = 25;

function chronoPicture(motion: Motion, spans: readonly { point: string; start: number; end: number; slideCm: number }[]): ChronoPicture {
  const { clip } = motion;
  const { skeleton, body } = motion.character;
  const place = framePlaces(skeleton, clip);
  const hips = body.roles.hips ?? 0;
  const last = clip.frameCount - 1;
  const [x0, , z0] = place(0, hips);
  const [x1, , z1] = place(last, hips);
  const [dx, dz] = [x1 - x0, z1 - z0];
  const travel = Math.hypot(dx, dz);
  // Seen across the travel; a body that stays is spread out, seen from its side.
  const moves = travel > 1.2;
  // A body without motion stands alone: a person seen from the front, an animal from its side.
  const still = last === 0;
  const [ux, uz] = moves ? [dx / travel, dz / travel] : still && body.plan === "biped" ? [1, 0] : [0, 1];
  // On a slope the line is drawn where the ground is lowest, so that nothing goes under it.
  const under = (frame: number) => {
    const [x, , z] = place(frame, hips);
    return groundHeight(motion.ground, x, z);
  };
  const floor = Math.min(under(0), under(last));
  const step = moves || still ? 0 : 0.62 / 4;
  const frames = Array.from({ length: POSES }, (_, i) => Math.round((i * last) / (POSES - 1)));
  const project = (frame: number, joint: number, shift: number): [number, number] => {
    const [x, y, z] = place(frame, joint);
    return [(x - x0) * ux + (z - z0) * uz + shift, y - floor];
  };
  const strips = bodyStrips(motion);
  const poses = frames.map((frame, i) =>
    strips.map(({ side, width, joints }) => ({
      side,
      width,
      points: joints.flatMap((j) => project(frame, j, i * step)).map((v) => Math.round(v * 1000) / 1000),
    })),
  );
  const all = poses.flat().flatMap((s) => s.points);
  const xs = all.filter((_, i) => i % 2 === 0);
  const low = Math.min(...xs);
  const shifted = poses.map((pose) => pose.map((s) => ({ ...s, points: s.points.map((v, i) => (i % 2 === 0 ? Math.round((v - low) * 1000) / 1000 : v)) })));
  const prints = spans
    .filter((s) => motion.points.some((p) => p.id === s.point && p.bears && p.side !== null && !p.id.endsWith("Heel")))
    .map((s) => {
      const joint = motion.contacts.find((c) => c.point === s.point)?.joint ?? hips;
      const middle = Math.round((s.start + s.end) / 2);
      return {
        side: s.point.startsWith("left") ? ("left" as const) : ("right" as const),
        x: project(middle, joint, moves ? 0 : ((i) => i * step)((middle / Math.max(1, last)) * (POSES - 1)))[0] - low,
        smear: s.slideCm / 100,
      };
    });
  return { poses: shifted, prints: prints.slice(0, 40), width: Math.max(...xs) - low, height: Math.max(...all.filter((_, i) => i % 2 === 1)) };
}

/** World places of joints at frames, each frame posed when it is first asked for: a picture needs few of them. */
function framePlaces(skeleton: Skeleton, clip: Clip): (frame: number, joint: number) => [number, number, number] {
  const posed = new Map<number, Float64Array>();
  const pose = new PoseFrame(skeleton, clip);
  return (frame, joint) => {
    let places = posed.get(frame);
    if (!places) {
      pose.load(clip, frame);
      places = pose.worldPositions.slice();
      posed.set(frame, places);
    }
    return [places[joint * 3], places[joint * 3 + 1], places[joint * 3 + 2]];
  };
}

function bodyStrips(motion: Motion): { side: "left" | "right" | "middle"; width: number; joints: number[] }[] {
  const { skeleton, body } = motion.character;
  const r = body.roles;
  const chain = (...joints: (number | undefined)[]) => joints.filter((j): j is number => j !== undefined);
  const strips = [
    { side: "right" as const, width: 0.07, joints: chain(r.rightUpperArm, r.rightForearm, r.rightHand, r.rightHandEnd) },
    { side: "right" as const, width: 0.1, joints: chain(r.rightThigh, r.rightShin, r.rightFoot, r.rightToe) },
    { side: "middle" as const, width: 0.17, joints: chain(r.hips, r.spine, r.spine2, r.spine3, r.chest, r.neck) },
    { side: "middle" as const, width: 0.12, joints: chain(r.neck ?? r.chest, r.neck2, r.head) },
    { side: "left" as const, width: 0.1, joints: chain(r.leftThigh, r.leftShin, r.leftFoot, r.leftToe) },
    { side: "left" as const, width: 0.07, joints: chain(r.leftUpperArm, r.leftForearm, r.leftHand, r.leftHandEnd) },
    { side: "middle" as const, width: 0.04, joints: chain(r.tail, r.tail2, r.tail3, r.tail4) },
  ];
  const known = strips.filter((s) => s.joints.length > 1);
  if (known.length > 2) return known;
  return skeleton.names.flatMap((_, j) => (skeleton.parents[j] >= 0 ? [{ side: "middle" as const, width: 0.03, joints: [skeleton.parents[j], j] }] : []));
}
