import {
  type Beat,
  type Between,
  beatWarp,
  type Clocks,
  inputAt,
  madeEven,
  makePatch,
  outputBeyond,
  type Patch,
  type RetimeSettings,
  receivedSeconds,
  type Work,
  withBeat,
  withHold,
  withMovedBeat,
  withStretchLength,
  withTakenOut,
} from "@stride/motion";
import { create } from "zustand";
import { type BenchState, change, freshId, preview, shownDoc, useBench, withSetting } from "./bench.ts";
import { momentIn, momentMade } from "./times.ts";

/** Beats of the retime that is edited, and the one that is picked. */
export const useBeats = create<{ readonly picked: number | null }>(() => ({ picked: null }));

/** The retime whose beats stand on the ruler: the patch that is picked if it is one, else the last one of all parts that takes part. */
export function retimeOf(s: Pick<BenchState, "draft" | "doc" | "patchId">): Patch | null {
  const { patches } = shownDoc(s as BenchState);
  const picked = patches.find((p) => p.id === s.patchId && p.kind === "retime");
  return picked ?? patches.findLast((p) => p.kind === "retime" && !p.muted && p.parts === null) ?? null;
}

export function beatsOf(patch: Patch): readonly Beat[] {
  return (patch.settings as Partial<RetimeSettings>).beats ?? [];
}

/** What the result shows at a moment that a retime makes, as its beats are now: a moment of what it receives. */
export function receivedAt(patch: Patch, clocks: Clocks, made: number): number {
  const { between, speed } = { between: "eased" as Between, speed: 1, ...(patch.settings as Partial<RetimeSettings>) };
  return inputAt(beatWarp(beatsOf(patch), between, speed, receivedSeconds(clocks, patch.id)), made);
}

/** Where a retime shows a moment of what it receives, as its beats are now. */
function shownAt(patch: Patch, clocks: Clocks): (received: number) => number {
  const { between, speed } = { between: "eased" as Between, speed: 1, ...(patch.settings as Partial<RetimeSettings>) };
  const warp = beatWarp(beatsOf(patch), between, speed, receivedSeconds(clocks, patch.id));
  return (received) => outputBeyond(warp, received, received);
}

/** The work with a beat where the playhead is: in the retime that is edited, or in a new one that marks start and end as well. */
export function withDroppedBeat(
  doc: Work,
  s: Pick<BenchState, "clocks" | "patchId" | "draft" | "doc">,
  frame: number,
): { readonly doc: Work; readonly patchId: string; readonly picked: number } {
  const patch = retimeOf({ ...s, doc, draft: null });
  if (patch) {
    const made = momentMade(s.clocks, patch.id, frame);
    const beats = withBeat(beatsOf(patch), receivedAt(patch, s.clocks, made), made);
    return { doc: withSetting(doc, patch.id, "beats", beats), patchId: patch.id, picked: nearest(beats, made) };
  }
  const made = momentIn(s.clocks, null, frame);
  const end = s.clocks.warps.at(-1)?.seconds ?? s.clocks.seconds;
  const fresh = makePatch("retime", "Retime", freshId(), {
    beats: withBeat(
      [
        { from: 0, to: 0, locked: true },
        { from: end, to: end },
      ],
      made,
      made,
    ),
  });
  return { doc: { ...doc, patches: [...doc.patches, fresh] }, patchId: fresh.id, picked: nearest(beatsOf(fresh), made) };
}

function nearest(beats: readonly Beat[], to: number): number {
  return beats.reduce((best, b, i) => (Math.abs(b.to - to) < Math.abs(beats[best].to - to) ? i : best), 0);
}

/** Drops a beat at the playhead, while playing or not. */
export function dropBeat(frame: number): void {
  const s = useBench.getState();
  const made = withDroppedBeat(s.doc, s, frame);
  change(`Beat at frame ${frame}`, () => made.doc);
  useBench.setState({ patchId: made.patchId });
  useBeats.setState({ picked: made.picked });
}

function setBeats(patch: Patch, label: string, beats: readonly Beat[]): void {
  change(label, (d) => withSetting(d, patch.id, "beats", beats));
}

export function moveBeat(patch: Patch, index: number, to: number, along: boolean, done: boolean): void {
  const beats = withMovedBeat(beatsOf(useBench.getState().doc.patches.find((p) => p.id === patch.id) ?? patch), index, to, along);
  if (done) setBeats(patch, "Move beat", beats);
  else preview((d) => withSetting(d, patch.id, "beats", beats));
}

export function removeBeat(patch: Patch, index: number): void {
  setBeats(
    patch,
    "Remove beat",
    beatsOf(patch).filter((_, i) => i !== index),
  );
  useBeats.setState({ picked: null });
}

export function lockBeat(patch: Patch, index: number): void {
  const beats = beatsOf(patch).map((b, i): Beat => (i !== index ? b : b.locked ? { from: b.from, to: b.to } : { ...b, locked: true }));
  setBeats(patch, beats[index].locked ? "Lock beat" : "Unlock beat", beats);
}

/** Takes moments of what a retime receives as beats, each where it is shown now. */
export function takeBeats(patch: Patch, clocks: Clocks, moments: readonly number[]): void {
  const end = receivedSeconds(clocks, patch.id);
  let beats: Beat[] = beatsOf(patch).length > 0 ? [...beatsOf(patch)] : [{ from: 0, to: 0, locked: true }];
  const shown = shownAt({ ...patch, settings: { ...patch.settings, beats } }, clocks);
  for (const from of [...moments, ...(beatsOf(patch).length > 0 ? [] : [end])]) beats = withBeat(beats, from, shown(from));
  setBeats(patch, moments.length === 1 ? "Take proposed beat" : `Take ${moments.length} proposed beats`, beats);
}

/** Holds what the result shows at a frame for so many seconds longer. */
export function holdAt(patch: Patch, clocks: Clocks, frame: number, seconds: number, frozen: boolean): void {
  const from = receivedAt(patch, clocks, momentMade(clocks, patch.id, frame));
  const length = receivedSeconds(clocks, patch.id);
  setBeats(patch, `Hold at frame ${frame}`, withHold(bounded(patch, clocks), from, seconds, frozen, length, shownAt(patch, clocks)));
}

/** Takes so many seconds out of the stretch before a frame. */
export function takeOutBefore(patch: Patch, clocks: Clocks, frame: number, seconds: number, over: number): void {
  const made = momentMade(clocks, patch.id, frame);
  const at = (m: number) => receivedAt(patch, clocks, m);
  setBeats(patch, `Take frames out before frame ${frame}`, withTakenOut(bounded(patch, clocks), at(made), made, seconds, over, at));
}

/** The whole brought to so many seconds: by its speed, or with beats by all of them in proportion. */
export function fitTo(patch: Patch, clocks: Clocks, seconds: number): void {
  const length = receivedSeconds(clocks, patch.id);
  const beats = beatsOf(patch);
  if (beats.length === 0) {
    change("Fit to length", (d) => withSetting(d, patch.id, "speed", length / seconds));
    return;
  }
  const now = beatWarp(beats, "even", 1, length).seconds;
  setBeats(
    patch,
    "Fit to length",
    bounded(patch, clocks).map((b) => ({ ...b, to: (b.to * seconds) / now })),
  );
}

/** A retime's beats, with start and end marked where there are none yet, so that what is behind an edit keeps its speed. */
function bounded(patch: Patch, clocks: Clocks): Beat[] {
  const beats = beatsOf(patch);
  if (beats.length > 0) return [...beats];
  const length = receivedSeconds(clocks, patch.id);
  const speed = (patch.settings as Partial<RetimeSettings>).speed ?? 1;
  return [
    { from: 0, to: 0, locked: true },
    { from: length, to: length / speed },
  ];
}

/** The stretch behind a beat brought to so many seconds; later beats go along. */
export function setStretchLength(patch: Patch, index: number, seconds: number): void {
  setBeats(patch, "Length of stretch", withStretchLength(beatsOf(patch), index, seconds));
}

/** Everything between two beats at one speed. */
export function evenBetween(patch: Patch, first: number, last: number): void {
  setBeats(patch, "Make stretch even", madeEven(beatsOf(patch), first, last));
  useBeats.setState({ picked: null });
}
