import { findPart, type PartRef, partInWords } from "../character/parts.ts";
import type { FrameWindow } from "../clip/changes.ts";
import type { Patch } from "../documents/patch.ts";
import { MissingSource, PatchError } from "../formats/errors.ts";
import { rangeWeight } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import { NO_OTHERS, type OtherClips, type SourceRef } from "../sources.ts";
import { throughWarp } from "../time/through.ts";
import { frameOf, identityWarp, type TimeWarp } from "../time/warp.ts";
import { amplitudePatch } from "./amplitude.ts";
import { castPatch } from "./cast.ts";
import { floorPatch } from "./floor.ts";
import { groundPatch } from "./ground.ts";
import { handShapePatch } from "./handShape.ts";
import { joinPatch } from "./join.ts";
import type { FieldHint, PatchContext, PatchGroup, PatchKind, Posing, Sees, WarpContext } from "./kind.ts";
import { layerPatch } from "./layer.ts";
import { loopPatch } from "./loop.ts";
import { mirrorPatch } from "./mirror.ts";
import { mixPatch } from "./mix.ts";
import { plantPatch } from "./plant.ts";
import { repairPatch } from "./repair.ts";
import { retimePatch } from "./retime.ts";
import { settlePatch } from "./settle.ts";
import { touchUpPatch } from "./touchUp.ts";
import { travelPatch } from "./travel.ts";
import { trimPatch } from "./trim.ts";

type Settings = Record<string, unknown>;

/** A kind with its settings' type hidden, as a list needs it. Whatever takes settings takes them as they are stored, and fills in defaults. */
export interface AnyPatchKind
  extends Omit<
    PatchKind<Settings>,
    "fields" | "posing" | "inputs" | "sees" | "afterMove" | "warp" | "apply" | "applyWindow" | "holds" | "ranged" | "poses" | "once" | "place" | "group"
  > {
  readonly fields: Readonly<Record<string, FieldHint>>;
  readonly ranged: boolean;
  readonly poses: boolean;
  readonly once: boolean;
  readonly makes: boolean;
  readonly place: "bottom" | "top";
  readonly group: PatchGroup;
  readonly holds: boolean;
  /** is it about time? */
  readonly warps: boolean;
  readonly posing: Posing<Settings> | undefined;
  inputs(settings: Settings): readonly SourceRef[];
  sees(settings: Settings, fps: number): Sees;
  afterMove(was: Settings, is: Settings): Settings;
  /** null for kinds that leave time alone */
  warp(settings: Settings, context: WarpContext): TimeWarp | null;
  run(motion: Motion, settings: Settings, context: PatchContext): Motion;
  /** null where the kind cannot, or not now */
  runWindow(motion: Motion, settings: Settings, context: PatchContext, window: FrameWindow): Motion | null;
}

/** A kind as the registry keeps it: settings are parsed before they reach it. */
export function registered<S extends Settings>(kind: PatchKind<S>): AnyPatchKind {
  const parse = (settings: Settings, id: string, name: string): S => {
    const parsed = kind.schema.safeParse({ ...kind.defaults, ...settings });
    if (parsed.success) return parsed.data;
    const issue = parsed.error.issues[0];
    throw new PatchError(id, name, issue.path.join(".") || "settings", issue.message);
  };
  const lenient = (settings: Settings): S => ({ ...kind.defaults, ...settings }) as S;
  const { posing } = kind;
  return {
    ...(kind as unknown as PatchKind<Settings>),
    fields: kind.fields as Readonly<Record<string, FieldHint>>,
    ranged: kind.ranged ?? true,
    poses: kind.poses ?? false,
    once: kind.once ?? false,
    makes: kind.makes ?? false,
    place: kind.place ?? "top",
    group: kind.group ?? "correct",
    holds: kind.holds ?? false,
    warps: kind.warp !== undefined,
    posing: posing && {
      ...posing,
      write: (settings, edit, at) => posing.write(lenient(settings), edit, at),
      moments: (settings) => posing.moments(lenient(settings)),
      ...(posing.edits && { edits: (settings: Settings) => (posing.edits as NonNullable<typeof posing.edits>)(lenient(settings)) }),
    },
    inputs: (settings) => kind.inputs?.(lenient(settings)) ?? [],
    sees: (settings, fps) => kind.sees(lenient(settings), fps),
    afterMove: (was, is) => kind.afterMove?.(lenient(was), lenient(is)) ?? is,
    warp: (settings, context) => kind.warp?.(parse(settings, context.id, context.name), context) ?? null,
    run(motion, settings, context) {
      const parsed = parse(settings, context.id, context.name);
      return kind.apply ? kind.apply(motion, parsed, context) : motion;
    },
    runWindow: (motion, settings, context, window) => kind.applyWindow?.(motion, parse(settings, context.id, context.name), context, window) ?? null,
  };
}

const kinds: AnyPatchKind[] = [
  registered(floorPatch),
  registered(plantPatch),
  registered(groundPatch),
  registered(touchUpPatch),
  registered(layerPatch),
  registered(amplitudePatch),
  registered(handShapePatch),
  registered(repairPatch),
  registered(trimPatch),
  registered(retimePatch),
  registered(loopPatch),
  registered(travelPatch),
  registered(mirrorPatch),
  registered(mixPatch),
  registered(joinPatch),
  registered(settlePatch),
  registered(castPatch),
];

/** Every kind of patch, in the order in which menus list them. A new kind is a file beside this one and a line above. */
export const PATCH_KINDS: readonly AnyPatchKind[] = kinds;

/** Adds a kind for as long as a test runs; the function returned takes it out again. */
export function registerForTest(kind: AnyPatchKind): () => void {
  kinds.push(kind);
  return () => {
    kinds.splice(kinds.indexOf(kind), 1);
  };
}

export function patchKind(kind: string): AnyPatchKind | undefined {
  return kinds.find((k) => k.kind === kind);
}

/** The kind of a patch. Throws PatchError where there is none of that name. */
export function kindOf(patch: Patch): AnyPatchKind {
  const kind = patchKind(patch.kind);
  if (!kind) throw new PatchError(patch.id, patch.name, "kind", `there is no kind of patch called "${patch.kind}"`);
  return kind;
}

/** What evaluation tells of a patch beside its motion: something it names that the body lacks, say. */
export interface PatchNote {
  readonly patchId: string;
  readonly field: string;
  readonly message: string;
  /** is it why the patch does nothing at all? */
  readonly stops?: true;
}

/**
 * The patch's map of time over a motion of so many seconds; the identity for kinds that leave time alone. Without the motion itself (`received`) a kind
 * that has to look at it tells the longest that it may come to.
 */
export function patchWarp(
  patch: Patch,
  seconds: number,
  fps: number,
  received: Motion | null = null,
  lengthOf: (ref: SourceRef) => number | undefined = () => undefined,
): TimeWarp {
  const context: WarpContext = { id: patch.id, name: patch.name, seconds, fps, limited: patch.parts !== null, received, lengthOf };
  return kindOf(patch).warp(patch.settings, context) ?? identityWarp(seconds);
}

const NO_PAUSE = () => {};

/** The motion after one patch. A weight of zero everywhere returns the motion itself. Parts that the body lacks are noted. What `pause` throws ends it. */
export function applyPatch(motion: Motion, patch: Patch, notes: PatchNote[] = [], pause: () => void = NO_PAUSE, others: OtherClips = NO_OTHERS): Motion {
  const seconds = (motion.clip.frameCount - 1) / motion.clip.fps;
  const warped = throughWarp(motion, patchWarp(patch, seconds, motion.clip.fps, motion, lengthsOf(others)));
  const whole = kindOf(patch).ranged ? patch : { ...patch, range: null, weight: 1 };
  return applyPiece(warped, whole, 0, warped.clip.frameCount, warped, notes, pause, motion, others);
}

/** How long other clips are, seconds. */
export function lengthsOf(others: OtherClips): (ref: SourceRef) => number | undefined {
  return (ref) => {
    const found = others.look(ref);
    return found && (found.clip.frameCount - 1) / found.clip.fps;
  };
}

/**
 * The same for a piece of a motion that has `frameCount` frames in all, beginning at frame `offset`; `known` is the whole motion that it was
 * cut from, as last evaluated. For kinds that see what the piece holds. Errors of a kind's own are told as the patch's.
 */
export function applyPiece(
  piece: Motion,
  patch: Patch,
  offset: number,
  frameCount: number,
  known: Motion,
  notes: PatchNote[] = [],
  pause: () => void = NO_PAUSE,
  received: Motion = piece,
  others: OtherClips = NO_OTHERS,
): Motion {
  const context = contextOf(piece, patch, offset, frameCount, known, notes, pause, received, others);
  // As if it were not there.
  if (context.weights.every((w) => w === 0)) return piece;
  return told(patch, () => kindOf(patch).run(piece, patch.settings, context));
}

/** What a patch makes of a motion on some frames alone, if its kind can tell without the whole; null otherwise. */
export function applyWindow(motion: Motion, patch: Patch, window: FrameWindow, others: OtherClips = NO_OTHERS): Motion | null {
  const kind = kindOf(patch);
  const whole = kind.ranged ? patch : { ...patch, range: null, weight: 1 };
  const context = contextOf(motion, whole, 0, motion.clip.frameCount, motion, [], NO_PAUSE, motion, others);
  return told(patch, () => kind.runWindow(motion, patch.settings, context, window));
}

function told<T>(patch: Patch, run: () => T): T {
  try {
    return run();
  } catch (error) {
    if (error instanceof RangeError) throw new PatchError(patch.id, patch.name, "settings", error.message);
    throw error;
  }
}

/** A patch's place in a motion. One whose range lies outside has no weight anywhere, which is noted. */
function contextOf(
  piece: Motion,
  patch: Patch,
  offset: number,
  frameCount: number,
  known: Motion,
  notes: PatchNote[],
  pause: () => void,
  received: Motion,
  others: OtherClips,
): PatchContext {
  const kind = kindOf(patch);
  const { fps } = piece.clip;
  const last = frameCount - 1;
  const from = patch.range ? frameOf(patch.range.start, fps) : 0;
  const to = patch.range ? frameOf(patch.range.end, fps) : last;
  const start = Math.max(0, Math.min(last, Math.ceil(from)));
  const end = Math.max(start, Math.min(last, Math.floor(to)));
  const weights = Float64Array.from(
    { length: piece.clip.frameCount },
    (_, f) => patch.weight * rangeWeight(f + offset, from, to, frameOf(patch.rampIn, fps), frameOf(patch.rampOut, fps), patch.rampShape),
  );
  if (patch.range && (from > last || to < 0) && weights.every((w) => w === 0))
    notes.push({
      patchId: patch.id,
      field: "range",
      message: `its stretch lies ${to < 0 ? "before the start" : "behind the end"} of the motion here (frames 0–${last}), so it does nothing; it is kept`,
    });
  let joints: Set<number> | null = null;
  if (kind.masked && patch.parts) {
    joints = new Set();
    for (const ref of patch.parts) {
      const joint = findPart(piece.character, ref);
      if (joint !== undefined) joints.add(joint);
      else
        notes.push({
          patchId: patch.id,
          field: "parts",
          message: `this body has no ${"joint" in ref ? `joint called "${ref.joint}"` : partInWords(ref)}; the rest of the patch's parts are used`,
        });
    }
  }
  const part = (ref: PartRef, field: string): number => {
    const joint = findPart(piece.character, ref);
    if (joint === undefined)
      throw new PatchError(
        patch.id,
        patch.name,
        field,
        `this body has no ${"joint" in ref ? `joint called "${ref.joint}"` : partInWords(ref)}; choose another part, or remove the edit`,
      );
    return joint;
  };
  const note = (field: string, message: string) => void notes.push({ patchId: patch.id, field, message });
  const whole = start === 0 && end === last;
  const other = (ref: SourceRef, field: string, bare = false): Motion => {
    const found = bare ? others.look(ref) : others.find(ref);
    if (!found)
      throw new MissingSource(
        patch.id,
        patch.name,
        field,
        `the clip "${ref.name}"${ref.work === undefined ? "" : ` as version ${ref.work} of its work left it`} is not here; add it, or choose another`,
      );
    return found;
  };
  return { id: patch.id, name: patch.name, fps, start, end, whole, offset, frameCount, weights, joints, received, known, pause, note, part, other };
}
