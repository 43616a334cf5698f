import {
  bridgeSamples,
  type ChannelTarget,
  curveValue,
  delaySamples,
  flattenSamples,
  type Key,
  type LayerSettings,
  makePatch,
  type Patch,
  scaleSamples,
  shiftSamples,
  smoothSamples,
  stretchSamples,
  thinSamples,
  type Work,
  withKey,
} from "@stride/motion";
import { freshId, withPatch } from "../state/bench.ts";
import { channelKeys, withChannel } from "../state/layerKeys.ts";
import type { CurveSpec, CurveView } from "../worker/views.ts";

/** What can be done to a stretch of a curve. `amount` has the unit that `unitOf` says. */
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

/** How far from a curve's first key the zeros stand, frames. */
const LOCAL_FRAMES = 12;

export function layerOf(doc: Work, patchId: string | null): Patch | undefined {
  return doc.patches.find((p) => p.id === patchId && p.kind === "layer" && !p.muted);
}

export function settingsOf(patch: Patch | undefined): Partial<LayerSettings> {
  return (patch?.settings ?? {}) as Partial<LayerSettings>;
}

/** The channel of a layer that a curve's keys belong to. */
export function targetOf(spec: CurveSpec, mode: LayerSettings["mode"], nameOf: (joint: number) => string): ChannelTarget {
  if (spec.kind === "measure") return { drives: "measure", measure: spec.measure };
  return { drives: mode === "override" ? "angle" : "turn", joint: nameOf(spec.joint), axis: spec.axis };
}

/** Where a key of a curve is drawn: its own value where the layer takes over, on the result where it adds. */
export function keyHeight(key: Key, mode: LayerSettings["mode"], view: CurveView): number {
  return mode === "override" ? key.value : (view.result[key.frame] ?? key.value);
}

interface Put {
  readonly doc: Work;
  readonly patchId: string;
}

function newLayer(doc: Work, name: string, mode: LayerSettings["mode"], id = freshId()): Put {
  const settings = { mode, channels: [], weightKeys: [], holds: [] };
  return { doc: { ...doc, patches: [...doc.patches, makePatch("layer", name, id, settings)] }, patchId: id };
}

function replaceKeys(doc: Work, patchId: string, target: ChannelTarget, keys: readonly Key[]): Work {
  const settings = settingsOf(doc.patches.find((p) => p.id === patchId));
  return withPatch(doc, patchId, { settings: { ...settings, channels: withChannel(settings.channels ?? [], target, keys) } });
}

/**
 * A key so that the curve has `value` at `frame`: on the layer given, or on a new one that adds. Where the layer adds, the key takes what the
 * result lacks.
 */
export function setKey(
  doc: Work,
  patchId: string | null,
  spec: CurveSpec,
  view: CurveView,
  frame: number,
  value: number,
  nameOf: (joint: number) => string,
  id?: string,
): Put {
  const layer = layerOf(doc, patchId);
  const at = layer ? { doc, patchId: layer.id } : newLayer(doc, "Curve keys", "additive", id);
  const settings = settingsOf(at.doc.patches.find((p) => p.id === at.patchId));
  const mode = settings.mode ?? "additive";
  const target = targetOf(spec, mode, nameOf);
  const keys = channelKeys(settings, target);
  const own = keys.find((k) => k.frame === frame);
  const stored = mode === "override" ? value : curveValue(keys, frame) + value - view.result[frame];
  const key: Key = { ...(own ?? { tangent: "smooth" }), frame, value: round(stored) };
  // The first key of a curve that adds stands between two of zero: alone it would move the whole clip.
  const around: Key[] =
    mode === "additive" && keys.length === 0
      ? [-1, 1].flatMap((side) => {
          const at = frame + side * LOCAL_FRAMES;
          return at >= 0 && at < view.result.length ? [{ frame: at, value: 0, tangent: "flat" as const }] : [];
        })
      : [];
  return { doc: replaceKeys(at.doc, at.patchId, target, withKey([...keys, ...around], key)), patchId: at.patchId };
}

/** A key moved in time and value. */
export function moveKey(doc: Work, patchId: string, target: ChannelTarget, frame: number, frames: number, by: number, last: number): Work {
  const keys = channelKeys(settingsOf(doc.patches.find((p) => p.id === patchId)), target);
  const key = keys.find((k) => k.frame === frame);
  if (!key) return doc;
  const moved = { ...key, frame: Math.max(0, Math.min(last, frame + frames)), value: round(key.value + by) };
  return replaceKeys(
    doc,
    patchId,
    target,
    withKey(
      keys.filter((k) => k !== key),
      moved,
    ),
  );
}

export function changeKey(doc: Work, patchId: string, target: ChannelTarget, frame: number, part: Partial<Key> | null): Work {
  const keys = channelKeys(settingsOf(doc.patches.find((p) => p.id === patchId)), target);
  const next = part === null ? keys.filter((k) => k.frame !== frame) : keys.map((k) => (k.frame === frame ? { ...k, ...part } : k));
  return replaceKeys(doc, patchId, target, next);
}

/** Keys of zero at both ends of the clip for every channel of a layer that adds: nothing before or after them leaks. */
export function zeroEnds(doc: Work, patchId: string, last: number): Work {
  const settings = settingsOf(doc.patches.find((p) => p.id === patchId));
  let { channels = [] } = settings;
  for (const { target, keys } of channels) {
    const zero = (frame: number): Key => ({ frame, value: 0, tangent: "flat" });
    channels = withChannel(channels, target, withKey(withKey(keys, zero(0)), zero(last)));
  }
  return withPatch(doc, patchId, { settings: { ...settings, channels } });
}

/**
 * An operation on a stretch of a curve, written as few keys that take the curve over there: on the layer given when it takes over and has
 * no keys of this curve elsewhere, else on a new one.
 */
export function applyToStretch(
  doc: Work,
  patchId: string | null,
  spec: CurveSpec,
  view: CurveView,
  stretch: { readonly start: number; readonly end: number },
  tool: StretchTool,
  amount: number,
  playhead: number,
  nameOf: (joint: number) => string,
  name: string,
): Put {
  const samples = view.result;
  const target = targetOf(spec, "override", nameOf);
  const layer = layerOf(doc, patchId);
  const keys = channelKeys(settingsOf(layer), target);
  const apart = keys.length > 0 && (keys[keys.length - 1].frame < stretch.start || keys[0].frame > stretch.end);
  const at = layer && settingsOf(layer).mode === "override" && !apart ? { doc, patchId: layer.id } : newLayer(doc, name, "override");
  const kept = at.patchId === layer?.id ? keys.filter((k) => k.frame < stretch.start || k.frame > stretch.end) : [];
  const made = compute(samples, stretch, tool, amount, playhead);
  const thinned = thinSamples(made, stretch.start, tool === "thin" ? Math.max(1e-3, amount) : KEPT_WITHIN).map((k) => ({
    ...k,
    value: round(k.value),
    slopeIn: round(k.slopeIn ?? 0),
    slopeOut: round(k.slopeOut ?? 0),
  }));
  const all = [...kept, ...thinned].sort((a, b) => a.frame - b.frame);
  return { doc: replaceKeys(at.doc, at.patchId, target, all), patchId: at.patchId };
}

function compute(
  samples: Float64Array,
  stretch: { readonly start: number; readonly end: number },
  tool: StretchTool,
  amount: number,
  playhead: number,
): Float64Array {
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

function round(v: number): number {
  return Math.round(v * 1e5) / 1e5;
}
