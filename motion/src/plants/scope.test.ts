import { describe, expect, it } from "vitest";
import { ClipDraft } from "../clip/clip.ts";
import { stick } from "../testing/patched.ts";
import { scopeMarks } from "./scope.ts";

const knee = stick.joint("LeftLeg");
const draft = ClipDraft.of(stick.clip);
draft.setRotation(knee, 17, [Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
const changed = draft.done();
const marked = (marks: Uint8Array | null) => [...(marks ?? [])].flatMap((m, f) => (m ? [f] : []));

describe("the frames that have to be solved", () => {
  it("are all of them where nothing was held before", () => {
    expect(scopeMarks(null, changed, [knee])).toBeNull();
  });

  it("are those on which a joint of the chain has changed, and no other joint", () => {
    expect(marked(scopeMarks({ settled: stick.clip, also: null }, changed, [knee]))).toEqual([17]);
    expect(marked(scopeMarks({ settled: stick.clip, also: null }, changed, [stick.joint("RightLeg")]))).toEqual([]);
  });

  it("and those with a weight of their own, however small", () => {
    const also = new Float64Array(stick.clip.frameCount);
    also[40] = 1e-6;
    expect(marked(scopeMarks({ settled: stick.clip, also }, changed, [knee]))).toEqual([17, 40]);
  });
});
