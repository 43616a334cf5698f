import { bridgeSamples, delaySamples, flattenSamples, type Key, scaleSamples, shiftSamples, smoothSamples, stretchSamples, thinSamples } from "@stride/motion";

/** What can be done to a stretch of a curve. `needs` says what the amount is. */
export const STRETCH_TOOLS = [
  { id: "flat", label: "make level at", needs: "value" },
  { id: "smooth", label: "smooth over ±", needs: "frames", start: 3 },
  { id: "bridge", label: "delete and bridge", needs: null },
  { id: "scaleAverage", label: "scale about average", needs: "percent", start: 50 },
  { id: "scaleDefault", label: "scale about zero", needs: "percent", start: 50 },
  { id: "scaleHere", label: "scale about playhead’s value", needs: "percent", start: 50 },
  { id: "shift", label: "shift by", needs: "difference", start: 0 },
  { id: "later", label: "shift in time by", needs: "frames", start: 2 },
  { id: "slower", label: "stretch in time about playhead", needs: "percent", start: 120 },
  { id: "thin", label: "thin to keys within", needs: "centimetres", start: 0.5 },
] as const;
export type StretchTool = (typeof STRETCH_TOOLS)[number]["id"];

/** Curves that an operation makes are kept as keys within this of what it computed, cm or degrees. */
const KEPT_WITHIN = 0.05;

/** An operation on a stretch (frames) of a curve's samples. */
export interface StretchRequest {
  readonly samples: Float64Array;
  readonly fps: number;
  readonly stretch: { readonly start: number; readonly end: number };
  readonly tool: StretchTool;
  readonly amount: number;
  /** frame */
  readonly playhead: number;
}

/** The few keys that the operation comes to, at moments of the samples' own clock. Slow on long stretches: not for the page's main thread. */
export function stretchKeys({ samples, fps, stretch, tool, amount, playhead }: StretchRequest): Key[] {
  const made = compute(samples, stretch, tool, amount, playhead);
  const round = (v: number) => Math.round(v * 1e5) / 1e5;
  return thinSamples(made, fps, stretch.start, tool === "thin" ? Math.max(1e-3, amount) : KEPT_WITHIN).map((k) => ({
    ...k,
    value: round(k.value),
    slopeIn: round(k.slopeIn ?? 0),
    slopeOut: round(k.slopeOut ?? 0),
  }));
}

function compute(samples: Float64Array, stretch: StretchRequest["stretch"], tool: StretchTool, amount: number, playhead: number): Float64Array {
  switch (tool) {
    case "flat":
      return flattenSamples(samples, stretch, amount, Math.min(4, Math.floor((stretch.end - stretch.start) / 4)));
    case "smooth":
      return smoothSamples(samples, stretch, Math.max(1, Math.round(amount)));
    case "bridge":
      return bridgeSamples(samples, stretch);
    case "scaleAverage":
      return scaleSamples(samples, stretch, amount / 100, "average");
    case "scaleDefault":
      return scaleSamples(samples, stretch, amount / 100, "default");
    case "scaleHere":
      return scaleSamples(samples, stretch, amount / 100, samples[Math.min(playhead, samples.length - 1)]);
    case "shift":
      return shiftSamples(samples, stretch, amount);
    case "later":
      return delaySamples(samples, stretch, Math.round(amount));
    case "slower":
      return stretchSamples(samples, stretch, Math.max(0.1, amount / 100), playhead);
    case "thin":
      return samples.slice(stretch.start, stretch.end + 1);
  }
}
