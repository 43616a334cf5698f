import { randomUUID } from "node:crypto";
import { handShapeSchema, problemOf, storedPoseSchema, upgradePose1 } from "@stride/motion";
import { z } from "zod";
import type { Db } from "./database.ts";

const name = z.string().trim().min(1, "a name is needed").max(120, "a name has at most 120 characters");
const picture = z
  .string()
  .max(20_000)
  .regex(/^[MLZ0-9 .-]*$/, "expected a path of straight lines");

/** What is sent to keep a pose or a hand shape. */
export const newPoseSchema = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("pose"), name, data: storedPoseSchema, picture }),
  z.strictObject({ kind: z.literal("hand"), name, data: handShapeSchema, picture }),
]);
export type NewPose = z.infer<typeof newPoseSchema>;
export type PoseRow = NewPose & { readonly id: string; readonly createdAt: string };

/** A kept pose that this version cannot read: it hides no other, and can be deleted. */
export interface UnreadablePose {
  readonly id: string;
  readonly name: string;
  readonly kind: "unreadable";
  readonly problem: string;
  readonly createdAt: string;
}

interface RawPose {
  id: string;
  name: string;
  kind: "pose" | "hand";
  data: string;
  picture: string;
  created_at: string;
}

/** Named poses and hand shapes. */
export function poseStore(db: Db) {
  const all = db.prepare<[], RawPose>("SELECT id, name, kind, data, picture, created_at FROM pose WHERE deleted_at IS NULL ORDER BY created_at, rowid");
  const insert = db.prepare("INSERT INTO pose (id, name, kind, data, picture, created_at) VALUES (?, ?, ?, ?, ?, ?)");
  return {
    list: (): (PoseRow | UnreadablePose)[] => all.all().map(fromRaw),
    add(pose: NewPose): PoseRow {
      const row = { ...pose, id: randomUUID(), createdAt: new Date().toISOString() };
      insert.run(row.id, row.name, row.kind, JSON.stringify(row.data), row.picture, row.createdAt);
      return row;
    },
  };
}

export type PoseStore = ReturnType<typeof poseStore>;

function fromRaw(raw: RawPose): PoseRow | UnreadablePose {
  try {
    const data: unknown = JSON.parse(raw.data);
    const kept = newPoseSchema.safeParse({ kind: raw.kind, name: raw.name, data: raw.kind === "pose" ? upgradePose1(data) : data, picture: raw.picture });
    if (!kept.success) throw problemOf(kept.error, "");
    return { ...kept.data, id: raw.id, createdAt: raw.created_at };
  } catch (error) {
    return { id: raw.id, name: raw.name, kind: "unreadable", problem: error instanceof Error ? error.message : String(error), createdAt: raw.created_at };
  }
}
