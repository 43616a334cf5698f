import type { z } from "zod";
import type { PartRef } from "../character/parts.ts";
import type { Side } from "../character/roles.ts";
import type { FindingKind } from "../checkup/findingKinds.ts";
import type { FrameWindow } from "../clip/changes.ts";
import type { Patch } from "../documents/patch.ts";
import type { Loose } from "../documents/steps.ts";
import type { Motion } from "../motion.ts";
import type { Edit, Hold } from "../pose/edits.ts";
import type { EditView } from "../pose/editView.ts";
import type { SourceRef } from "../sources.ts";
import type { TimeWarp } from "../time/warp.ts";

/** What a patch's apply is told about its place: its weight a frame (range, ramps and strength together) and its parts. */
export interface PatchContext {
  /** the patch */
  readonly id: string;
  readonly name: string;
  readonly fps: number;
  /** first and last frame of the range, inclusive, within the motion */
  readonly start: number;
  readonly end: number;
  /** does the range cover the whole motion? */
  readonly whole: boolean;
  /** number, in the patch's own counting, of the first frame of the motion given: not 0 when only a piece is evaluated */
  readonly offset: number;
  /** frames of the whole motion */
  readonly frameCount: number;
  /** [frame], 0..1 */
  readonly weights: Float64Array;
  /** joints the patch may touch; null for all */
  readonly joints: ReadonlySet<number> | null;
  /** what the patch received: for kinds about time before it went through their map */
  readonly received: Motion;
  /** the whole motion that a piece was cut from, as it was when last evaluated; the motion itself when it is whole */
  readonly known: Motion;
  /** To be called now and then in long work: throws where the result is no longer wanted. */
  pause(): void;
  /** Tells the person something beside the motion. */
  note(field: string, message: string): void;
  /** The joint that a reference in the settings means. Throws PatchError where the body has none. */
  part(ref: PartRef, field: string): number;
  /** Another clip as a motion of its own body; `bare` without its contacts, which is quicker. Throws MissingSource where it is not here. */
  other(ref: SourceRef, field: string, bare?: boolean): Motion;
}

/** How many seconds before and after a moment the result there depends on; or all of them. */
export type Sees = "whole" | { readonly before: number; readonly after: number };

/** A moment alone. */
export const THE_MOMENT: Sees = { before: 0, after: 0 };

/** How a person sets one field of a patch's settings. Everything the interface needs to draw it. */
export interface FieldHint {
  readonly label: string;
  readonly unit?: string;
  readonly step?: number;
  /** shown value = stored value × this */
  readonly factor?: number;
  /** the field holds seconds, and is shown in frames of the motion that the patch receives */
  readonly inFrames?: boolean;
  /** what the values of a choice are called, where not by themselves */
  readonly choices?: Readonly<Record<string, string>>;
  readonly help?: string;
  /** of a setting that may be left empty: what it then is */
  readonly unset?: string;
  /** of keys: the least and the most value, and the one where there is no key (default 0, 1, 0) */
  readonly ends?: readonly [number, number];
  readonly unkeyed?: number;
  /** of a hand shape: whose hand */
  readonly side?: Side;
  /** shown only while another setting has this value, or any but one */
  readonly onlyWhen?: { readonly setting: string; readonly is: unknown } | { readonly setting: string; readonly isNot: unknown };
  /** shown only while the patch is limited to a stretch */
  readonly onlyWithRange?: boolean;
}

/** What a kind about time is told when it is asked for its map. */
export interface WarpContext {
  /** the patch */
  readonly id: string;
  readonly name: string;
  /** how long the motion is that it receives */
  readonly seconds: number;
  readonly fps: number;
  /** is the patch limited to some parts? */
  readonly limited: boolean;
  /** what it receives; null where only lengths are asked for, before anything is evaluated */
  readonly received: Motion | null;
  /** how long another clip is, seconds; undefined where it is not here */
  lengthOf(ref: SourceRef): number | undefined;
}

/** The order of the work, as menus group kinds by it. */
export const PATCH_GROUPS = ["time", "ground", "correct", "combine", "hands", "deliver"] as const;
export type PatchGroup = (typeof PATCH_GROUPS)[number];

/** Where in a stack a kind wants to stand when it is added: at the bottom, or on top of what is there. */
export type StackPlace = "bottom" | "top";

/** What a kind that can be posed into says of itself. Settings are its own, as they were parsed. */
export interface Posing<S> {
  /** does an edit at a moment go into this patch, given its weight there? */
  takes(weight: number): boolean;
  /** is each edit a key at its moment (rather than the same over the patch's window)? */
  readonly keyed: boolean;
  /** Settings with an edit written in, so that at the moment the pose is as asked. `weight` is the patch's there; `isNew` when it was made for this. */
  write(settings: S, edit: Edit, at: { readonly moment: number; readonly weight: number; readonly isNew: boolean; readonly view: EditView }): S;
  /** edits in the order in which they were made, where they can be listed and taken back one by one */
  edits?(settings: S): { readonly list: readonly Edit[]; without(index: number): S };
  /** moments at which the person posed, seconds */
  moments(settings: S): number[];
}

/** What keeps one file of a kind together: everything that evaluation, settings panel, lane, palette, recipe and documentation need. */
export interface PatchKind<S extends Record<string, unknown>> {
  readonly kind: string;
  readonly title: string;
  /** one line for menus and documentation */
  readonly description: string;
  readonly schema: z.ZodType<S>;
  readonly defaults: S;
  /** settings that the panel draws by itself; kinds with a panel of their own leave theirs out */
  readonly fields: Readonly<Partial<Record<keyof S & string, FieldHint>>>;
  /** does it take a choice of parts? */
  readonly masked: boolean;
  /** does it take a range, ramps and a strength? (default yes) */
  readonly ranged?: boolean;
  /** is it there to change the pose, so that how much it moves it is no fault? (default no) */
  readonly poses?: boolean;
  /** for kinds about time: does it make anything but their map's moments when it is not limited to parts? (default no) */
  readonly makes?: boolean;
  /** is one over the whole motion all that it takes? Then a finding that it treats is not offered again. (default no) */
  readonly once?: boolean;
  /** where it wants to stand (default: on top) */
  readonly place?: StackPlace;
  /** the group of the order of the work in which menus list it (default: correct) */
  readonly group?: PatchGroup;
  /** findings it treats, and the patch it proposes for one; `motion` is the one in which it was found */
  readonly treats?: { readonly kinds: readonly FindingKind[]; propose(finding: TreatedFinding, motion: Motion): Partial<Patch> };
  /** How one begins at a moment (seconds) that a person adds it at, in a motion of that rate. */
  begin?(moment: number, fps: number): Partial<Patch>;
  /** how poses are written into it, if they are */
  readonly posing?: Posing<S>;
  /** does it keep holds under "holds"? They are edited in the pose panel. */
  readonly holds?: S extends { readonly holds: readonly Hold[] } ? true : never;
  /** does it carry keys on curves? */
  readonly curves?: boolean;
  /** Settings of version 1 of the documents (frames of a clip at `fps`, joint names) as settings of now. */
  fromFrames?(settings: Loose, fps: number): Loose;
  /** other clips that it draws on */
  inputs?(settings: S): readonly SourceRef[];
  sees(settings: S, fps: number): Sees;
  /** Settings whose moments were moved because time beneath them changed, with what else has to go along (moments of the motion that it makes). */
  afterMove?(was: S, is: S): S;
  /** For kinds about time: which moment beneath each moment of the result shows. Throws PatchError. */
  warp?(settings: S, context: WarpContext): TimeWarp;
  /**
   * For kinds that see the whole of their input but may know already what they read there: what `apply` makes on some frames (inclusive), as a motion
   * of those frames alone; null where the whole has to be read anew.
   */
  applyWindow?(motion: Motion, settings: S, context: PatchContext, window: FrameWindow): Motion | null;
  /** What it makes of a motion. Kinds about time need none: clip, contacts and plants go through their warp. */
  apply?(motion: Motion, settings: S, context: PatchContext): Motion;
}

/** What a kind needs to know of a finding to propose a patch. Frames are inclusive. */
export interface TreatedFinding {
  readonly kind: FindingKind;
  readonly joint: number;
  readonly startFrame: number;
  readonly endFrame: number;
  readonly value: number;
}

export function definePatch<S extends Record<string, unknown>>(kind: PatchKind<S>): PatchKind<S> {
  return kind;
}
