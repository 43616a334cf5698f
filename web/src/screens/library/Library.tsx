import { READ_ENDINGS } from "@stride/motion";
import type { ClipOrder, ClipRow } from "@stride/server";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import clsx from "clsx";
import { LayoutGrid, Moon, Rows3, Sun, Upload } from "lucide-react";
import { type DragEvent, type RefObject, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { type ClipAsk, createWork, fetchFacets, fetchWorks } from "../../api/client.ts";
import { Button, IconButton } from "../../ui/Button.tsx";
import { Mark } from "../../ui/Mark.tsx";
import { useNight } from "../../ui/useNight.ts";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { ClipCard } from "./ClipCard.tsx";
import { type ClipSorting, ClipTable } from "./ClipTable.tsx";
import { ImportRows } from "./ImportRows.tsx";
import { PosesSection } from "./PosesSection.tsx";
import { UnreadableWorks } from "./UnreadableWorks.tsx";
import { type ClipsShown, useClips } from "./useClips.ts";
import { useImports } from "./useImports.ts";

/** What cards may be sorted by: the library's own orders, and which end comes first. */
const ORDERS = {
  slide: { label: "worst finding", down: true },
  newest: { label: "newest", down: true },
  name: { label: "name", down: false },
  length: { label: "length", down: true },
} as const satisfies Partial<Record<ClipOrder, { label: string; down: boolean }>>;
type Order = keyof typeof ORDERS;

/** The choice beside the characters: clips that anything is found in. */
const NEEDS_WORK = "needs work";

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
  const facets = useQuery({ queryKey: ["clips", "facets"], queryFn: fetchFacets });
  const works = useQuery({ queryKey: ["works"], queryFn: fetchWorks });
  const [search, setSearch] = useState("");
  const [tag, setTag] = useState<string | null>(null);
  const [order, setOrder] = useState<Order>("slide");
  const [sorting, setSorting] = useState<ClipSorting>({ order: "slide", down: true });
  const [table, setTable] = useState(false);
  const [over, setOver] = useState(false);
  const [night, setNight] = useNight();
  const input = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLElement>(null);
  const columns = useColumns(scroller);
  const imports = useImports();
  const words = useDeferredValue(search);
  const ask: ClipAsk = {
    search: words,
    ...(tag !== null && tag !== NEEDS_WORK && { character: tag }),
    needsWork: tag === NEEDS_WORK,
    ...(table ? sorting : { order, down: ORDERS[order].down }),
  };
  const clips = useClips(ask);
  const shown = clips.rows;
  const open = useMutation({
    mutationFn: async (clip: ClipRow) => works.data?.find((w) => w.clipId === clip.id) ?? (await createWork(clip.id, clip.name)),
    onSuccess: (work) => {
      void queries.invalidateQueries({ queryKey: ["works"] });
      void navigate(`/work/${work.id}`);
    },
    onError: (error) => toast.error(error.message),
  });

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
        <Chip on={tag === null} onClick={() => setTag(null)}>{`All ${facets.data?.total ?? ""}`}</Chip>
        {facets.data?.characters.map(({ name, count }) => (
          <Chip key={name} on={tag === name} onClick={() => setTag(name)}>{`${name} ${count}`}</Chip>
        ))}
        {(facets.data?.needsWork ?? 0) > 0 && <Chip on={tag === NEEDS_WORK} onClick={() => setTag(NEEDS_WORK)}>{`needs work ${facets.data?.needsWork}`}</Chip>}
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
        {clips.pending && <p className="py-16 text-center text-ink-soft">Reading the library…</p>}
        {clips.error && (
          <p role="alert" className="py-16 text-center text-coral-ink">
            {clips.error.message}
          </p>
        )}
        {!clips.pending && !clips.error && shown.length === 0 && (
          <p className="py-16 text-center text-ink-soft">
            {facets.data?.total === 0
              ? `The library is empty. Drop captured ${READ_ENDINGS.join(", ")} files here to begin.`
              : "No clip matches. Clear the search to see all of them."}
          </p>
        )}
        {table ? (
          shown.length > 0 && (
            <ClipTable clips={shown} total={clips.total} sorting={sorting} onSort={setSorting} scroller={scroller} onOpen={(clip) => open.mutate(clip)} />
          )
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
        <More of={clips} />
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

/** Where the list ends so far: what comes behind it is asked for before one gets there. */
function More({ of }: { of: ClipsShown }) {
  const mark = useRef<HTMLDivElement>(null);
  const { more, busy, next } = of;
  useEffect(() => {
    const element = mark.current;
    if (!element || !more) return;
    const observer = new IntersectionObserver(([entry]) => entry.isIntersecting && next(), { rootMargin: "1600px" });
    observer.observe(element);
    return () => observer.disconnect();
  }, [more, next]);
  return (
    <div ref={mark} className="min-h-px py-1 text-center text-ink-soft" role="status">
      {busy ? "Reading more clips…" : ""}
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
