import { READ_ENDINGS } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import clsx from "clsx";
import { LayoutGrid, Moon, Rows3, Sun, Upload } from "lucide-react";
import { type DragEvent, type RefObject, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { createWork, fetchClips, fetchWorks } from "../../api/client.ts";
import { Button, IconButton } from "../../ui/Button.tsx";
import { Mark } from "../../ui/Mark.tsx";
import { useNight } from "../../ui/useNight.ts";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { ClipCard, clipSeconds } from "./ClipCard.tsx";
import { ClipTable } from "./ClipTable.tsx";
import { ImportRows } from "./ImportRows.tsx";
import { PosesSection } from "./PosesSection.tsx";
import { UnreadableWorks } from "./UnreadableWorks.tsx";
import { useImports } from "./useImports.ts";

const ORDERS = {
  worst: { label: "worst finding", compare: (a: ClipRow, b: ClipRow) => b.summary.slideWorstCm - a.summary.slideWorstCm },
  newest: { label: "newest", compare: (a: ClipRow, b: ClipRow) => b.createdAt.localeCompare(a.createdAt) },
  name: { label: "name", compare: (a: ClipRow, b: ClipRow) => a.name.localeCompare(b.name) },
  length: { label: "length", compare: (a: ClipRow, b: ClipRow) => clipSeconds(b) - clipSeconds(a) },
} as const;
type Order = keyof typeof ORDERS;

/** Narrowest card, the gap between two, what is left free on both sides, and a card's usual height, pixels. */
const CARD_WIDTH = 380;
const CARD_GAP = 14;
const CARD_MARGINS = 36;
const CARD_HEIGHT = 210;

/** How many cards stand side by side in what scrolls. */
function useColumns(scroller: RefObject<HTMLElement | null>): number {
  const [columns, setColumns] = useState(2);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const count = () => setColumns(Math.max(1, Math.floor((element.clientWidth - CARD_MARGINS + CARD_GAP) / (CARD_WIDTH + CARD_GAP))));
    count();
    const observer = new ResizeObserver(count);
    observer.observe(element);
    return () => observer.disconnect();
  }, [scroller]);
  return columns;
}

/** Clips to choose from, and the place where files come in. */
export function Library() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const clips = useQuery({ queryKey: ["clips"], queryFn: fetchClips });
  const works = useQuery({ queryKey: ["works"], queryFn: fetchWorks });
  const [search, setSearch] = useState("");
  const [tag, setTag] = useState<string | null>(null);
  const [order, setOrder] = useState<Order>("worst");
  const [table, setTable] = useState(false);
  const [over, setOver] = useState(false);
  const [night, setNight] = useNight();
  const input = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLElement>(null);
  const columns = useColumns(scroller);
  const imports = useImports();
  const open = useMutation({
    mutationFn: async (clip: ClipRow) => works.data?.find((w) => w.clipId === clip.id) ?? (await createWork(clip.id, clip.name)),
    onSuccess: (work) => {
      void queries.invalidateQueries({ queryKey: ["works"] });
      void navigate(`/work/${work.id}`);
    },
    onError: (error) => toast.error(error.message),
  });

  const all = clips.data ?? [];
  const tags = useMemo(() => {
    const counts = new Map<string, number>();
    for (const clip of all) counts.set(clip.tags[0] ?? "", (counts.get(clip.tags[0] ?? "") ?? 0) + 1);
    return [...counts].filter(([name]) => name !== "");
  }, [all]);
  const needsWork = all.filter((c) => c.summary.findings > 0).length;
  const shown = useMemo(() => {
    const words = search.toLowerCase().split(/\s+/).filter(Boolean);
    return all
      .filter((c) => tag === null || (tag === "needs work" ? c.summary.findings > 0 : c.tags[0] === tag))
      .filter((c) => words.every((w) => `${c.name} ${c.fileName} ${c.tags.join(" ")}`.toLowerCase().includes(w)))
      .sort(ORDERS[order].compare);
  }, [all, tag, search, order]);

  const rows = useMemo(
    () => Array.from({ length: Math.ceil(shown.length / columns) }, (_, i) => shown.slice(i * columns, (i + 1) * columns)),
    [shown, columns],
  );

  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void imports.bringIn([...event.dataTransfer.files]);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the whole page takes dropped files; the button does the same by keyboard
    <div
      className="flex h-full flex-col"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={drop}
    >
      <header className="flex h-11 shrink-0 items-center gap-5 border-b border-line bg-sheet px-4">
        <Mark />
        <h1 className="font-semibold underline decoration-2 underline-offset-14">Library</h1>
        <span className="flex-1" />
        <span className="text-ink-soft">drop {READ_ENDINGS.join(", ")} files anywhere</span>
        <IconButton label={night ? "Day colours" : "Night colours"} onClick={() => setNight(!night)}>
          {night ? <Sun size={16} /> : <Moon size={16} />}
        </IconButton>
        <Button tone="primary" onClick={() => input.current?.click()}>
          <Upload size={15} /> Bring in…
        </Button>
        <input
          ref={input}
          type="file"
          multiple
          accept={READ_ENDINGS.join(",")}
          className="hidden"
          aria-label="Files to bring in"
          onChange={(event) => {
            void imports.bringIn([...(event.target.files ?? [])]);
            event.target.value = "";
          }}
        />
      </header>
      <div className="flex flex-wrap items-center gap-2 px-4.5 pt-2.5">
        <input
          type="search"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          placeholder="Search clips, tags, characters"
          aria-label="Search clips"
          className="h-8 w-70 rounded-sm border border-line bg-sheet px-3 placeholder:text-ink-soft"
        />
        <Chip on={tag === null} onClick={() => setTag(null)}>{`All ${all.length}`}</Chip>
        {tags.map(([name, count]) => (
          <Chip key={name} on={tag === name} onClick={() => setTag(name)}>{`${name} ${count}`}</Chip>
        ))}
        {needsWork > 0 && <Chip on={tag === "needs work"} onClick={() => setTag("needs work")}>{`needs work ${needsWork}`}</Chip>}
        <span className="flex-1" />
        <label className="flex items-center gap-2 text-ink-soft">
          sorted by
          <select
            value={order}
            onChange={(event) => setOrder(event.target.value as Order)}
            className="h-8 rounded-sm border border-line bg-sheet px-2 text-ink"
          >
            {Object.entries(ORDERS).map(([key, { label }]) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </select>
        </label>
        <IconButton label="Cards" pressed={!table} onClick={() => setTable(false)}>
          <LayoutGrid size={16} />
        </IconButton>
        <IconButton label="Table" pressed={table} onClick={() => setTable(true)}>
          <Rows3 size={16} />
        </IconButton>
      </div>
      <ImportRows rows={imports.rows} onDismiss={imports.dismiss} />
      <main ref={scroller} className="min-h-0 flex-1 overflow-auto px-4.5 py-3.5">
        {clips.isPending && <p className="py-16 text-center text-ink-soft">Reading the library…</p>}
        {clips.isError && (
          <p role="alert" className="py-16 text-center text-coral-ink">
            {clips.error.message}
          </p>
        )}
        {clips.data && shown.length === 0 && (
          <p className="py-16 text-center text-ink-soft">
            {all.length === 0
              ? `The library is empty. Drop captured ${READ_ENDINGS.join(", ")} files here to begin.`
              : "No clip matches. Clear the search to see all of them."}
          </p>
        )}
        {table ? (
          shown.length > 0 && <ClipTable clips={shown} scroller={scroller} onOpen={(clip) => open.mutate(clip)} />
        ) : (
          <VirtualList items={rows} scroller={scroller} rowHeight={CARD_HEIGHT} keyOf={(row) => row[0].id} rowClassName={() => "pb-3.5"}>
            {(row) => (
              <div className="grid gap-3.5" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
                {row.map((clip) => (
                  <ClipCard key={clip.id} clip={clip} onOpen={() => open.mutate(clip)} />
                ))}
              </div>
            )}
          </VirtualList>
        )}
        <PosesSection search={search} />
        <UnreadableWorks works={works.data ?? []} />
      </main>
      {over && (
        <div className="pointer-events-none fixed inset-3 z-30 flex items-center justify-center rounded-sm border-2 border-dashed border-cobalt bg-cobalt-wash/80 text-lg font-semibold">
          Drop to bring them in
        </div>
      )}
    </div>
  );
}

function Chip({ on, onClick, children }: { on: boolean; onClick: () => void; children: string }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      className={clsx("h-7 rounded-full border px-3", on ? "border-ink bg-ink text-sheet" : "border-line bg-sheet hover:border-ink-soft")}
    >
      {children}
    </button>
  );
}
