import { type Accent, type Patch, type RetimeSettings, stretchSpeeds } from "@stride/motion";
import clsx from "clsx";
import { ListPlus, Lock, LockOpen, Plus, X } from "lucide-react";
import { useEffect, useState } from "react";
import {
  beatsOf,
  dropBeat,
  evenBetween,
  fitTo,
  holdAt,
  lockBeat,
  moveBeat,
  removeBeat,
  setStretchLength,
  takeBeats,
  takeOutBefore,
  useBeats,
} from "../../state/beats.ts";
import { change, preview, useBench, withSetting } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import { askWorker } from "../../state/session.ts";
import { lastFrameOf } from "../../state/times.ts";
import { Button, IconButton } from "../../ui/Button.tsx";
import { NumberBox } from "../../ui/NumberBox.tsx";
import { SliderRow } from "../../ui/SliderRow.tsx";

/** Longest that a retime may be fitted to, frames. */
const LONGEST = 100_000;

/** Beats in a list with the stretches between them, and what is done to time around the playhead. */
export function RetimeFields({ patch }: { patch: Patch }) {
  const clocks = useBench((s) => s.clocks);
  const beats = beatsOf(patch);
  const { speed = 1 } = patch.settings as Partial<RetimeSettings>;
  const { fps } = clocks;
  const length = lastFrameOf(clocks, patch.id);
  const made = beats.length > 0 ? (beats[beats.length - 1].to + length / fps - beats[beats.length - 1].from) * fps : length / speed;
  return (
    <div className="border-t border-line py-2">
      {beats.length === 0 && (
        <SliderRow
          label="Speed"
          unit="%"
          value={speed * 100}
          min={10}
          max={400}
          step={1}
          onMove={(v) => preview((d) => withSetting(d, patch.id, "speed", v / 100))}
          onCommit={(v) => change(`Speed of ${patch.name}`, (d) => withSetting(d, patch.id, "speed", v / 100))}
        />
      )}
      <div className="grid grid-cols-2 gap-2 py-1">
        <NumberBox label="Length, frames" value={Math.round(made) + 1} min={2} max={LONGEST} onCommit={(v) => fitTo(patch, clocks, (v - 1) / fps)} />
        <NumberBox label="Length, s" value={made / fps} decimals={2} min={0.1} max={LONGEST / fps} onCommit={(v) => fitTo(patch, clocks, v)} />
      </div>
      <div className="flex flex-wrap gap-1.5 py-1">
        <Button className="h-7! flex-1" onClick={() => dropBeat(playhead.frame)} title="Drops a beat at the playhead (D)">
          <Plus size={14} /> Beat
        </Button>
        <Proposals patch={patch} />
      </div>
      {beats.length > 0 && <BeatList patch={patch} />}
      <AroundPlayhead patch={patch} />
    </div>
  );
}

/** Each beat with its frame, and the stretch behind it with its length and speed. */
function BeatList({ patch }: { patch: Patch }) {
  const beats = beatsOf(patch);
  const speeds = stretchSpeeds(beats);
  const picked = useBeats((s) => s.picked);
  const { fps } = useBench((s) => s.clocks);
  return (
    <table className="my-1 w-full text-xs" aria-label="Beats">
      <thead>
        <tr className="text-left text-ink-soft">
          <th className="font-normal">Beat</th>
          <th className="font-normal">at f</th>
          <th className="font-normal">lasts f</th>
          <th className="text-right font-normal">speed</th>
          <th>
            <span className="sr-only">Lock or remove</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {beats.map((beat, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a beat is its place in the order
          <tr key={i} className={clsx("border-t border-line/70", picked === i && "bg-cobalt-wash")} onPointerDown={() => useBeats.setState({ picked: i })}>
            <td className="figure py-0.5 pl-1">{i + 1}</td>
            <td className="w-14">
              <Figure
                label={`Beat ${i + 1}, frame`}
                value={beat.to * fps}
                disabled={beat.locked === true}
                onCommit={(v) => moveBeat(patch, i, v / fps, false, true)}
              />
            </td>
            <td className="w-14">
              {i < speeds.length && (
                <Figure
                  label={`Stretch behind beat ${i + 1}, frames`}
                  value={(beats[i + 1].to - beat.to) * fps}
                  onCommit={(v) => setStretchLength(patch, i, v / fps)}
                />
              )}
            </td>
            <td className="figure text-right">{i < speeds.length ? `${Math.round(speeds[i] * 100)} %` : ""}</td>
            <td className="whitespace-nowrap text-right">
              <IconButton label={beat.locked ? `Unlock beat ${i + 1}` : `Lock beat ${i + 1}`} className="size-5!" onClick={() => lockBeat(patch, i)}>
                {beat.locked ? <Lock size={11} /> : <LockOpen size={11} className="text-ink-soft" />}
              </IconButton>
              <IconButton label={`Remove beat ${i + 1}`} className="size-5!" onClick={() => removeBeat(patch, i)}>
                <X size={11} />
              </IconButton>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Figure({ label, value, disabled = false, onCommit }: { label: string; value: number; disabled?: boolean; onCommit: (value: number) => void }) {
  const shown = Math.round(value * 100) / 100;
  return (
    <input
      aria-label={label}
      type="number"
      disabled={disabled}
      key={shown}
      defaultValue={shown}
      className="figure w-12 [appearance:textfield] rounded-sm border border-transparent bg-transparent px-1 hover:border-line disabled:text-ink-soft [&::-webkit-inner-spin-button]:appearance-none"
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Enter") event.currentTarget.blur();
      }}
      onBlur={(event) => {
        const typed = Number(event.target.value);
        if (event.target.value.trim() !== "" && Number.isFinite(typed) && typed >= 0 && typed !== shown) onCommit(typed);
        else event.target.value = String(shown);
      }}
    />
  );
}

/** Moments on which beats would stand well, each with its reason; taken singly or all. */
function Proposals({ patch }: { patch: Patch }) {
  const clocks = useBench((s) => s.clocks);
  const [accents, setAccents] = useState<readonly Accent[] | null>(null);
  const beats = beatsOf(patch);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another patch receives another motion
  useEffect(() => setAccents(null), [patch.id]);
  const free = accents?.filter((a) => !beats.some((b) => Math.abs(b.from - a.at) < 0.5 / clocks.fps));
  return (
    <>
      <Button
        className="h-7! flex-1"
        aria-expanded={accents !== null}
        onClick={() => (accents ? setAccents(null) : void askWorker((w) => w.accents(patch.id)).then(setAccents, () => {}))}
      >
        <ListPlus size={14} /> Propose
      </Button>
      {free && (
        <div className="order-last w-full basis-full">
          <div className="flex items-center justify-between pt-1 text-xs text-ink-soft">
            <span>{free.length === 0 ? "Every contact and accent has its beat." : `${free.length} moments stand out`}</span>
            {free.length > 0 && (
              <button
                type="button"
                className="underline hover:text-ink"
                onClick={() =>
                  takeBeats(
                    patch,
                    clocks,
                    free.map((a) => a.at),
                  )
                }
              >
                Take all
              </button>
            )}
          </div>
          <ul className="max-h-40 overflow-y-auto text-xs" aria-label="Proposed beats">
            {free.map((accent) => (
              <li key={accent.at} className="flex items-center justify-between border-t border-line/70 py-0.5">
                <span className="min-w-0 truncate">
                  <span className="figure mr-2 text-ink-soft">f {Math.round(accent.at * clocks.fps)}</span>
                  {accent.reason}
                </span>
                <button
                  type="button"
                  className="rounded-sm px-1.5 hover:bg-line/50"
                  aria-label={`Take ${accent.reason}`}
                  onClick={() => takeBeats(patch, clocks, [accent.at])}
                >
                  Take
                </button>
              </li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}

/** What is done to time where the playhead stands: held longer, shortened before it, evened out. */
function AroundPlayhead({ patch }: { patch: Patch }) {
  const clocks = useBench((s) => s.clocks);
  const picked = useBeats((s) => s.picked);
  const [hold, setHold] = useState(10);
  const [frozen, setFrozen] = useState(false);
  const [out, setOut] = useState(3);
  const [over, setOver] = useState(12);
  const { fps } = clocks;
  const beats = beatsOf(patch);
  return (
    <fieldset className="mt-1 border-t border-line pt-1.5">
      <legend className="sr-only">At the playhead</legend>
      <p className="text-xs text-ink-soft">At the playhead</p>
      <div className="flex items-end gap-1.5 py-1">
        <div className="w-14">
          <NumberBox label="frames" value={hold} min={1} max={10_000} onCommit={setHold} />
        </div>
        <Button className="h-6.5! flex-1" onClick={() => holdAt(patch, clocks, playhead.frame, hold / fps, frozen)}>
          Hold longer
        </Button>
        <label className="flex items-center gap-1 text-xs" title="Frozen dead; otherwise the pose drifts on slowly">
          <input type="checkbox" className="accent-[var(--ink)]" checked={frozen} onChange={(event) => setFrozen(event.target.checked)} />
          frozen
        </label>
      </div>
      <div className="flex items-end gap-1.5 py-1">
        <div className="w-14">
          <NumberBox label="frames" value={out} min={1} max={10_000} onCommit={setOut} />
        </div>
        <div className="w-14">
          <NumberBox label="over" value={over} min={2} max={10_000} onCommit={setOver} />
        </div>
        <Button className="h-6.5! flex-1" onClick={() => takeOutBefore(patch, clocks, playhead.frame, out / fps, over / fps)}>
          Take out before
        </Button>
      </div>
      {beats.length > 2 && picked !== null && picked > 0 && picked < beats.length - 1 && (
        <Button
          className="h-6.5! w-full"
          onClick={() => evenBetween(patch, picked - 1, picked + 1)}
          title="Everything between the beats on both sides of the picked one at one speed"
        >
          Make even across beat {picked + 1}
        </Button>
      )}
    </fieldset>
  );
}
