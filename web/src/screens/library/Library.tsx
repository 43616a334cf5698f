import { READ_ENDINGS } from "@stride/motion";
import type { ClipOrder, ListedClip } from "@stride/server";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import clsx from "clsx";
import { Ellipsis, LayoutGrid, Moon, Rows3, Sun, Upload } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { type DragEvent, useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { bodyOfClip, type ClipAsk, duplicateClip, fetchFacets, fetchUnreadableWorks, openWork } from "../../api/client.ts";
import { Button, IconButton } from "../../ui/Button.tsx";
import { Mark } from "../../ui/Mark.tsx";
import { ScreenLinks } from "../../ui/ScreenLinks.tsx";
import { useNight } from "../../ui/useNight.ts";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { CardRow } from "./CardRow.tsx";
import { ClipDetails } from "./ClipDetails.tsx";
import { type ClipActions, Item } from "./ClipMenu.tsx";
import { type ClipSorting, ClipTable } from "./ClipTable.tsx";
import { CopiesDialog } from "./CopiesDialog.tsx";
import { DeletedDialog } from "./DeletedDialog.tsx";
import { FilterPopover, type Filters, filterCount, NO_FILTERS } from "./FilterPopover.tsx";
import { ImportPanel } from "./ImportPanel.tsx";
import { ReplaceDialog } from "./ReplaceDialog.tsx";
import { SelectionBar } from "./SelectionBar.tsx";
import { ShelfSection } from "./ShelfSection.tsx";
import { allPicked, NOTHING_PICKED, picked } from "./selection.ts";
import { UnreadableWorks } from "./UnreadableWorks.tsx";
import { type ClipsShown, useClips } from "./useClips.ts";
import { useColumns } from "./useColumns.ts";
import { useDeletion } from "./useDeletion.ts";
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
/** A card's usual height, pixels. */
const CARD_HEIGHT = 238;
/** Who is further down than this, pixels, looks at something. */
const SCROLLED = 600;
/** Rows of cards that are drawn beyond what is in view: each holds pictures. */
const CARD_ROWS_BEYOND = 3;

/** Clips to choose from, and the place where files come in. */
export function Library() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const facets = useQuery({ queryKey: ["clips", "facets"], queryFn: fetchFacets });
  const unreadable = useQuery({ queryKey: ["works", "unreadable"], queryFn: fetchUnreadableWorks });
  const [search, setSearch] = useState("");
  const [tag, setTag] = useState<string | null>(null);
  const [order, setOrder] = useState<Order>("slide");
  const [sorting, setSorting] = useState<ClipSorting>({ order: "slide", down: true });
  const [table, setTable] = useState(false);
  const [filters, setFilters] = useState<Filters>(NO_FILTERS);
  const [selection, setSelection] = useState(NOTHING_PICKED);
  const [dialog, setDialog] = useState<{ readonly is: "about" | "replace"; readonly clip: ListedClip } | { readonly is: "copies" | "deleted" } | null>(null);
  const [over, setOver] = useState(false);
  const [night, setNight] = useNight();
  const input = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLElement>(null);
  const columns = useColumns(scroller);
  const scrolled = useCallback(() => (scroller.current?.scrollTop ?? 0) > SCROLLED, []);
  const imports = useImports(scrolled);
  const words = useDeferredValue(search);
  const ask: ClipAsk = {
    search: words,
    ...(tag !== null && tag !== NEEDS_WORK && { character: tag }),
    needsWork: tag === NEEDS_WORK,
    ...filters,
    ...(table ? sorting : { order, down: ORDERS[order].down }),
  };
  const clips = useClips(ask);
  const shown = clips.rows;
  const open = useMutation({
    mutationFn: (clip: ListedClip) => openWork(clip.id, clip.name),
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
    imports.queue.add([...event.dataTransfer.files]);
  };
  const remove = useDeletion();
  const copies = async (list: readonly ListedClip[]) => {
    try {
      for (const clip of list) await duplicateClip(clip.id, `${clip.name} copy`.slice(0, 200));
      toast.success(list.length === 1 ? `${list[0].name} duplicated` : `${list.length} clips duplicated`);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
    await queries.invalidateQueries({ queryKey: ["clips"] });
  };
  const asCharacter = async (clip: ListedClip) => {
    try {
      const body = await bodyOfClip(clip.id);
      await queries.invalidateQueries({ queryKey: ["characters"] });
      void navigate(`/characters/${body.id}`);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  const removeClips = async (list: readonly ListedClip[]) => {
    setSelection(NOTHING_PICKED);
    await remove({ clips: list.map((clip) => clip.id) }, list.length === 1 ? list[0].name : `${list.length} clips`);
  };
  const ids = useMemo(() => shown.map((clip) => clip.id), [shown]);
  // What cards do stays the same for as long as they are there, so that none is drawn anew when others come.
  const now = useRef({ open: open.mutate, copies, removeClips, asCharacter, ids });
  now.current = { open: open.mutate, copies, removeClips, asCharacter, ids };
  const actions = useMemo<ClipActions>(
    () => ({
      open: (clip) => now.current.open(clip),
      about: (clip) => setDialog({ is: "about", clip }),
      replace: (clip) => setDialog({ is: "replace", clip }),
      duplicate: (clip) => void now.current.copies([clip]),
      body: (clip) => void now.current.asCharacter(clip),
      remove: (clip) => void now.current.removeClips([clip]),
    }),
    [],
  );
  const pick = useCallback((id: string, through: boolean) => setSelection((old) => picked(old, id, now.current.ids, through)), []);
  const pickedClips = shown.filter((clip) => selection.ids.has(clip.id));
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "Escape" && !event.defaultPrevented) setSelection(NOTHING_PICKED);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
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
        <h1 className="sr-only">Library</h1>
        <ScreenLinks here="library" />
        <span className="flex-1" />
        <span className="text-ink-soft">drop {READ_ENDINGS.join(", ")} files anywhere</span>
        <IconButton label={night ? "Day colours" : "Night colours"} onClick={() => setNight(!night)}>
          {night ? <Sun size={16} /> : <Moon size={16} />}
        </IconButton>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <button
              type="button"
              aria-label="Library menu"
              title="Library menu"
              className="inline-flex size-7 items-center justify-center rounded-sm hover:bg-line/50"
            >
              <Ellipsis size={16} />
            </button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" sideOffset={4} className="z-50 min-w-56 rounded-sm border border-line bg-sheet p-1 shadow-lg">
              <Item onSelect={() => setDialog({ is: "copies" })}>Copies of the library…</Item>
              <Item onSelect={() => setDialog({ is: "deleted" })}>Deleted…</Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
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
            imports.queue.add([...(event.target.files ?? [])]);
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
        <FilterPopover filters={filters} facets={facets.data} onChange={setFilters} />
        <span className="flex-1" />
        {!table && (
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
        )}
        <IconButton label="Cards" pressed={!table} onClick={() => setTable(false)}>
          <LayoutGrid size={16} />
        </IconButton>
        <IconButton label="Table" pressed={table} onClick={() => setTable(true)}>
          <Rows3 size={16} />
        </IconButton>
      </div>
      <ImportPanel imports={imports} />
      {pickedClips.length > 0 && (
        <SelectionBar
          clips={pickedClips}
          shown={shown.length}
          onAll={() => setSelection(allPicked(ids))}
          onNone={() => setSelection(NOTHING_PICKED)}
          onCompare={() => void open.mutateAsync(pickedClips[0]).then((work) => navigate(`/work/${work.id}?beside=${pickedClips[1].id}`))}
          onDuplicate={() => void copies(pickedClips)}
          onDelete={() => void removeClips(pickedClips)}
        />
      )}
      <main ref={scroller} aria-busy={words !== search || clips.pending || clips.stale} className="min-h-0 flex-1 overflow-auto px-4.5 py-3.5">
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
              : filterCount(filters) > 0
                ? "No clip matches. Clear the search or the filter to see all of them."
                : "No clip matches. Clear the search to see all of them."}
          </p>
        )}
        {table ? (
          shown.length > 0 && (
            <ClipTable
              clips={shown}
              total={clips.total}
              sorting={sorting}
              onSort={setSorting}
              scroller={scroller}
              actions={actions}
              picked={selection.ids}
              onPick={pick}
            />
          )
        ) : (
          <VirtualList
            items={rows}
            scroller={scroller}
            rowHeight={CARD_HEIGHT}
            beyond={CARD_ROWS_BEYOND}
            keyOf={(row) => row[0].id}
            rowClassName={() => "pb-3.5"}
          >
            {(row, leaping) => <CardRow clips={row} columns={columns} leaping={leaping} actions={actions} picked={selection.ids} onPick={pick} />}
          </VirtualList>
        )}
        <More of={clips} />
        <ShelfSection search={search} />
        <UnreadableWorks works={unreadable.data ?? []} />
      </main>
      {dialog?.is === "about" && (
        <ClipDetails clip={dialog.clip} onReplace={() => setDialog({ is: "replace", clip: dialog.clip })} onClose={() => setDialog(null)} />
      )}
      {dialog?.is === "replace" && <ReplaceDialog clip={dialog.clip} onClose={() => setDialog(null)} />}
      {dialog?.is === "copies" && <CopiesDialog onClose={() => setDialog(null)} />}
      {dialog?.is === "deleted" && <DeletedDialog onClose={() => setDialog(null)} />}
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
