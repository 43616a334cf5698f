import { allParts, jointLabels, type PartRef, type Patch, partKey, partOf } from "@stride/motion";
import { useMemo, useState } from "react";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { partName } from "../../state/partWords.ts";
import { Button } from "../../ui/Button.tsx";

/** Which parts a patch may touch: all, or those that are ticked. The part picked in the view is one press away. */
export function MaskField({ patch }: { patch: Patch }) {
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const selected = useBench((s) => s.parts);
  const [search, setSearch] = useState("");
  const on = useMemo(() => (opened && body ? { skeleton: opened.skeleton, body } : null), [opened, body]);
  const all = useMemo(() => (on ? allParts(on) : []), [on]);
  const labels = useMemo(() => (on ? jointLabels(on.body, on.skeleton.names) : []), [on]);
  if (!on) return null;
  const keys = patch.parts && new Set(patch.parts.map(partKey));
  const set = (parts: PartRef[] | null) => change(`Parts of ${patch.name}`, (d) => withPatch(d, patch.id, { parts }));
  // A part may be named by role or by its joint's own name.
  const has = (part: PartRef) => !keys || keys.has(partKey(part)) || ("role" in part && keys.has(`=${on.skeleton.names[on.body.roles[part.role] ?? -1]}`));
  const chosen = all.filter(has);
  const toggle = (part: PartRef) => {
    const next = has(part) ? chosen.filter((p) => partKey(p) !== partKey(part)) : [...chosen, part];
    set(next.length === all.length ? null : next);
  };
  const shown = all.filter((part) =>
    `${partName(part)} ${"role" in part ? on.skeleton.names[on.body.roles[part.role] ?? -1] : ""}`.toLowerCase().includes(search.toLowerCase()),
  );
  return (
    <fieldset className="mt-2 border-t border-line pt-2">
      <div className="flex items-center justify-between pb-1">
        <span>Parts: {patch.parts === null ? "all" : `${chosen.length} of ${all.length}`}</span>
        <span className="flex gap-1">
          {selected.length > 0 && (
            <Button className="h-6! px-2! text-xs" onClick={() => set(selected.map((joint) => partOf(on, joint)))}>
              Only {selected.length === 1 ? labels[selected[0]] : `${selected.length} selected`}
            </Button>
          )}
          {patch.parts !== null && (
            <Button
              className="h-6! px-2! text-xs"
              title="Those that are off become on, and the other way round"
              onClick={() => set(all.filter((p) => !has(p)))}
            >
              Flip
            </Button>
          )}
          <Button className="h-6! px-2! text-xs" onClick={() => set(patch.parts === null ? [] : null)}>
            {patch.parts === null ? "None" : "All"}
          </Button>
        </span>
      </div>
      <input
        type="search"
        aria-label="Search parts of the patch"
        placeholder="Search parts"
        value={search}
        onChange={(e) => setSearch(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
        className="mb-1 h-6 w-full rounded-sm border border-line bg-sheet px-2"
      />
      <div className="max-h-36 overflow-y-auto rounded-sm border border-line">
        {shown.map((part) => (
          <label key={partKey(part)} className="flex items-center gap-2 px-2 py-0.5 hover:bg-cobalt-wash">
            <input type="checkbox" className="accent-[var(--ink)]" checked={has(part)} onChange={() => toggle(part)} />
            <span className="truncate">{partName(part)}</span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
