import type { ClipRow, ListedClip } from "@stride/server";
import clsx from "clsx";
import { memo, useState } from "react";
import { ClipPicture } from "../../timedesk/ClipPicture.tsx";
import { showFigure, showSeconds } from "../../ui/figures.ts";
import { type ClipActions, ClipMenu } from "./ClipMenu.tsx";
import { FAULT_WORDS } from "./faultWords.ts";

export function clipSeconds(clip: ClipRow): number {
  return clip.summary.frames / clip.summary.fps;
}

/** The worst finding in few words, or that there is none. */
export function Verdict({ clip }: { clip: ClipRow }) {
  const { worst, findings } = clip.summary;
  if (!worst) return <span className="figure text-moss-ink">ready</span>;
  return (
    <span className="flex flex-col items-end">
      <span className="figure text-coral-ink">
        {FAULT_WORDS[worst.kind]} {showFigure(worst.value, worst.unit)}
      </span>
      <span className="text-ink-soft">
        {findings} {findings === 1 ? "finding" : "findings"}
      </span>
    </span>
  );
}

interface ClipCardProps {
  readonly clip: ListedClip;
  readonly actions: ClipActions;
  readonly picked: boolean;
  /** `through`: with all between it and the one that was picked last */
  readonly onPick: (id: string, through: boolean) => void;
}

/** A clip in the library: its chronophotograph, which plays under the pointer, its length and what is worst about it. */
export const ClipCard = memo(function ClipCard({ clip, actions, picked, onPick }: ClipCardProps) {
  const [playing, setPlaying] = useState(false);
  const nameId = `clip-${clip.id}`;
  return (
    <div
      className={clsx(
        "group relative overflow-hidden rounded-sm border bg-sheet",
        picked ? "border-cobalt ring-1 ring-cobalt" : "border-line hover:border-ink-soft focus-within:border-cobalt",
      )}
      onPointerEnter={() => setPlaying(true)}
      onPointerLeave={() => setPlaying(false)}
    >
      <button
        type="button"
        onClick={() => actions.open(clip)}
        onFocus={() => setPlaying(true)}
        onBlur={() => setPlaying(false)}
        className="flex w-full flex-col text-left"
      >
        <ClipPicture clip={clip} playing={playing} height={166} among />
        <span className="flex w-full items-start justify-between gap-3 border-t border-line px-3 py-2.5">
          <span className="min-w-0">
            <span id={nameId} className="block truncate font-semibold" title={clip.name}>
              {clip.name}
            </span>
            <span className="block truncate text-ink-soft">
              {clip.tags[0]} · {showSeconds(clipSeconds(clip))} · {Math.round(clip.summary.fps * 100) / 100} fps
              {clip.folder && ` · ${clip.folder}`}
              {clip.drawnOnBy.length > 0 && (
                <span title={`Drawn on by ${clip.drawnOnBy.join(", ")}`}>
                  {" "}
                  · in {clip.drawnOnBy.length} other {clip.drawnOnBy.length === 1 ? "work" : "works"}
                  <span className="sr-only">: {clip.drawnOnBy.join(", ")}</span>
                </span>
              )}
            </span>
          </span>
          <span className="flex shrink-0 flex-col items-end">
            <Verdict clip={clip} />
          </span>
        </span>
        {clip.summary.worst && <span className="sr-only">{clip.summary.worst.title}</span>}
      </button>
      <span className={clsx("absolute top-2 left-2", !picked && "opacity-0 group-focus-within:opacity-100 group-hover:opacity-100")}>
        <PickBox name={clip.name} picked={picked} onPick={(through) => onPick(clip.id, through)} />
      </span>
      <span className="absolute top-1.5 right-1.5 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 has-[[data-state=open]]:opacity-100">
        <ClipMenu clip={clip} actions={actions} describedBy={nameId} />
      </span>
    </div>
  );
});

/** Takes a clip into those that are picked, or out of them. */
export function PickBox({ name, picked, onPick }: { name: string; picked: boolean; onPick: (through: boolean) => void }) {
  return (
    <input
      type="checkbox"
      checked={picked}
      aria-label={`Pick ${name}`}
      title="Pick (Shift: all up to here)"
      className="block size-4.5 accent-cobalt"
      onChange={(event) => onPick((event.nativeEvent as MouseEvent).shiftKey === true)}
    />
  );
}
