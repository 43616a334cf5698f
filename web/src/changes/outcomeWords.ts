import type { Outcome } from "@stride/motion";

/** What a change did to a work's result, in few words: what moved, and what that did to what is wrong. */
export function outcomeWords({ before, after, changedFrames, movedCm }: Outcome): string {
  const said: string[] = [];
  if (changedFrames === 0) said.push("nothing moved");
  else if (changedFrames !== null) said.push(`${changedFrames} of ${after.frames} frames changed, ${(movedCm ?? 0).toFixed(1)} cm on average`);
  else if (before.frames !== after.frames) said.push(`${lengthWords(before)} → ${lengthWords(after)}`);
  if (before.joints !== after.joints) said.push(`${before.joints} → ${after.joints} joints`);
  if (before.plan !== after.plan) said.push(`${legs(before.plan)} → ${legs(after.plan)}`);
  said.push(
    before.findings === after.findings
      ? `${after.findings} ${after.findings === 1 ? "finding" : "findings"}`
      : `findings ${before.findings} → ${after.findings}`,
  );
  const slide = [before, after].map(({ totals }) => totals.slideWorstCm.toFixed(1));
  if (slide[0] !== slide[1]) said.push(`slide ${slide[0]} → ${slide[1]} cm`);
  return said.join(" · ");
}

function lengthWords({ frames, fps }: Outcome["before"]): string {
  return `${frames} f (${((frames - 1) / fps).toFixed(2)} s)`;
}

function legs(plan: Outcome["before"]["plan"]): string {
  return plan === "biped" ? "two legs" : "four legs";
}

/** A range in frames of a clip. */
export function rangeWords(range: { readonly start: number; readonly end: number } | null, fps: number): string {
  return range ? `${Math.round(range.start * fps)}–${Math.round(range.end * fps)} f` : "whole clip";
}
