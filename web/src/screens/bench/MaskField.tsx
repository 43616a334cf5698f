import { jointLabels, type Patch } from "@stride/motion";
import { useMemo, useState } from "react";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";

/** Which joints a patch may touch: all, or those that are ticked. The joint picked in the view is one press away. */
export function MaskField({ patch }: { patch: Patch }) {
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const parts = useBench((s) => s.parts);
  const [search, setSearch] = useState("");
  const labels = useMemo(() => (opened && body ? jointLabels(body, opened.skeleton.names) : []), [opened, body]);
  if (!opened) return null;
  const { names } = opened.skeleton;
  const set = (mask: string[] | null) => change(`Joints of ${patch.name}`, (d) => withPatch(d, patch.id, { mask }));
  const has = (name: string) => patch.mask === null || patch.mask.includes(name);
  const toggle = (name: string) => {
    const base = patch.mask ?? names;
    const next = base.includes(name) ? base.filter((n) => n !== name) : [...base, name];
    set(next.length === names.length ? null : [...next]);
  };
  const shown = names
    .map((name, i) => ({ name, label: labels[i] }))
    .filter(({ name, label }) => `${name} ${label}`.toLowerCase().includes(search.toLowerCase()));
  return (
    <fieldset className="mt-2 border-t border-line pt-2">
      <div className="flex items-center justify-between pb-1">
        <span>Joints: {patch.mask === null ? "all" : `${patch.mask.length} of ${names.length}`}</span>
        <span className="flex gap-1">
          {parts.length > 0 && (
            <Button className="h-6! px-2! text-xs" onClick={() => set(parts.map((joint) => names[joint]))}>
              Only {parts.length === 1 ? labels[parts[0]] : `${parts.length} selected`}
            </Button>
          )}
          {patch.mask !== null && (
            <Button
              className="h-6! px-2! text-xs"
              title="Those that are off become on, and the other way round"
              onClick={() => set(names.filter((n) => !patch.mask?.includes(n)))}
            >
              Flip
            </Button>
          )}
          <Button className="h-6! px-2! text-xs" onClick={() => set(patch.mask === null ? [] : null)}>
            {patch.mask === null ? "None" : "All"}
          </Button>
        </span>
      </div>
      <input
        type="search"
        aria-label="Search joints"
        placeholder="Search joints"
        value={search}
        onChange={(e) => setSearch(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
        className="mb-1 h-6 w-full rounded-sm border border-line bg-sheet px-2"
      />
      <div className="max-h-36 overflow-y-auto rounded-sm border border-line">
        {shown.map(({ name, label }, i) => (
          <label key={`${name}-${i}`} className="flex items-center gap-2 px-2 py-0.5 hover:bg-cobalt-wash">
            <input type="checkbox" className="accent-[var(--ink)]" checked={has(name)} onChange={() => toggle(name)} />
            <span className="truncate">{label}</span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
