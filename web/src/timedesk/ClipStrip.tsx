import { clipKeyOf, type Patch } from "@stride/motion";
import clsx from "clsx";
import { Popover } from "radix-ui";
import { useState } from "react";
import { change, freshId, preview, shownDoc, useBench } from "../state/bench.ts";
import { lengthOfOther, useOtherClips } from "../state/otherClips.ts";
import { joinSettings, joinsOf, type StripPiece, stripOf, withInserted, withMovedPiece, withTrimmed } from "../state/strip.ts";
import { frameMade } from "../state/times.ts";
import { NAMES, useScale } from "../timescale/scale.ts";
import { useFrameDrag } from "../timescale/useFrameDrag.ts";
import { Choices } from "./ClipChooser.tsx";
import { ClipPicture } from "./ClipPicture.tsx";

const HEIGHT = 46;

/** The row of clips that joins make: dragged by their ends they are trimmed, by their overlap they share more or less, by the arrows they change places. */
export function ClipStrip() {
  const any = useBench((s) => joinsOf(shownDoc(s)).length > 0);
  return any ? <Strip /> : null;
}

/** Puts another clip of the library into the row, behind the piece that is picked. */
function InsertMenu({ behind }: { behind: string | null }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          className="size-5 rounded-sm hover:bg-line/50 hover:text-ink"
          aria-label="Put a clip into the row"
          title="Put a clip behind the one that is picked"
        >
          +
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className="z-50 flex max-h-[min(26rem,var(--radix-popover-content-available-height))] w-84 flex-col overflow-hidden rounded-sm border border-line bg-sheet shadow-lg"
        >
          <Choices
            label="Put a clip into the row"
            onChoose={(ref) => {
              setOpen(false);
              const id = freshId();
              change(`Put ${ref.name} into the row`, (d) => withInserted(d, behind, ref, id));
              useBench.setState({ patchId: id });
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Strip() {
  const scale = useScale();
  const doc = useBench(shownDoc);
  const clocks = useBench((s) => s.clocks);
  const own = useBench((s) => s.clip);
  const rows = useOtherClips((s) => s.rows);
  const picked = useBench((s) => s.patchId);
  const bind = useFrameDrag();
  const pieces = stripOf(doc, clocks, own?.name ?? "This clip", lengthOfOther);
  const joins = joinsOf(doc);
  const last = joins[joins.length - 1];
  const x = (frame: number) => scale.x(frameMade(clocks, last.id, frame / clocks.fps) ?? frame);
  const drag = (patch: Patch, what: "start" | "end" | "overlap") => {
    const { clip } = joinSettings(patch);
    const whole = (clip && lengthOfOther(clip)) ?? 0;
    const edit = (frames: number) => (d: ReturnType<typeof shownDoc>) => withTrimmed(d, patch, what, frames, clocks.fps, whole);
    return bind({
      press: () => useBench.setState({ patchId: patch.id }),
      move: (frames) => preview(edit(frames)),
      end: (frames) => {
        if (frames === null || frames === 0) useBench.setState({ draft: null });
        else change(`${what === "overlap" ? "Overlap" : "Trim"} of ${patch.name}`, edit(frames));
      },
    });
  };
  const move = (patch: Patch, by: number) =>
    change(`Move ${patch.name} in the row`, (d) => withMovedPiece(d, patch.id, joinsOf(d).findIndex((p) => p.id === patch.id) + by));
  const row = ({ patch }: StripPiece) => {
    const ref = patch && joinSettings(patch).clip;
    return patch ? (ref ? rows.get(clipKeyOf(ref)) : undefined) : own;
  };
  return (
    <section aria-label="Clips in a row" className="flex items-center border-b border-line" style={{ height: HEIGHT }}>
      <div className="flex shrink-0 items-center justify-between pr-2 pl-3.5 text-ink-soft" style={{ width: NAMES }}>
        <span>
          Clips <span className="text-xs">{pieces.length} in a row</span>
        </span>
        <InsertMenu behind={pieces.some((p) => p.patch?.id === picked) ? picked : (last?.id ?? null)} />
      </div>
      <div className="relative overflow-hidden" style={{ width: scale.width, height: HEIGHT }}>
        {pieces.map((piece, i) => {
          const [a, b] = [x(piece.start), x(piece.end + 1)];
          const { patch } = piece;
          const clip = row(piece);
          const chosen = patch?.id === picked;
          // Neighbours stand on two levels, so that what both play is seen.
          return (
            <div
              key={patch?.id ?? "own"}
              className={clsx(
                "absolute flex h-9 items-center overflow-hidden rounded-sm border bg-paper",
                i % 2 === 0 ? "top-0.5" : "top-2",
                chosen ? "z-10 border-cobalt" : "border-ink-soft",
              )}
              style={{ left: a, width: Math.max(6, b - a) }}
            >
              <button
                type="button"
                className="flex size-full min-w-0 items-center gap-1.5 px-2 text-left text-xs"
                aria-label={`${clip?.name ?? piece.name}, frames ${piece.start} to ${piece.end}${piece.overlap > 0 ? `, ${piece.overlap} of them with the one before` : ""}`}
                title={patch ? "Pick it; Alt with an arrow moves it in the row, Delete takes it out" : "The work's own clip"}
                aria-pressed={chosen}
                onClick={() => patch && useBench.setState({ patchId: patch.id })}
                onKeyDown={(event) => {
                  if (!patch) return;
                  if (event.altKey && (event.key === "ArrowLeft" || event.key === "ArrowRight")) move(patch, event.key === "ArrowLeft" ? -1 : 1);
                  else if (event.key === "Delete") change(`Delete ${patch.name}`, (d) => ({ ...d, patches: d.patches.filter((p) => p.id !== patch.id) }));
                  else return;
                  event.preventDefault();
                  event.stopPropagation();
                }}
              >
                {clip && b - a > 150 && (
                  <span className="h-8 w-20 shrink-0">
                    <ClipPicture clip={clip} height={32} />
                  </span>
                )}
                <span className="truncate">{clip?.name ?? piece.name}</span>
              </button>
              {patch && (
                <>
                  <span
                    data-trim="start"
                    title="Trim its start"
                    className="absolute inset-y-0 left-0 w-1.5 cursor-ew-resize touch-none bg-ink/40"
                    {...drag(patch, "start")}
                  />
                  <span
                    data-trim="end"
                    title="Trim its end"
                    className="absolute inset-y-0 right-0 w-1.5 cursor-ew-resize touch-none bg-ink/40"
                    {...drag(patch, "end")}
                  />
                </>
              )}
            </div>
          );
        })}
        {pieces
          .slice(1)
          .map(({ patch, start, overlap }) =>
            patch && overlap > 0 ? (
              <span
                key={patch.id}
                data-trim="overlap"
                title={`Both play for ${overlap} frames; drag to change`}
                className="absolute bottom-0 z-20 h-2 cursor-ew-resize touch-none rounded-sm bg-cobalt/70"
                style={{ left: x(start), width: Math.max(6, x(start + overlap) - x(start)) }}
                {...drag(patch, "overlap")}
              />
            ) : null,
          )}
      </div>
    </section>
  );
}
