import { makePatch, PATCH_KINDS, type Patch, type StoredPose } from "@stride/motion";
import type { KeptPatches, PoseRow } from "@stride/server";
import { change, whileComputing } from "../state/bench.ts";
import { editDone, withEdit } from "../state/posing.ts";
import { askWorker } from "../state/session.ts";
import { addKept, addPatches } from "./patchActions.ts";

/** Something on the shelf that can be used on a work. */
export type ShelfItem =
  | { readonly is: "pose"; readonly id: string; readonly row: Extract<PoseRow, { kind: "pose" }> }
  | { readonly is: "hand"; readonly id: string; readonly row: Extract<PoseRow, { kind: "hand" }> }
  | { readonly is: "patches"; readonly id: string; readonly row: KeptPatches };

/** What is carried while a thing of the shelf is dragged: its id. */
export const SHELF_DATA = "application/x-stride-shelf";

/** What is on the shelf, in one list; what cannot be read is left out. */
export function shelfItems(poses: readonly ({ readonly kind: string } & { readonly id: string })[], patches: readonly KeptPatches[]): ShelfItem[] {
  return [
    ...poses.flatMap((row): ShelfItem[] => {
      const pose = row as PoseRow;
      return pose.kind === "pose" ? [{ is: "pose", id: pose.id, row: pose }] : pose.kind === "hand" ? [{ is: "hand", id: pose.id, row: pose }] : [];
    }),
    ...patches.flatMap((row): ShelfItem[] => (row.recipe ? [{ is: "patches", id: row.id, row }] : [])),
  ];
}

/** Uses a thing of the shelf at a frame of the result: a pose is pasted there, a hand shape put on both hands, patches are laid on with what they begin there. Throws what keeps it from being used. */
export async function takeFromShelf(item: ShelfItem, frame: number): Promise<void> {
  if (item.is === "patches") {
    if (item.row.recipe) addKept(item.row.name, item.row.recipe, frame);
    return;
  }
  if (item.is === "hand") {
    addPatches(`Add ${item.row.name}`, [handPatch(item.row.name, item.row.data)]);
    return;
  }
  const pose: StoredPose = item.row.data;
  const label = `Apply ${item.row.name}`;
  await whileComputing(async () => {
    const edit = await askWorker((w) => w.paste(frame, pose, { joints: null, where: "spot", amount: 1, label, mirrored: false }));
    change(label, (doc) => withEdit(doc, edit, frame));
    editDone();
  });
}

/** The kind that puts hands into shapes: the one whose fields are told apart by side. */
const HANDS = PATCH_KINDS.find((kind) => kind.group === "hands");

function handPatch(name: string, shape: unknown): Patch {
  if (!HANDS) throw new Error("no kind of patch shapes hands");
  return makePatch(HANDS.kind, name, "", { left: shape, right: shape });
}
