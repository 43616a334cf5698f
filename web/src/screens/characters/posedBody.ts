import { type CharacterNotes, likePose, restWorld, type Skeleton } from "@stride/motion";
import type { MotionView } from "../../worker/views.ts";
import type { OpenedBody } from "./useBody.ts";

/** A body standing as a person says that bodies are alike, over the place where its file has it. */
export function posedBody(
  { skeleton, view }: Pick<OpenedBody, "skeleton" | "view">,
  { rest }: Pick<CharacterNotes, "rest">,
): { skeleton: Skeleton; view: MotionView } {
  const posed = likePose(skeleton, rest);
  if (posed === skeleton) return { skeleton, view };
  const { positions, rotations } = restWorld(posed);
  const aside = [0, 1, 2].map((c) => view.positions[c] - positions[c]);
  return {
    skeleton: posed,
    view: { ...view, frameCount: 1, positions: Float32Array.from(positions, (v, i) => v + aside[i % 3]), rotations: Float32Array.from(rotations) },
  };
}
