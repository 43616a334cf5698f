import { jointLabels, type Patch, pointLabel } from "@stride/motion";
import { useEffect } from "react";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { lengthOfOther, useOtherClips } from "../../state/otherClips.ts";
import { playhead, usePlayheadFrame, usePlaying } from "../../state/playhead.ts";
import { moveLanding, settleSettings, useSettling } from "../../state/settling.ts";
import { useAsked } from "../../state/useAsked.ts";
import { ClipChooser } from "../../timedesk/ClipChooser.tsx";
import { Button } from "../../ui/Button.tsx";
import { NumberBox } from "../../ui/NumberBox.tsx";
import { KeptPoses } from "./KeptPoses.tsx";

/** Parts that are listed before the rest is counted. */
const MOST_LISTED = 8;

/** The pose to arrive in, the frame on which each leg lands, and what still differs at the playhead. */
export function SettleFields({ patch }: { patch: Patch }) {
  const settings = settleSettings(patch);
  const { fps } = useBench((s) => s.clocks);
  useOtherClips((s) => s.rows);
  const playing = usePlaying();
  const frame = usePlayheadFrame();
  const asked = playing ? -1 : frame;
  const view = useAsked((w) => w.settling(patch.id, Math.max(0, asked)), `${patch.id} ${asked}`);
  useEffect(() => useSettling.setState({ patchId: patch.id, view }), [patch.id, view]);
  useEffect(() => () => useSettling.setState({ patchId: null, view: null }), []);
  const { target } = settings;
  const clip = target && "clip" in target ? target.clip : null;
  const set = (part: Record<string, unknown>, label: string) =>
    change(`${label} of ${patch.name}`, (d) => withPatch(d, patch.id, { settings: { ...patch.settings, ...part } }));
  const last = clip ? Math.round((lengthOfOther(clip) ?? 0) * fps) : 0;
  return (
    <div className="border-t border-line py-2">
      {target && "pose" in target ? (
        <p className="flex items-center justify-between gap-2 py-1">
          <span>Into a kept pose</span>
          <Button className="h-6.5!" onClick={() => set({ target: null }, "Pose")}>
            Take a clip's
          </Button>
        </p>
      ) : (
        <>
          <ClipChooser label="Pose from" value={clip} onChoose={(ref) => set({ target: { clip: ref, at: 0 } }, "Pose")} />
          {clip && target && "at" in target && (
            <NumberBox
              label={`Its frame, 0–${last}, at this work's rate`}
              value={Math.round(target.at * fps)}
              min={0}
              max={last}
              onCommit={(v) => set({ target: { clip, at: v / fps } }, "Pose")}
            />
          )}
        </>
      )}
      {view && view.landings.length > 0 && (
        <table className="mt-2 w-full text-xs" aria-label="Landings">
          <thead>
            <tr className="text-left text-ink-soft">
              <th className="font-normal">{settings.direction === "into" ? "Lands for good" : "Leaves its place"}</th>
              <th className="text-right font-normal">frame</th>
            </tr>
          </thead>
          <tbody>
            {view.landings.map(({ point, land }) => (
              <tr key={point} className="border-t border-line/70">
                <td className="py-0.5">{legLabel(point)}</td>
                <td className="text-right">
                  <input
                    type="number"
                    aria-label={`${legLabel(point)} lands at frame`}
                    key={land}
                    defaultValue={land}
                    min={1}
                    className="figure w-16 rounded-sm bg-transparent text-right hover:bg-line/40"
                    onBlur={(event) => {
                      const typed = Number(event.target.value);
                      if (Number.isFinite(typed) && Math.round(typed) !== land) moveLanding(patch, view, point, Math.round(typed), fps, true);
                    }}
                    onKeyDown={(event) => {
                      event.stopPropagation();
                      if (event.key === "Enter") event.currentTarget.blur();
                    }}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="flex items-center justify-between gap-2 pt-1 text-xs text-ink-soft">
        {settings.landings ? "Set by hand; drag them on the Landings row too" : "As the footfall proposes; drag them on the Landings row"}
        {settings.landings && (
          <button type="button" className="shrink-0 underline hover:text-ink" onClick={() => set({ landings: null }, "Landings")}>
            As proposed
          </button>
        )}
      </p>
      {view?.target && <Differences patch={patch} at={frame} />}
      <details className="pt-1">
        <summary className="cursor-pointer text-ink-soft">A kept pose instead</summary>
        <KeptPoses kind="pose" label="Kept poses to settle in" verb="Settle in" onUse={(row) => set({ target: { pose: row.data } }, "Pose")} />
      </details>
    </div>
  );
}

/** "Left hind hoof", without the heel or toe that stands for the leg. */
function legLabel(point: string): string {
  return pointLabel(point.replace(/(left|right)Heel$/, "$1Foot"));
}

function Differences({ patch, at }: { patch: Patch; at: number }) {
  const view = useSettling((s) => (s.patchId === patch.id ? s.view : null));
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  if (!view || !opened || !body) return null;
  const labels = jointLabels(body, opened.skeleton.names);
  const { differences } = view;
  return (
    <section aria-label="What still differs" className="mt-2 border-t border-line pt-2">
      <p className="flex items-baseline justify-between gap-2">
        <span>
          Still differs at f {at}: <span className="figure font-semibold">{differences.length === 0 ? "nothing" : `${differences.length} parts`}</span>
        </span>
        <Button className="h-6! px-2! text-xs" onClick={() => playhead.seek(playhead.last)}>
          Go to the pose
        </Button>
      </p>
      <ul className="pt-1 text-xs">
        {differences.slice(0, MOST_LISTED).map(({ joint, degrees, cm }) => (
          <li key={joint} className="flex justify-between gap-2 border-t border-line/60 py-0.5">
            <button type="button" className="truncate text-left hover:underline" onClick={() => useBench.setState({ parts: [joint] })}>
              {labels[joint]}
            </button>
            <span className="figure shrink-0">
              {cm > 0.05 ? `${cm.toFixed(1)} cm, ` : ""}
              {degrees.toFixed(1)}°
            </span>
          </li>
        ))}
        {differences.length > MOST_LISTED && <li className="border-t border-line/60 py-0.5 text-ink-soft">and {differences.length - MOST_LISTED} more</li>}
      </ul>
    </section>
  );
}
