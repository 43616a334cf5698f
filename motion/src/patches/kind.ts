import type { z } from "zod";
import type { Motion } from "../motion.ts";

/** What a patch's apply is told about its place: its weight a frame (range, ramps and strength together) and its mask. */
export interface PatchContext {
  readonly name: string;
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
}

/** How a person sets one field of a patch's settings. Everything the interface needs to draw it. */
export interface FieldHint {
  readonly label: string;
  readonly unit?: string;
  readonly step?: number;
  /** shown value = stored value × this */
  readonly factor?: number;
  readonly help?: string;
  /** shown only while another setting has this value */
  readonly onlyWhen?: { readonly setting: string; readonly is: unknown };
}

/** A kind of patch: its own file says everything that settings panel, lane, palette, recipe and documentation need. */
export interface PatchKind<S extends Record<string, unknown>> {
  readonly kind: string;
  readonly title: string;
  /** one line for menus and documentation */
  readonly description: string;
  readonly schema: z.ZodType<S>;
  readonly defaults: S;
  /** settings that the panel draws by itself; kinds with a panel of their own leave theirs out */
  readonly fields: Readonly<Partial<Record<keyof S & string, FieldHint>>>;
  /** does it take a body mask? */
  readonly masked: boolean;
  /** is each frame of the result made from that frame of the input alone? */
  readonly local: boolean;
  apply(motion: Motion, settings: S, context: PatchContext): Motion;
}

export function definePatch<S extends Record<string, unknown>>(kind: PatchKind<S>): PatchKind<S> {
  return kind;
}
