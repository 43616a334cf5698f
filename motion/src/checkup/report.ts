import type { Role } from "../character/roles.ts";
import type { Motion } from "../motion.ts";
import { type Finding, findingsOf } from "./findings.ts";
import { type Measures, measure, type Totals, totalsOf } from "./measures.ts";

/** The checkup as a file or a terminal shows it. Frames count from 0, ends inclusive. */
export interface CheckReport {
  readonly clip: { readonly name: string; readonly fps: number; readonly frames: number; readonly seconds: number; readonly joints: number };
  readonly bodyMap: Readonly<Partial<Record<Role, string>>>;
  readonly floorHeightM: number;
  readonly unitScaleToMetres: number;
  readonly contacts: readonly {
    readonly part: string;
    readonly joint: string;
    readonly startFrame: number;
    readonly endFrame: number;
    readonly slideCm: number;
    readonly heightCm: number;
  }[];
  readonly findings: readonly Pick<Finding, "kind" | "part" | "startFrame" | "endFrame" | "value" | "unit" | "message">[];
  readonly totals: Totals;
}

export function checkReport(motion: Motion, unitScale: number, measures: Measures = measure(motion)): CheckReport {
  const { clip } = motion;
  const { skeleton, body } = motion.character;
  const bodyMap: Partial<Record<Role, string>> = {};
  for (const [role, joint] of Object.entries(body.roles) as [Role, number][]) bodyMap[role] = skeleton.names[joint];
  return {
    clip: { name: clip.name, fps: clip.fps, frames: clip.frameCount, seconds: clip.frameCount / clip.fps, joints: clip.jointCount },
    bodyMap,
    floorHeightM: motion.ground.height,
    unitScaleToMetres: unitScale,
    contacts: measures.spans.map(({ contact, slideCm, heightCm }) => ({
      part: contact.point,
      joint: skeleton.names[contact.joint],
      startFrame: contact.start,
      endFrame: contact.end,
      slideCm,
      heightCm,
    })),
    findings: findingsOf(motion, measures).map(({ kind, part, startFrame, endFrame, value, unit, message }) => ({
      kind,
      part,
      startFrame,
      endFrame,
      value,
      unit,
      message,
    })),
    totals: totalsOf(measures),
  };
}
