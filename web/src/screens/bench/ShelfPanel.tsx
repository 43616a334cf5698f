import { patchKind } from "@stride/motion";
import { useState } from "react";
import { playhead } from "../../state/playhead.ts";
import { SHELF_DATA, type ShelfItem } from "../../timedesk/shelf.ts";
import { takeOrTell, useShelf } from "../../timedesk/useShelf.ts";

const SORTS: Readonly<Record<ShelfItem["is"], string>> = { pose: "pose, at the frame", hand: "hand shape, both hands", patches: "patches, from the frame on" };

/** Kept poses, hand shapes and patches: pressed they go to the playhead, dragged to the frame on the time desk where they are let go. */
export function ShelfPanel() {
  const [search, setSearch] = useState("");
  const items = useShelf();
  const shown = items.filter((item) => item.row.name.toLowerCase().includes(search.trim().toLowerCase()));
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a long panel must scroll by keyboard
    <section aria-label="Shelf" className="relative h-full overflow-auto px-3.5 py-3" tabIndex={0}>
      <input
        type="search"
        aria-label="Search the shelf"
        placeholder="What was it called?"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter" && shown.length > 0) takeOrTell(shown[0], playhead.frame);
        }}
        className="h-7.5 w-full rounded-sm border border-line bg-sheet px-2 placeholder:text-ink-soft"
      />
      <ul className="grid grid-cols-2 gap-2 pt-2.5">
        {shown.map((item) => (
          <li key={item.id}>
            <button
              type="button"
              draggable
              onDragStart={(event) => {
                event.dataTransfer.setData(SHELF_DATA, item.id);
                event.dataTransfer.effectAllowed = "copy";
              }}
              onClick={() => takeOrTell(item, playhead.frame)}
              title={`${item.row.name}: press to use it at the playhead, or drag it onto the time desk`}
              className="block w-full cursor-grab rounded-sm border border-line bg-paper p-1.5 text-left hover:border-ink-soft"
            >
              {item.is === "patches" ? (
                <span className="flex h-16 flex-col justify-end gap-1 text-xs" aria-hidden="true">
                  {(item.row.recipe?.patches ?? []).slice(-3).map((patch) => (
                    <span
                      key={patch.id}
                      className="truncate rounded-[2px] border border-ink-soft bg-[color-mix(in_srgb,var(--wood,#d9c9a5)_45%,transparent)] px-1"
                    >
                      {patchKind(patch.kind)?.title ?? patch.kind}
                    </span>
                  ))}
                </span>
              ) : (
                <svg viewBox="0 0 100 100" className="block h-16 w-full" aria-hidden="true">
                  <path d={item.row.picture} fill="none" stroke="var(--ink)" strokeWidth={4.5} strokeLinecap="round" strokeLinejoin="round" />
                </svg>
              )}
              <span className="block truncate pt-1 font-semibold">{item.row.name}</span>
              <span className="block truncate text-xs text-ink-soft">{SORTS[item.is]}</span>
            </button>
          </li>
        ))}
      </ul>
      {items.length === 0 && (
        <p className="pt-3 text-ink-soft">
          Nothing is kept yet. Keep a pose in the Pose panel, a hand shape in its patch, and patches with <i>Keep patches on the shelf</i> in the work menu.
        </p>
      )}
      {items.length > 0 && shown.length === 0 && <p className="pt-3 text-ink-soft">Nothing is called so.</p>}
    </section>
  );
}
