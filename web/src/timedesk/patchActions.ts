import { DEFAULT_RECIPE, type LayerSettings, makePatch, movedPatch, type Patch, patchKind, type Work } from "@stride/motion";
import { change, freshId, useBench } from "../state/bench.ts";
import { playhead } from "../state/playhead.ts";
import { sourceMomentOf } from "../state/times.ts";

/** Adds a patch where its kind wants to stand in the stack, begun as its kind begins, and picks it. `from` is one that was proposed on the result. */
export function addPatch(kindName: string, from?: Patch): void {
  const kind = patchKind(kindName);
  if (!kind) return;
  const { clocks } = useBench.getState();
  const made = from ?? { ...makePatch(kindName, kind.title, ""), ...kind.begin?.(playhead.frame / clocks.fps, clocks.fps) };
  addPatches(`Add ${made.name}`, [made]);
}

/** Adds patches, each where its kind wants to stand, as one step; the last one is picked. */
export function addPatches(label: string, proposed: readonly Patch[]): void {
  const { clocks } = useBench.getState();
  const made = proposed.map((patch): Patch => {
    const own = { ...patch, id: freshId() };
    // At the bottom a patch speaks of the source's time, on top of the result's.
    return patchKind(own.kind)?.place === "bottom" ? movedPatch(own, (moment) => sourceMomentOf(clocks, moment * clocks.fps)) : own;
  });
  change(label, (doc) =>
    made.reduce((d, patch) => ({ ...d, patches: patchKind(patch.kind)?.place === "bottom" ? [patch, ...d.patches] : [...d.patches, patch] }), doc),
  );
  const last = made.at(-1);
  if (last) useBench.setState({ patchId: last.id });
}

/** Lays kept patches on the work: those with a range so that the first of them begins at a frame of the result, the others as they are. */
export function addKept(name: string, recipe: Pick<Work, "patches">, frame: number): void {
  const { clocks } = useBench.getState();
  addPatches(`Add ${name}`, placedAt(recipe.patches, frame / clocks.fps));
}

/** Patches with their ranges moved so that the first of them begins at a moment. */
export function placedAt(patches: readonly Patch[], moment: number): Patch[] {
  const starts = patches.flatMap((p) => (p.range ? [p.range.start] : []));
  const by = starts.length > 0 ? moment - Math.min(...starts) : 0;
  return patches.map((patch) => (patch.range ? movedPatch(patch, (m) => m + by) : patch));
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
  const merged = mergedDown(doc, patch);
  if (!merged) return false;
  change(`Merge ${patch.name} down`, () => merged.doc);
  useBench.setState({ patchId: merged.into });
  return true;
}

/** The work with a layer's channels in the layer right beneath it; null when that would change the motion. */
export function mergedDown(doc: Work, patch: Patch): { readonly doc: Work; readonly into: string } | null {
  const below = doc.patches[doc.patches.findIndex((p) => p.id === patch.id) - 1];
  if (!below || below.kind !== patch.kind || !patchKind(below.kind)?.curves) return null;
  const [top, base] = [patch.settings as Partial<LayerSettings>, below.settings as Partial<LayerSettings>];
  const frame = (p: Patch, s: Partial<LayerSettings>) =>
    JSON.stringify([p.range, p.weight, p.parts, p.rampIn, p.rampOut, s.mode, s.composeIn, s.weightKeys ?? []]);
  const targets = new Set((base.channels ?? []).map((c) => JSON.stringify(c.target)));
  if (frame(patch, top) !== frame(below, base) || (top.channels ?? []).some((c) => targets.has(JSON.stringify(c.target)))) return null;
  const settings = { ...base, channels: [...(base.channels ?? []), ...(top.channels ?? [])], holds: [...(base.holds ?? []), ...(top.holds ?? [])] };
  return { doc: { ...doc, patches: doc.patches.filter((p) => p.id !== patch.id).map((p) => (p.id === below.id ? { ...p, settings } : p)) }, into: below.id };
}

/** What grounds a clip in one go: the patches of the usual recipe that are missing, each where its kind wants to stand. */
export function groundFeet(): void {
  change("Ground the feet", (doc) => DEFAULT_RECIPE.patches.reduce(withMissing, doc));
  const last = DEFAULT_RECIPE.patches.at(-1)?.kind;
  useBench.setState((s) => ({ patchId: s.doc.patches.findLast((p) => p.kind === last)?.id ?? null }));
}

function withMissing(doc: Work, wanted: Patch): Work {
  if (doc.patches.some((p) => p.kind === wanted.kind)) return doc;
  const patch = { ...wanted, id: freshId() };
  return { ...doc, patches: patchKind(wanted.kind)?.place === "bottom" ? [patch, ...doc.patches] : [...doc.patches, patch] };
}

/** Has a work all that the usual recipe grounds it with? */
export function isGrounded(doc: Work): boolean {
  const last = DEFAULT_RECIPE.patches.at(-1)?.kind;
  return doc.patches.some((p) => p.kind === last);
}
