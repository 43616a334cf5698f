import { guessScaleAndUp } from "../../character/scale.ts";
import { type Clip, ClipDraft } from "../../clip/clip.ts";
import { PoseFrame } from "../../kinematics/poseFrame.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import { MotionFormatError, quoted } from "../errors.ts";
import type { FileBytes, MotionFile, ReadOptions } from "../format.ts";
import { type GltfContainer, openGltf } from "./container.ts";
import type { GltfAnimation } from "./document.ts";
import { readTracks, type Track, TrackReader } from "./samplers.ts";
import { type JointTree, jointTree } from "./tree.ts";
import { vrmRolesOf } from "./vrm.ts";

/** How a glTF file said things, kept so that a motion can be written back into it. */
export interface GltfLayout {
  readonly format: "gltf";
  readonly container: GltfContainer;
  readonly tree: JointTree;
  /** the animation that was read; null where the file has none */
  readonly take: number | null;
  /** moment of the file's that the clip begins at, seconds: its first key that moves a joint */
  readonly begin: number;
}

export function isGltfLayout(layout: unknown): layout is GltfLayout {
  return typeof layout === "object" && layout !== null && "format" in layout && layout.format === "gltf";
}

/** A glTF file as it was read. */
export interface GltfFile extends MotionFile {
  readonly layout: GltfLayout;
}

export function isGltfFile(file: MotionFile): file is GltfFile {
  return isGltfLayout(file.layout);
}

/** Frames a second where no track is keyed evenly. */
const USUAL_FPS = 30;
/** Keys are even when they are no further from their places than this share of a frame. */
const EVEN = 0.02;
/** Most frames of one animation: some hours at a high rate. */
const MOST_FRAMES = 4_000_000;
/** Bodies are between so many metres high; beyond that the file is taken to be in another unit. */
const LIKELY_HEIGHTS = [0.08, 8] as const;
/** A translation track that leaves its joint within this share of the skeleton's size is no movement. */
const STAYS = 1e-7;

/**
 * Reads a .glb or .gltf (glTF 2.0) as motion: joints as its tree has them, in metres, at rest as its nodes stand, the scales above them in their offsets; the first animation, or the one that `take`
 * names (none where it is empty), sampled evenly at the rate of its densest evenly keyed track (`fps` says another). A file without animation gives one frame of its rest pose. Throws
 * MotionFormatError; nothing outside the file is fetched.
 */
export function readGltf(bytes: FileBytes, options: ReadOptions = {}): GltfFile {
  const fileName = options.fileName ?? "file";
  const container = openGltf(bytes, fileName);
  const { doc } = container;
  const takes = takeNames(doc.animations);
  const take = takeOf(takes, options.take, fileName);
  const animation = take === null ? null : doc.animations[take];
  const { tracks, scaled, morphed } = animation ? readTracks(container, animation, fileName) : { tracks: [], scaled: 0, morphed: 0 };
  // Whichever of its animations is read, the body has the same joints.
  const tree = jointTree(doc, movedNodes(doc.animations), fileName);
  const warnings = [...tree.warnings];
  if (scaled > 0) warnings.push(`${scaled} of its tracks scale nodes: kept in the file that is written; bones stay as long as at rest`);
  if (morphed > 0) warnings.push(`${morphed} of its tracks weigh morph targets: shown, and kept in the file that is written`);
  const others = takes.filter((_, i) => i !== take);
  if (others.length > 0)
    warnings.push(
      `it holds ${take === null ? "animations" : "other animations too"}, each read by its name: ${others.slice(0, 12).map(quoted).join(", ")}${others.length > 12 ? " …" : ""}`,
    );
  const name = fileName.replace(/^.*[\\/]/, "").replace(/\.(glb|gltf)$/i, "");
  const raw = sampled(tree, tracks, name, options.fps, fileName);
  const shifted = Array.from(raw.positionJoints).filter((joint) => tree.parents[joint] >= 0);
  // The hips of a body under an armature move as a matter of course.
  if (shifted.length > 1)
    warnings.push(
      `${shifted.length} of its joints move in their places (${shifted
        .slice(0, 4)
        .map((j) => quoted(tree.names[j]))
        .join(", ")}${shifted.length > 4 ? " …" : ""}): kept as they are`,
    );
  const roles = vrmRolesOf(container.json, tree);
  const skeleton: Skeleton = { ...skeletonOf(tree), ...(roles && { said: { by: "VRM's words", roles } }) };
  const unitScale = options.unitScale ?? likelyScale(skeleton, raw, warnings);
  return {
    skeleton: scaledSkeleton(skeleton, unitScale),
    clip: scaledClip(raw, unitScale),
    unitScale,
    upAxis: "y",
    warnings,
    takes,
    still: animation === null,
    layout: { format: "gltf", container, tree, take, begin: beginOf(tracks) },
  };
}

function takeOf(takes: readonly string[], wanted: string | undefined, fileName: string): number | null {
  if (wanted === "") return null;
  if (wanted === undefined) return takes.length > 0 ? 0 : null;
  const found = takes.indexOf(wanted);
  if (found >= 0) return found;
  throw new MotionFormatError(
    `it holds no animation ${quoted(wanted)}; there ${takes.length === 1 ? "is" : "are"} ${takes.map(quoted).join(", ") || "none"}`,
    0,
    fileName,
  );
}

/** Animations by names of their own: one without a name by its number, one whose name another has with a number behind it. */
function takeNames(animations: readonly GltfAnimation[]): string[] {
  const taken = new Set(animations.map((a) => a.name?.trim()));
  const given = new Set<string>();
  return animations.map(({ name }, i) => {
    const own = name?.trim() || `animation ${i + 1}`;
    let unlike = own;
    for (let n = 2; given.has(unlike) || (unlike !== name?.trim() && taken.has(unlike)); n++) unlike = `${own} (${n})`;
    given.add(unlike);
    return unlike;
  });
}

/** Nodes that any animation turns or moves. */
function movedNodes(animations: readonly GltfAnimation[]): number[] {
  return animations.flatMap(({ channels }) =>
    channels.flatMap(({ target: { node, path } }) => (node !== undefined && (path === "rotation" || path === "translation") ? [node] : [])),
  );
}

function skeletonOf({ names, parents, rest, unit }: JointTree): Skeleton {
  return {
    names,
    parents: Int16Array.from(parents),
    offsets: Float64Array.from(rest.flatMap(({ translation }, j) => translation.map((v) => v * unit[j]))),
    restRotations: Float64Array.from(rest.flatMap(({ rotation }) => rotation)),
    tips: [],
  };
}

function beginOf(tracks: readonly Track[]): number {
  return tracks.length === 0 ? 0 : tracks.reduce((least, t) => Math.min(least, t.times[0]), Number.POSITIVE_INFINITY);
}

function sampled(tree: JointTree, tracks: readonly Track[], name: string, wanted: number | undefined, fileName: string): Clip {
  const jointOf = new Map(tree.nodes.map((node, joint) => [node, joint]));
  const begin = beginOf(tracks);
  const end = tracks.reduce((most, t) => Math.max(most, t.times[t.times.length - 1]), Number.NEGATIVE_INFINITY);
  const fps = wanted ?? rateOf(tracks);
  const frameCount = tracks.length === 0 ? 1 : Math.round((end - begin) * fps) + 1;
  if (!(frameCount <= MOST_FRAMES)) throw new MotionFormatError(`its animation is ${end - begin} s long, more than is read`, 0, fileName);
  const size = tree.rest.reduce((most, { translation }, j) => Math.max(most, ...translation.map((v) => Math.abs(v * tree.unit[j]))), 0);
  const moved = new Map<number, Track>();
  const turned = new Map<number, Track>();
  for (const track of tracks) {
    const joint = jointOf.get(track.node) as number;
    if (track.path === "rotation") turned.set(joint, track);
    else if (tree.parents[joint] < 0 || moves(track, tree, joint, size)) moved.set(joint, track);
  }
  const roots = tree.parents.flatMap((p, joint) => (p < 0 ? [joint] : []));
  const positionJoints = [...new Set([...roots, ...moved.keys()])].sort((a, b) => a - b);
  const draft = ClipDraft.make(name, fps, frameCount, tree.names.length, Int16Array.from(positionJoints));
  const v = new Float64Array(4);
  for (let joint = 0; joint < tree.names.length; joint++) {
    const track = turned.get(joint);
    const reader = track && new TrackReader(track);
    v.set(tree.rest[joint].rotation);
    for (let f = 0; f < frameCount; f++) {
      reader?.read(begin + f / fps, v);
      draft.setRotation(joint, f, v);
    }
  }
  positionJoints.forEach((joint, slot) => {
    const track = moved.get(joint);
    const reader = track && new TrackReader(track);
    v.set(tree.rest[joint].translation);
    for (let f = 0; f < frameCount; f++) {
      reader?.read(begin + f / fps, v);
      draft.setPosition(slot, f, [v[0] * tree.unit[joint], v[1] * tree.unit[joint], v[2] * tree.unit[joint]]);
    }
  });
  return draft.done();
}

/** Does a translation track ever leave the place that its joint has at rest? */
function moves(track: Track, { rest, unit }: JointTree, joint: number, size: number): boolean {
  const each = track.interpolation === "CUBICSPLINE" ? 9 : 3;
  const at = each === 9 ? 3 : 0;
  for (let k = 0; k < track.values.length; k += each)
    for (let i = 0; i < 3; i++) if (Math.abs(track.values[k + at + i] - rest[joint].translation[i]) * unit[joint] > STAYS * size) return true;
  return false;
}

/** The rate of the densest track whose keys lie evenly; whole numbers are meant to be whole. */
function rateOf(tracks: readonly Track[]): number {
  let densest = 0;
  for (const { times } of new Set(tracks)) {
    if (times.length < 3) continue;
    const step = (times[times.length - 1] - times[0]) / (times.length - 1);
    if (times.some((t, k) => Math.abs(t - times[0] - k * step) > EVEN * step)) continue;
    densest = Math.max(densest, 1 / step);
  }
  if (densest === 0) return USUAL_FPS;
  const whole = Math.round(densest);
  return whole > 0 && Math.abs(densest - whole) < 1e-3 * densest ? whole : densest;
}

/** Metres a unit: one, as the format has it, unless the body would be a giant or a gnat. */
function likelyScale(skeleton: Skeleton, clip: Clip, warnings: string[]): number {
  const pose = new PoseFrame(skeleton, clip);
  pose.load(clip, 0);
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (let i = 1; i < pose.worldPositions.length; i += 3) [low, high] = [Math.min(low, pose.worldPositions[i]), Math.max(high, pose.worldPositions[i])];
  const height = high - low;
  if (!(height > 0) || (height >= LIKELY_HEIGHTS[0] && height <= LIKELY_HEIGHTS[1])) return 1;
  const { unitScale } = guessScaleAndUp(skeleton, clip);
  if (unitScale !== 1) warnings.push(`its body is ${height.toPrecision(3)} units high, where a unit is a metre; it is read with ${unitScale} m a unit`);
  return unitScale;
}

function scaledSkeleton(skeleton: Skeleton, by: number): Skeleton {
  return by === 1 ? skeleton : { ...skeleton, offsets: skeleton.offsets.map((v) => v * by) };
}

function scaledClip(clip: Clip, by: number): Clip {
  return by === 1 ? clip : { ...clip, positions: clip.positions.map((track) => track.map((chunk) => chunk.map((v) => v * by))) };
}
