import { type LayerSettings, makePatch, type Patch, patchKind, TOUCH_UP_RAMP } from "@stride/motion";
import { change, freshId, useBench } from "../state/bench.ts";
import { playhead } from "../state/playhead.ts";

/** Adds a patch on top of the stack (a trim goes to the end of time, a floor to the bottom, where they belong) and picks it. */
export function addPatch(kind: string, from?: Patch): void {
  const title = patchKind(kind)?.title ?? kind;
  const patch: Patch = { ...(from ?? { ...makePatch(kind, title, ""), ...starting(kind) }), id: freshId() };
  change(`Add ${patch.name}`, (doc) => ({ ...doc, patches: kind === "floor" ? [patch, ...doc.patches] : [...doc.patches, patch] }));
  useBench.setState({ patchId: patch.id });
}

/** What a new patch of a kind begins with: a touch-up has a window about the playhead. */
function starting(kind: string): Partial<Patch> {
  if (kind !== "touchUp") return {};
  const { frame } = playhead;
  const ramp = Math.round((TOUCH_UP_RAMP * playhead.fps) / 30);
  return {
    name: `Touch-up f${frame}`,
    settings: { frame, edits: [], holds: [] },
    range: { start: frame, end: frame },
    rampInFrames: ramp,
    rampOutFrames: ramp,
  };
}

export function duplicatePatch(patch: Patch): void {
  const copy = { ...patch, id: freshId(), name: `${patch.name} copy`.slice(0, 120) };
  change(`Duplicate ${patch.name}`, (doc) => {
    const at = doc.patches.findIndex((p) => p.id === patch.id);
    return { ...doc, patches: [...doc.patches.slice(0, at + 1), copy, ...doc.patches.slice(at + 1)] };
  });
  useBench.setState({ patchId: copy.id });
}

export function removePatch(patch: Patch): void {
  change(`Delete ${patch.name}`, (doc) => ({ ...doc, patches: doc.patches.filter((p) => p.id !== patch.id) }));
  useBench.setState((s) => ({ patchId: s.doc.patches.at(-1)?.id ?? null }));
}

/** A layer's channels added to the layer beneath it, when both drive none of the same things. False when they cannot be merged. */
export function mergeDown(patch: Patch): boolean {
  const { doc } = useBench.getState();
  const below = doc.patches[doc.patches.findIndex((p) => p.id === patch.id) - 1];
  if (!below || below.kind !== "layer") return false;
  const [top, base] = [patch.settings as Partial<LayerSettings>, below.settings as Partial<LayerSettings>];
  const same = JSON.stringify([patch.range, patch.weight, patch.mask, patch.rampInFrames, patch.rampOutFrames, top.mode, top.composeIn, top.weightKeys ?? []]);
  const other = JSON.stringify([
    below.range,
    below.weight,
    below.mask,
    below.rampInFrames,
    below.rampOutFrames,
    base.mode,
    base.composeIn,
    base.weightKeys ?? [],
  ]);
  const targets = new Set((base.channels ?? []).map((c) => JSON.stringify(c.target)));
  if (same !== other || (top.channels ?? []).some((c) => targets.has(JSON.stringify(c.target)))) return false;
  change(`Merge ${patch.name} down`, (d) => ({
    ...d,
    patches: d.patches
      .filter((p) => p.id !== patch.id)
      .map((p) =>
        p.id === below.id
          ? { ...p, settings: { ...base, channels: [...(base.channels ?? []), ...(top.channels ?? [])], holds: [...(base.holds ?? []), ...(top.holds ?? [])] } }
          : p,
      ),
  }));
  useBench.setState({ patchId: below.id });
  return true;
}

/** What grounds a clip in one go: the floor below, the plant on top, where they are missing. */
export function groundFeet(): void {
  change("Ground the feet", (doc) => {
    const patches = [...doc.patches];
    if (!patches.some((p) => p.kind === "floor")) patches.unshift(makePatch("floor", "Set floor", freshId()));
    if (!patches.some((p) => p.kind === "plant")) patches.push(makePatch("plant", "Plant feet", freshId()));
    return patches.length === doc.patches.length ? doc : { ...doc, patches };
  });
  useBench.setState((s) => ({ patchId: s.doc.patches.findLast((p) => p.kind === "plant")?.id ?? null }));
}
