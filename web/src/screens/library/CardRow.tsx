import type { ListedClip } from "@stride/server";
import { useEffect, useState } from "react";
import { ClipCard } from "./ClipCard.tsx";
import type { ClipActions } from "./ClipMenu.tsx";

/** A row that was leapt to is drawn in full once it stays this long, milliseconds. */
const STAYS_MS = 120;

interface CardRowProps {
  readonly clips: readonly ListedClip[];
  readonly columns: number;
  /** it came into view by a leap of the list, and may be gone at once */
  readonly leaping: boolean;
  readonly actions: ClipActions;
  readonly picked: ReadonlySet<string>;
  readonly onPick: (id: string, through: boolean) => void;
}

/** Cards side by side. While the list flies by there are only their names: whole cards by the dozen in every picture would hold the page up. */
export function CardRow({ clips, columns, leaping, actions, picked, onPick }: CardRowProps) {
  const [whole, setWhole] = useState(!leaping);
  useEffect(() => {
    if (whole) return;
    const timer = window.setTimeout(() => setWhole(true), STAYS_MS);
    return () => window.clearTimeout(timer);
  }, [whole]);
  return (
    <div className="grid gap-3.5" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
      {clips.map((clip) =>
        whole ? (
          <ClipCard key={clip.id} clip={clip} actions={actions} picked={picked.has(clip.id)} onPick={onPick} />
        ) : (
          <div key={clip.id} className="h-56 truncate rounded-sm border border-line bg-sheet px-3 pt-[178px] font-semibold">
            {clip.name}
          </div>
        ),
      )}
    </div>
  );
}
