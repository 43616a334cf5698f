import { PatchError } from "../formats/errors.ts";
import { rangeWeight } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import type { Patch } from "../work.ts";
import { amplitudePatch } from "./amplitude.ts";
import { floorPatch } from "./floor.ts";
import { handShapePatch } from "./handShape.ts";
import type { FieldHint, PatchContext, PatchKind } from "./kind.ts";
import { layerPatch } from "./layer.ts";
import { plantPatch } from "./plant.ts";
import { repairPatch } from "./repair.ts";
import { touchUpPatch } from "./touchUp.ts";
import { trimPatch } from "./trim.ts";

/** A kind with its settings' type hidden, as a list needs it. */
export type AnyPatchKind = Pick<PatchKind<Record<string, unknown>>, "kind" | "title" | "description" | "defaults" | "masked" | "local" | "schema"> & {
  readonly fields: Readonly<Record<string, FieldHint>>;
  run(motion: Motion, settings: unknown, context: PatchContext): Motion;
};

function register<S extends Record<string, unknown>>(kind: PatchKind<S>): AnyPatchKind {
  return {
    ...kind,
    fields: kind.fields as Readonly<Record<string, FieldHint>>,
    run(motion, settings, context) {
      const parsed = kind.schema.safeParse({ ...kind.defaults, ...(settings as object) });
      if (!parsed.success) {
        const issue = parsed.error.issues[0];
        throw new PatchError(context.name, issue.path.join(".") || "settings", issue.message);
      }
      return kind.apply(motion, parsed.data, context);
    },
  };
}

/** Every kind of patch, in the order in which menus list them. A new kind is a file beside this one and a line here. */
export const PATCH_KINDS: readonly AnyPatchKind[] = [
  register(floorPatch),
  register(plantPatch),
  register(touchUpPatch),
  register(layerPatch),
  register(amplitudePatch),
  register(handShapePatch),
  register(repairPatch),
  register(trimPatch),
];

export function patchKind(kind: string): AnyPatchKind | undefined {
  return PATCH_KINDS.find((k) => k.kind === kind);
}

/** The motion after one patch. A weight of zero everywhere returns the motion itself. */
export function applyPatch(motion: Motion, patch: Patch): Motion {
  return applyPiece(motion, patch, 0, motion.clip.frameCount);
}

/**
 * The same for a piece of a motion that has `frameCount` frames in all, beginning at frame `offset`. Only for kinds that are local.
 */
export function applyPiece(piece: Motion, patch: Patch, offset: number, frameCount: number): Motion {
  const kind = patchKind(patch.kind);
  if (!kind) throw new PatchError(patch.name, "kind", `there is no kind of patch called "${patch.kind}"`);
  const last = frameCount - 1;
  const start = Math.min(last, patch.range?.start ?? 0);
  const end = Math.min(last, patch.range?.end ?? last);
  if (patch.range && patch.range.start > last)
    throw new PatchError(patch.name, "range", `starts at frame ${patch.range.start}, but the motion here has frames 0–${last}`);
  const whole = start === 0 && end === last;
  const weights = Float64Array.from(
    { length: piece.clip.frameCount },
    (_, f) => patch.weight * rangeWeight(f + offset, start, end, patch.rampInFrames, patch.rampOutFrames, patch.rampShape),
  );
  let joints: Set<number> | null = null;
  if (kind.masked && patch.mask) {
    joints = new Set(patch.mask.map((name) => piece.skeleton.names.indexOf(name)).filter((j) => j >= 0));
  }
  return kind.run(piece, patch.settings, { name: patch.name, start, end, whole, offset, frameCount, weights, joints });
}
