import type { FindingKind } from "@stride/motion";
import type { ClipRow, ListedClip } from "@stride/server";
import { useState } from "react";
import { ClipPicture } from "../../timedesk/ClipPicture.tsx";
import { showFigure, showSeconds } from "../../ui/figures.ts";

export function clipSeconds(clip: ClipRow): number {
  return clip.summary.frames / clip.summary.fps;
}

const WORDS: Readonly<Record<FindingKind, string>> = {
  slide: "slides",
  float: "floats",
  sink: "sinks",
  travel: "travel off",
  floor: "floor off",
  tilt: "floor tilts",
  pop: "pops",
  jump: "jumps",
  flip: "flips",
  jitter: "jitters",
  stretch: "stretched",
  gap: "ends gap",
};

/** The worst finding in few words, or that there is none. */
export function Verdict({ clip }: { clip: ClipRow }) {
  const { worst, findings } = clip.summary;
  if (!worst) return <span className="figure text-moss-ink">ready</span>;
  return (
    <span className="flex flex-col items-end">
      <span className="figure text-coral-ink">
        {WORDS[worst.kind]} {showFigure(worst.value, worst.unit)}
      </span>
      <span className="text-ink-soft">
        {findings} {findings === 1 ? "finding" : "findings"}
      </span>
    </span>
  );
}

/** A clip in the library: its chronophotograph, which plays under the pointer, its length and what is worst about it. */
export function ClipCard({ clip, onOpen }: { clip: ListedClip; onOpen: () => void }) {
  const [playing, setPlaying] = useState(false);
  return (
    <button
      type="button"
      onClick={onOpen}
      onPointerEnter={() => setPlaying(true)}
      onPointerLeave={() => setPlaying(false)}
      onFocus={() => setPlaying(true)}
      onBlur={() => setPlaying(false)}
      className="flex flex-col overflow-hidden rounded-sm border border-line bg-sheet text-left hover:border-ink-soft focus-visible:border-cobalt"
    >
      <ClipPicture clip={clip} playing={playing} height={166} />
      <span className="flex w-full items-start justify-between gap-3 border-t border-line px-3 py-2.5">
        <span className="min-w-0">
          <span className="block truncate font-semibold" title={clip.name}>
            {clip.name}
          </span>
          <span className="block truncate text-ink-soft">
            {clip.tags[0]} · {showSeconds(clipSeconds(clip))} · {clip.summary.fps} fps
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
  );
}
