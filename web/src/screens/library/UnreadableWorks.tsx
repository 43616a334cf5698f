import type { WorkListRow } from "@stride/server";
import { TriangleAlert } from "lucide-react";

/** Works that this version cannot read, each with the reason. They are kept as they are; nothing is shown while there are none. */
export function UnreadableWorks({ works }: { works: readonly WorkListRow[] }) {
  if (works.length === 0) return null;
  return (
    <section aria-label="Works that cannot be read" className="pt-5">
      <h2 className="pb-2 font-semibold">Works that cannot be read</h2>
      <ul className="divide-y divide-line rounded-sm border border-line bg-sheet">
        {works.map((work) => (
          <li key={work.id} className="flex items-center gap-3 px-3 py-1.5">
            <TriangleAlert size={15} className="shrink-0 text-coral-ink" aria-hidden="true" />
            <span className="max-w-80 truncate font-semibold">{work.name}</span>
            <span className="min-w-0 flex-1 text-coral-ink">{work.problem}</span>
            <span className="text-ink-soft">rev {work.revision}, kept as it is</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
