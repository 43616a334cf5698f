import { patchKind } from "../patches/index.ts";
import { upgradePose1 } from "../pose/storedPose.ts";
import { DocumentError } from "./errors.ts";
import type { DocumentContext } from "./read.ts";
import { isLoose, type Loose, partOfName, secondsOf } from "./steps.ts";

/** Work 1 → 2: frames become seconds, joint names parts, contact parts points; each kind brings its own settings over. */
export function upgradeWork1(data: Loose, context: DocumentContext): Loose {
  const { patches, contacts, neutral, ...rest } = data;
  return {
    ...rest,
    format: "patch-stride.work/2",
    patches: Array.isArray(patches) ? patches.map((p, i) => upgradePatch1(p, i, context)) : patches,
    ...(contacts !== undefined && { contacts: Array.isArray(contacts) ? contacts.map((c: unknown) => upgradeContact1(c, context.fps)) : contacts }),
    ...(neutral !== undefined && { neutral: upgradePose1(neutral) }),
  };
}

/** Recipe 1 → 2, for the clip at hand: its frames are those of that clip. */
export function upgradeRecipe1(data: Loose, context: DocumentContext): Loose {
  const { patches, ...rest } = data;
  return { ...rest, format: "patch-stride.recipe/2", patches: Array.isArray(patches) ? patches.map((p, i) => upgradePatch1(p, i, context)) : patches };
}

function upgradePatch1(data: unknown, index: number, { fps }: DocumentContext): unknown {
  if (!isLoose(data)) return data;
  const { range, rampInFrames, rampOutFrames, mask, settings, ...rest } = data;
  const kind = typeof data.kind === "string" ? patchKind(data.kind) : undefined;
  if (typeof data.kind === "string" && !kind) throw new DocumentError(`patches.${index}.kind`, `there is no kind of patch called "${data.kind}"`);
  return {
    ...rest,
    ...(range !== undefined && { range: isLoose(range) ? { ...range, start: secondsOf(range.start, fps), end: secondsOf(range.end, fps) } : range }),
    ...(rampInFrames !== undefined && { rampIn: secondsOf(rampInFrames, fps) }),
    ...(rampOutFrames !== undefined && { rampOut: secondsOf(rampOutFrames, fps) }),
    ...(mask !== undefined && { parts: Array.isArray(mask) ? mask.map(partOfName) : mask }),
    ...(settings !== undefined && { settings: isLoose(settings) && kind?.fromFrames ? kind.fromFrames(settings, fps) : settings }),
  };
}

function upgradeContact1(data: unknown, fps: number): unknown {
  if (!isLoose(data)) return data;
  const { part, start, end, mode, point, rampInFrames, rampOutFrames, ...rest } = data;
  return {
    ...rest,
    point: part,
    start: secondsOf(start, fps),
    end: secondsOf(end, fps),
    ...(mode !== undefined && { rests: mode }),
    ...(point !== undefined && { anchor: point }),
    ...(rampInFrames !== undefined && { rampIn: rampInFrames === null ? null : secondsOf(rampInFrames, fps) }),
    ...(rampOutFrames !== undefined && { rampOut: rampOutFrames === null ? null : secondsOf(rampOutFrames, fps) }),
  };
}
