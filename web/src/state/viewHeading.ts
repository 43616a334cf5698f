import type { BodyMap } from "@stride/motion";

/** Heading of the body as it is shown, radians: square to the line between its hips' sides. */
export function viewHeading(
  view: { readonly positions: ArrayLike<number>; readonly jointCount: number },
  frame: number,
  body: Pick<BodyMap, "roles"> | null,
): number {
  const left = body?.roles.leftThigh;
  const right = body?.roles.rightThigh;
  if (left === undefined || right === undefined) return 0;
  const a = (frame * view.jointCount + left) * 3;
  const b = (frame * view.jointCount + right) * 3;
  return Math.atan2(-(view.positions[a + 2] - view.positions[b + 2]), view.positions[a] - view.positions[b]);
}
