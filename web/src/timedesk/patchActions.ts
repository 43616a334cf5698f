import { makePatch, type Patch, patchKind } from "@stride/motion";
import { change, freshId, useBench } from "../state/bench.ts";

/** Adds a patch on top of the stack (a trim goes to the end of time, a floor to the bottom, where they belong) and picks it. */
export function addPatch(kind: string, from?: Patch): void {
  const title = patchKind(kind)?.title ?? kind;
  const patch: Patch = { ...(from ?? makePatch(kind, title, "")), id: freshId() };
  change(`Add ${patch.name}`, (doc) => ({ ...doc, patches: kind === "floor" ? [patch, ...doc.patches] : [...doc.patches, patch] }));
  useBench.setState({ patchId: patch.id });
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
