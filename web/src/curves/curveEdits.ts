import {
  type Channel,
  type ChannelTarget,
  channelKeys,
  curveValue,
  type Key,
  type LayerSettings,
  makePatch,
  PATCH_KINDS,
  type Parts,
  type Patch,
  partOf,
  patchKind,
  sameKeyMoment,
  type Work,
  withChannel,
  withKey,
} from "@stride/motion";
import { freshId, withPatch } from "../state/bench.ts";
import type { CurveSpec, CurveView } from "../worker/views.ts";

/** How far from a curve's first key the zeros stand, seconds. */
const LOCAL_SECONDS = 0.4;

/** The kind of patch that carries keys on curves. */
const CURVE_KIND = PATCH_KINDS.find((k) => k.curves);

type Mode = LayerSettings["mode"];

/** The selected patch, if it carries keys. */
export function layerOf(doc: Work, patchId: string | null): Patch | undefined {
  return doc.patches.find((p) => p.id === patchId && patchKind(p.kind)?.curves && !p.muted);
}

export function settingsOf(patch: Patch | undefined): Partial<LayerSettings> {
  return (patch?.settings ?? {}) as Partial<LayerSettings>;
}

/** The channel of a layer that a curve's keys belong to. */
export function targetOf(spec: CurveSpec, mode: Mode, parts: Parts): ChannelTarget {
  if (spec.kind === "measure") return { drives: "measure", measure: spec.measure };
  return { drives: mode === "override" ? "angle" : "turn", part: partOf(parts, spec.joint), axis: spec.axis };
}

/** Where a key of a curve is drawn, on a frame of the result: its own value where the layer takes over, on the result where it adds. */
export function keyHeight(key: Key, frame: number, mode: Mode, view: CurveView): number {
  return mode === "override" ? key.value : (view.result[Math.round(frame)] ?? key.value);
}

interface Put {
  readonly doc: Work;
  readonly patchId: string;
}

function newLayer(doc: Work, name: string, mode: Mode, id = freshId()): Put {
  const settings = { mode, channels: [], weightKeys: [], holds: [] };
  return { doc: { ...doc, patches: [...doc.patches, makePatch(CURVE_KIND?.kind ?? "", name, id, settings)] }, patchId: id };
}

function channelsOf(doc: Work, patchId: string): readonly Channel[] {
  return settingsOf(doc.patches.find((p) => p.id === patchId)).channels ?? [];
}

function replaceKeys(doc: Work, patchId: string, target: ChannelTarget, keys: readonly Key[]): Work {
  const settings = settingsOf(doc.patches.find((p) => p.id === patchId));
  return withPatch(doc, patchId, { settings: { ...settings, channels: withChannel(settings.channels ?? [], target, keys) } });
}

/** Where in time a key is set: the frame of the result, and the moment of what the layer receives that it shows. */
export interface KeyPlace {
  readonly frame: number;
  /** for the layer that is selected; a new one, on top, receives the result itself */
  readonly moment: number;
}

/**
 * A key so that the curve has `value` at a place: on the layer given, or on a new one that adds. Where the layer adds, the key takes what the
 * result lacks.
 */
export function setKey(doc: Work, patchId: string | null, spec: CurveSpec, view: CurveView, place: KeyPlace, value: number, parts: Parts, id?: string): Put {
  const layer = layerOf(doc, patchId);
  const put = layer ? { doc, patchId: layer.id } : newLayer(doc, "Curve keys", "additive", id);
  const moment = layer ? place.moment : place.frame / view.fps;
  const settings = settingsOf(put.doc.patches.find((p) => p.id === put.patchId));
  const mode = settings.mode ?? "additive";
  const target = targetOf(spec, mode, parts);
  const keys = channelKeys(settings.channels ?? [], target);
  const own = keys.find((k) => sameKeyMoment(k.at, moment));
  const stored = mode === "override" ? value : curveValue(keys, moment) + value - view.result[place.frame];
  const key: Key = { ...(own ?? { tangent: "smooth" }), at: moment, value: round(stored) };
  // The first key of a curve that adds stands between two of zero: alone it would move the whole clip.
  const last = (view.result.length - 1) / view.fps;
  const around: Key[] =
    mode === "additive" && keys.length === 0
      ? [-LOCAL_SECONDS, LOCAL_SECONDS].flatMap((by) => {
          const at = Math.round((moment + by) * view.fps) / view.fps;
          return at >= 0 && at <= last ? [{ at, value: 0, tangent: "flat" as const }] : [];
        })
      : [];
  return { doc: replaceKeys(put.doc, put.patchId, target, withKey([...keys, ...around], key)), patchId: put.patchId };
}

/** A key moved in time and value; `last` is where the motion ends that the layer receives, seconds. */
export function moveKey(doc: Work, patchId: string, target: ChannelTarget, at: number, seconds: number, by: number, last: number): Work {
  const keys = channelKeys(channelsOf(doc, patchId), target);
  const key = keys.find((k) => sameKeyMoment(k.at, at));
  if (!key) return doc;
  const moved = { ...key, at: Math.max(0, Math.min(last, at + seconds)), value: round(key.value + by) };
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

export function changeKey(doc: Work, patchId: string, target: ChannelTarget, at: number, part: Partial<Key> | null): Work {
  const keys = channelKeys(channelsOf(doc, patchId), target);
  const here = (k: Key) => sameKeyMoment(k.at, at);
  const next = part === null ? keys.filter((k) => !here(k)) : keys.map((k) => (here(k) ? { ...k, ...part } : k));
  return replaceKeys(doc, patchId, target, next);
}

/** Keys of zero at both ends of what a layer receives, for every channel of a layer that adds: nothing before or after them leaks. */
export function zeroEnds(doc: Work, patchId: string, last: number): Work {
  const settings = settingsOf(doc.patches.find((p) => p.id === patchId));
  let { channels = [] } = settings;
  for (const { target, keys } of channels) {
    const zero = (at: number): Key => ({ at, value: 0, tangent: "flat" });
    channels = withChannel(channels, target, withKey(withKey(keys, zero(0)), zero(last)));
  }
  return withPatch(doc, patchId, { settings: { ...settings, channels } });
}

/**
 * Keys that take a curve over on a stretch, written to the layer given when it takes over and has no keys of this curve elsewhere, else to a new
 * one. Keys and stretch (seconds) are in the result's time; `intoLayer` says where a moment of it is in the time that the layer receives.
 */
export function putStretch(
  doc: Work,
  patchId: string | null,
  spec: CurveSpec,
  stretch: { readonly start: number; readonly end: number },
  keys: readonly Key[],
  intoLayer: (moment: number) => number,
  parts: Parts,
  name: string,
): Put {
  const target = targetOf(spec, "override", parts);
  const layer = layerOf(doc, patchId);
  const [start, end] = [intoLayer(stretch.start), intoLayer(stretch.end)];
  const there = channelKeys(settingsOf(layer).channels ?? [], target);
  const apart = there.length > 0 && (there[there.length - 1].at < start || there[0].at > end);
  const own = layer && settingsOf(layer).mode === "override" && !apart;
  const put = own ? { doc, patchId: layer.id } : newLayer(doc, name, "override");
  const kept = own ? there.filter((k) => k.at < start || k.at > end) : [];
  const made = own ? keys.map((k) => ({ ...k, at: intoLayer(k.at) })) : keys;
  return {
    doc: replaceKeys(
      put.doc,
      put.patchId,
      target,
      [...kept, ...made].sort((a, b) => a.at - b.at),
    ),
    patchId: put.patchId,
  };
}

function round(v: number): number {
  return Math.round(v * 1e5) / 1e5;
}
