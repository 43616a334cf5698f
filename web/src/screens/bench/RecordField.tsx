import { CircleDot, Square } from "lucide-react";
import { recordPress, useRecording } from "../../state/record.ts";
import { Button } from "../../ui/Button.tsx";

/** Records what plays, from one press to the next, as a new clip. */
export function RecordField() {
  const { from, busy, said } = useRecording();
  return (
    <div className="mt-2 border-t border-line pt-2">
      <Button className="w-full" disabled={busy} aria-pressed={from !== null} onClick={() => void recordPress()} title="From this press to the next (R)">
        {from === null ? <CircleDot size={14} /> : <Square size={13} fill="currentColor" />}
        {busy ? "Writing the clip…" : from === null ? "Record as a new clip" : `Recording from frame ${from} — press to end`}
      </Button>
      {said && (
        <p role="status" className="pt-1 text-xs text-ink-soft">
          {said}
        </p>
      )}
    </div>
  );
}
