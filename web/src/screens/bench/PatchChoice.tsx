import { patchKind } from "@stride/motion";
import { useBench } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";

/** Patches of this work to choose from, in the order of the stack, the last applied on top. */
export function PatchChoice({ picked, onPick }: { picked: ReadonlySet<string>; onPick: (picked: ReadonlySet<string>) => void }) {
  const doc = useBench((s) => s.doc);
  const set = (id: string, on: boolean) => {
    const next = new Set(picked);
    if (on) next.add(id);
    else next.delete(id);
    onPick(next);
  };
  return (
    <>
      <ul aria-label="Patches to choose from" className="max-h-56 overflow-auto rounded-sm border border-line">
        {[...doc.patches].reverse().map((patch) => (
          <li key={patch.id} className="border-b border-line last:border-b-0">
            <label className="flex items-center gap-2.5 px-2.5 py-1">
              <input type="checkbox" checked={picked.has(patch.id)} onChange={(event) => set(patch.id, event.target.checked)} />
              <span className="min-w-0 flex-1 truncate">{patch.name}</span>
              <span className="text-xs text-ink-soft">
                {patchKind(patch.kind)?.title ?? patch.kind}
                {patch.muted ? ", muted" : ""}
              </span>
            </label>
          </li>
        ))}
        {doc.patches.length === 0 && <li className="px-2.5 py-2 text-ink-soft">This work has no patches yet.</li>}
      </ul>
      {doc.patches.length > 1 && (
        <Button tone="quiet" className="mt-1 h-6! px-2!" onClick={() => onPick(new Set(doc.patches.map((p) => p.id)))}>
          All {doc.patches.length}
        </Button>
      )}
    </>
  );
}
