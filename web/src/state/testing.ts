import { type Clocks, clocksOf, type Work } from "@stride/motion";
import { stick } from "../../../motion/src/testing/patched.ts";
import type { MotionView, Opened } from "../worker/views.ts";
import { initialState, useBench } from "./bench.ts";
import { playhead } from "./playhead.ts";

/** The bench as it stands once the worker has evaluated a work on the stick figure. */
export function benchWith(doc: Work): { readonly clocks: Clocks } {
  const evaluation = stick.evaluator().evaluate(doc);
  const { result, base } = evaluation;
  const { frameCount, jointCount, fps } = result.clip;
  const rotations = new Float32Array(frameCount * jointCount * 4);
  for (let i = 3; i < rotations.length; i += 4) rotations[i] = 1;
  const positions = new Float32Array(frameCount * jointCount * 3);
  const after = { frameCount, jointCount, fps, rotations, positions, contacts: result.contacts } as unknown as MotionView;
  const clocks = clocksOf(evaluation);
  useBench.setState({
    ...initialState(),
    doc,
    clocks,
    after,
    before: after,
    body: base.character.body,
    character: { ...base.character, points: base.points },
    opened: { skeleton: stick.skeleton } as unknown as Opened,
  });
  playhead.setClip(frameCount, fps);
  return { clocks };
}
