import { createHash } from "node:crypto";
import { seeded } from "@stride/demo";
import type { ClipStore } from "../store/clips.ts";
import type { Db } from "../store/database.ts";
import type { ChronoPicture, ClipSummary } from "../summary.ts";

const CHARACTERS = ["Ina", "Osk", "Pim"] as const;
const KINDS = ["walk", "jog", "idle", "turn", "reach", "fall"] as const;
const FAULTS = [
  ["slide", "Right toe slides"],
  ["travel", "Travel too fast"],
  ["jitter", "Left hand trembles"],
] as const;
/** Size of the made-up files, where none is said. */
const BYTES = 8_000;

export interface ManyClipsOptions {
  /** size of each file */
  readonly bytes?: number;
  /** clips whose pictures and tags are taken in turns, rather than made-up ones */
  readonly like?: readonly { readonly picture: ChronoPicture; readonly tags: readonly string[] }[];
}

/** Fills a library with made-up clips of all lengths and faults: always the same ones. Their files cannot be read as motion; everything that lists tell of them is there. */
export function manyClips(db: Db, clips: ClipStore, count: number, { bytes: size = BYTES, like }: ManyClipsOptions = {}): void {
  const random = seeded(77);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const picture: ChronoPicture = {
    poses: Array.from({ length: 25 }, (_, i) => [
      { side: "middle" as const, width: 0.17, points: [i / 10, 0.9, i / 10, 1.5] },
      { side: "left" as const, width: 0.1, points: [i / 10, 0.9, i / 10 + 0.1, 0.05] },
      { side: "right" as const, width: 0.1, points: [i / 10, 0.9, i / 10 - 0.1, 0.05] },
    ]),
    prints: [],
    width: 2.5,
    height: 1.6,
  };
  db.transaction(() => {
    for (let i = 0; i < count; i++) {
      const kind = pick(KINDS);
      const fault = random() < 0.6 ? pick(FAULTS) : null;
      const value = Math.round(random() * 120) / 10;
      const summary: ClipSummary = {
        fps: pick([24, 30, 60, 120]),
        frames: 40 + Math.floor(random() * 3000),
        joints: pick([24, 38, 52]),
        plan: "biped",
        unitScale: 0.01,
        upAxis: "y",
        warnings: [],
        slideWorstCm: fault ? value : 0,
        findings: fault ? 1 + Math.floor(random() * 20) : 0,
        worst: fault && { kind: fault[0], title: fault[1], value, unit: "cm" },
        wrong: fault ? [{ kind: fault[0], title: fault[1], count: 1 }] : [],
      };
      const model = like?.[i % like.length];
      const bytes = Buffer.alloc(size, `clip ${i} `);
      const name = model
        ? `Harbour ${model.tags.at(-1)} ${String(i).padStart(5, "0")}`
        : `Harbour ${kind === "walk" || i % 7 !== 0 ? "walk" : kind} ${String(i).padStart(5, "0")}`;
      clips.add({
        name,
        fileName: `${name.toLowerCase().replaceAll(" ", "-")}.bvh`,
        bytes,
        sha256: createHash("sha256").update(bytes).digest("hex"),
        tags: model?.tags ?? [pick(CHARACTERS), kind],
        folder: i % 3 === 0 ? "" : `shift ${i % 5}`,
        reading: { summary, picture: model?.picture ?? picture },
      });
    }
  })();
}
