import { type Clocks, type JoinSettings, makePatch, type Patch, patchKind, type SourceRef, type Work } from "@stride/motion";
import { withPatch } from "./bench.ts";

/** A clip in the row of those that are joined: the work's own first. Frames of what the last join makes. */
export interface StripPiece {
  /** null: the work's own clip */
  readonly patch: Patch | null;
  readonly name: string;
  readonly start: number;
  readonly end: number;
  /** frames that it shares with the one before it */
  readonly overlap: number;
}

export function joinSettings(patch: Patch): JoinSettings {
  return { ...patchKind("join")?.defaults, ...patch.settings } as JoinSettings;
}

/** The joins of a work that take part and have a clip, in order. */
export function joinsOf(doc: Work): Patch[] {
  return doc.patches.filter((p) => p.kind === "join" && !p.muted && joinSettings(p).clip !== null);
}

/**
 * The row of clips that a work's joins make, as frames of the motion that the last of them makes. `lengthOf` tells how long a clip is as it came, seconds.
 */
export function stripOf(doc: Work, clocks: Clocks, ownName: string, lengthOf: (ref: SourceRef) => number | undefined): StripPiece[] {
  const joins = joinsOf(doc);
  if (joins.length === 0) return [];
  const { fps } = clocks;
  const frames = (s: number) => Math.round(s * fps);
  const first = clocks.receives[joins[0].id] ?? 0;
  const received = first > 0 ? clocks.warps[first - 1]?.seconds : clocks.seconds;
  const out: StripPiece[] = [{ patch: null, name: ownName, start: 0, end: frames(received ?? clocks.seconds), overlap: 0 }];
  for (const patch of joins) {
    const { clip, from, to, how, overlap, leave } = joinSettings(patch);
    if (!clip) continue;
    const before = out[out.length - 1];
    const left = leave === null ? before.end : Math.min(before.end, frames(leave));
    out[out.length - 1] = { ...before, end: left };
    const whole = lengthOf(clip) ?? 0;
    const length = Math.max(0, frames(to ?? whole) - frames(from ?? 0));
    const over = how === "crossfade" ? frames(overlap) : 0;
    out.push({ patch, name: clip.name, start: left - over, end: left - over + length, overlap: over });
  }
  return out;
}

/** A join that stands at another place in the row: the others keep their order. Moments of the ones that change place are left to their ends. */
export function withMovedPiece(doc: Work, id: string, to: number): Work {
  const joins = joinsOf(doc);
  const from = joins.findIndex((p) => p.id === id);
  if (from < 0 || to < 0 || to >= joins.length || to === from) return doc;
  const order = [...joins];
  const [moved] = order.splice(from, 1);
  order.splice(to, 0, moved);
  // Where one was left off belonged to what stood before it.
  const fresh = order.map((p, i) => (p === joins[i] ? p : { ...p, settings: { ...p.settings, leave: null } }));
  let next = 0;
  return { ...doc, patches: doc.patches.map((p) => (joins.includes(p) ? fresh[next++] : p)) };
}

/** A clip put behind a piece of the row (null: behind the work's own). */
export function withInserted(doc: Work, behind: string | null, ref: SourceRef, id: string): Work {
  const patch = makePatch("join", "Join", id, { clip: ref });
  const joins = joinsOf(doc);
  const at = behind === null ? doc.patches.indexOf(joins[0]) : doc.patches.findIndex((p) => p.id === behind) + 1;
  const place = at < 0 ? doc.patches.length : at;
  return { ...doc, patches: [...doc.patches.slice(0, place), patch, ...doc.patches.slice(place)] };
}

/** A piece trimmed at its start or its end by so many frames, or its overlap with the one before it changed. */
export function withTrimmed(doc: Work, patch: Patch, what: "start" | "end" | "overlap", frames: number, fps: number, whole: number): Work {
  const { from, to, overlap } = joinSettings(patch);
  const snapped = (s: number) => Math.round(s * fps) / fps;
  const [a, b] = [from ?? 0, to ?? whole];
  const least = 2 / fps;
  const part: Partial<JoinSettings> =
    what === "start"
      ? { from: snapped(Math.max(0, Math.min(b - Math.max(overlap, least), a + frames / fps))) }
      : what === "end"
        ? { to: snapped(Math.max(a + Math.max(overlap, least), Math.min(whole, b + frames / fps))) }
        : { overlap: snapped(Math.max(0, Math.min(b - a, overlap + frames / fps))) };
  return withPatch(doc, patch.id, { settings: { ...patch.settings, ...part } });
}
