import { clipKeyOf, clipRef, type SourceRef, sourceKeyOf } from "@stride/motion";
import type { ListedClip } from "@stride/server";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { ChevronsUpDown } from "lucide-react";
import { Popover } from "radix-ui";
import { Fragment, useDeferredValue, useEffect, useState } from "react";
import { fetchClips, fetchWorks } from "../api/client.ts";
import { knowClip, useOtherClips } from "../state/otherClips.ts";
import { showSeconds } from "../ui/figures.ts";
import { ClipPicture } from "./ClipPicture.tsx";

/** Which clip of the library a patch draws on: as it came, or as one of its works has left it. */
export function ClipChooser({ label, value, onChoose }: { label: string; value: SourceRef | null; onChoose: (ref: SourceRef) => void }) {
  const [open, setOpen] = useState(false);
  const row = useOtherClips((s) => (value ? s.rows.get(clipKeyOf(value)) : undefined));
  const missing = useOtherClips((s) => value !== null && s.missing.has(sourceKeyOf(value)));
  const seconds = row ? (row.summary.frames - 1) / row.summary.fps : 0;
  return (
    <div className="py-1.5">
      <span className="flex items-baseline justify-between gap-2">
        <span>{label}</span>
        {row && <span className="figure text-xs text-ink-soft">{`${row.summary.frames} f at ${row.summary.fps} fps, ${showSeconds(seconds)}`}</span>}
      </span>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger asChild>
          <button
            type="button"
            aria-label={`${label}: ${row?.name ?? value?.name ?? "none chosen"}. Choose another`}
            className="mt-1 flex w-full items-center gap-2 rounded-sm border border-line bg-paper py-0.5 pr-2 text-left hover:border-ink-soft"
          >
            <span className="h-11 w-24 shrink-0 overflow-hidden">{row && <ClipPicture clip={row} height={44} />}</span>
            <span className="min-w-0 flex-1">
              <span className={`block truncate ${value ? "font-semibold" : "text-ink-soft"}`}>{row?.name ?? value?.name ?? "Choose a clip"}</span>
              {value?.work !== undefined && <span className="block truncate text-xs text-ink-soft">as version {value.work} of its work left it</span>}
              {missing && <span className="block text-xs text-coral-ink">not in this library</span>}
            </span>
            <ChevronsUpDown size={14} className="shrink-0 text-ink-soft" aria-hidden="true" />
          </button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="end"
            sideOffset={4}
            collisionPadding={8}
            className="z-50 flex max-h-[min(26rem,var(--radix-popover-content-available-height))] w-84 flex-col overflow-hidden rounded-sm border border-line bg-sheet shadow-lg"
          >
            <Choices
              label={label}
              onChoose={(ref) => {
                setOpen(false);
                onChoose(ref);
              }}
            />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}

const itemOf = (clip: ListedClip) => `${clip.name} ${clip.id}`;

/** Clips with their pictures, found by typing; under each the works whose result may be meant instead. */
export function Choices({ label, onChoose }: { label: string; onChoose: (ref: SourceRef) => void }) {
  const [search, setSearch] = useState("");
  const words = useDeferredValue(search);
  const clips = useQuery({
    queryKey: ["clips", "choices", words],
    queryFn: () => fetchClips({ search: words, order: "name", down: false }, null),
    placeholderData: keepPreviousData,
  });
  const works = useQuery({ queryKey: ["works"], queryFn: fetchWorks });
  // Until the clips are those that the words ask for, a press would choose one that is about to give way to another.
  const stale = words !== search || clips.isPlaceholderData;
  // What the words find first is what Enter takes.
  const first = clips.data?.clips[0];
  const [marked, setMarked] = useState("");
  useEffect(() => {
    if (!stale && first) setMarked(itemOf(first));
  }, [stale, first]);
  const choose = (clip: ListedClip, ref: SourceRef) => {
    if (stale) return;
    knowClip(clip);
    onChoose(ref);
  };
  const item = "flex cursor-pointer items-center gap-2 rounded-sm px-2 py-0.5 data-[selected=true]:bg-cobalt-wash";
  return (
    <Command label={label} shouldFilter={false} value={marked} onValueChange={setMarked} className="flex min-h-0 flex-col">
      <Command.Input
        autoFocus
        value={search}
        onValueChange={setSearch}
        placeholder="Which clip?"
        className="h-9 w-full shrink-0 border-b border-line bg-transparent px-3 outline-none placeholder:text-ink-soft"
      />
      <Command.List aria-busy={stale} className="min-h-0 overflow-y-auto p-1 aria-busy:opacity-60">
        <Command.Empty className="px-3 py-3 text-ink-soft">No clip is called so.</Command.Empty>
        {clips.data?.clips.map((clip) => {
          const seconds = (clip.summary.frames - 1) / clip.summary.fps;
          const ref = clipRef(clip);
          const left = (works.data ?? []).filter((w) => w.clipId === clip.id && w.patches > 0 && w.problem === null);
          return (
            <Fragment key={clip.id}>
              <Command.Item value={itemOf(clip)} className={item} onSelect={() => choose(clip, ref)}>
                <span className="h-9 w-20 shrink-0 overflow-hidden">
                  <ClipPicture clip={clip} height={36} />
                </span>
                <span className="min-w-0 flex-1 truncate">{clip.name}</span>
                <span className="figure shrink-0 text-xs text-ink-soft">{showSeconds(seconds)}</span>
              </Command.Item>
              {left.map((work) => (
                <Command.Item
                  key={work.id}
                  value={`${clip.name} ${work.name} ${work.id}`}
                  className={`${item} pl-24! text-ink-soft`}
                  onSelect={() => choose(clip, { ...ref, work: work.revision })}
                >
                  <span className="truncate">as “{work.name}” left it</span>
                </Command.Item>
              ))}
            </Fragment>
          );
        })}
        {clips.data && clips.data.total > clips.data.clips.length && (
          <p className="px-3 py-2 text-xs text-ink-soft">and {clips.data.total - clips.data.clips.length} more; type to find one</p>
        )}
      </Command.List>
    </Command>
  );
}
