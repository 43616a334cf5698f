import { type Beat, emptyWork, makePatch, type Patch, type Work } from "@stride/motion";
import { beforeEach, describe, expect, it } from "vitest";
import {
  beatsOf,
  dropBeat,
  evenBetween,
  fitTo,
  holdAt,
  lockBeat,
  moveBeat,
  removeBeat,
  retimeOf,
  setStretchLength,
  takeBeats,
  takeOutBefore,
  useBeats,
} from "./beats.ts";
import { undo, useBench } from "./bench.ts";
import { benchWith } from "./testing.ts";
import { frameMade, momentMade, sameMoment } from "./times.ts";

const FPS = 30;
const at = (frame: number) => frame / FPS;
/** The stick figure's clip has 90 frames. */
const END = at(89);

const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });
const retime = (beats: readonly (readonly [number, number])[], id = "t"): Patch =>
  makePatch("retime", "Retime", id, { beats: beats.map(([from, to]) => ({ from: at(from), to: at(to) })), between: "even" });
const now = () => retimeOf(useBench.getState()) as Patch;
const frames = () => beatsOf(now()).map((b) => [Math.round(b.from * FPS * 100) / 100, Math.round(b.to * FPS * 100) / 100]);

beforeEach(() => useBeats.setState({ picked: null }));

describe("a beat dropped at the playhead", () => {
  it("begins a retime that changes nothing yet, with start and end marked", () => {
    benchWith(work());
    dropBeat(30);
    expect(frames()).toEqual([
      [0, 0],
      [30, 30],
      [89, 89],
    ]);
    expect(beatsOf(now())[0].locked).toBe(true);
    expect(useBench.getState().patchId).toBe(now().id);
    expect(useBeats.getState().picked).toBe(1);
    undo();
    expect(retimeOf(useBench.getState())).toBeNull();
  });

  it("goes into the retime that is there, on the moment that is shown", () => {
    benchWith(
      work(
        retime([
          [0, 0],
          [60, 120],
          [89, 149],
        ]),
      ),
    );
    dropBeat(60);
    expect(frames()[1]).toEqual([30, 60]);
    // Once is enough.
    benchWith(useBench.getState().doc);
    dropBeat(60);
    expect(frames()).toHaveLength(4);
  });

  it("goes into the retime that is picked where there are two", () => {
    benchWith(
      work(
        retime(
          [
            [0, 0],
            [89, 89],
          ],
          "low",
        ),
        retime(
          [
            [0, 0],
            [89, 178],
          ],
          "high",
        ),
      ),
    );
    useBench.setState({ patchId: "low" });
    dropBeat(60);
    expect(useBench.getState().doc.patches.map((p) => beatsOf(p).length)).toEqual([3, 2]);
    expect(frames()[1]).toEqual([30, 30]);
  });
});

describe("beats", () => {
  beforeEach(() => {
    benchWith(
      work(
        retime([
          [0, 0],
          [30, 30],
          [60, 60],
          [89, 89],
        ]),
      ),
    );
  });

  it("are dragged between their neighbours as a draft, and written when let go", () => {
    moveBeat(now(), 1, at(45), false, false);
    expect(useBench.getState().draft).not.toBeNull();
    expect(beatsOf(useBench.getState().doc.patches[0])[1].to).toBe(at(30));
    moveBeat(now(), 1, at(45), false, true);
    expect(frames()[1]).toEqual([30, 45]);
    expect(useBench.getState().past).toHaveLength(1);
    moveBeat(now(), 1, at(50), true, true);
    expect(frames().map(([, to]) => to)).toEqual([0, 50, 65, 94]);
  });

  it("are locked, and then stay", () => {
    lockBeat(now(), 1);
    moveBeat(now(), 1, at(45), false, true);
    expect(frames()[1]).toEqual([30, 30]);
    lockBeat(now(), 1);
    expect(beatsOf(now())[1].locked).toBeUndefined();
  });

  it("are typed by the length of a stretch, taken out, and evened across", () => {
    setStretchLength(now(), 1, at(60));
    expect(frames().map(([, to]) => to)).toEqual([0, 30, 90, 119]);
    evenBetween(now(), 0, 2);
    expect(frames().map(([from]) => from)).toEqual([0, 60, 89]);
    removeBeat(now(), 1);
    expect(frames()).toHaveLength(2);
  });

  it("hold what the playhead shows, or take frames out before it", () => {
    holdAt(now(), useBench.getState().clocks, 45, at(20), true);
    expect(frames().at(-1)).toEqual([89, 109]);
    benchWith(
      work(
        retime([
          [0, 0],
          [89, 89],
        ]),
      ),
    );
    takeOutBefore(now(), useBench.getState().clocks, 60, at(5), at(15));
    expect(frames()).toEqual([
      [0, 0],
      [45, 45],
      [60, 55],
      [89, 84],
    ]);
  });

  it("are fitted to a length all together; without any the speed is", () => {
    fitTo(now(), useBench.getState().clocks, at(178));
    expect(frames().map(([, to]) => to)).toEqual([0, 60, 120, 178]);
    benchWith(work(makePatch("retime", "R", "r")));
    fitTo(now(), useBench.getState().clocks, END / 2);
    expect(now().settings.speed).toBeCloseTo(2, 9);
  });

  it("are taken from what is proposed, each where it is shown now", () => {
    benchWith(
      work(
        retime([
          [0, 0],
          [89, 178],
        ]),
      ),
    );
    takeBeats(now(), useBench.getState().clocks, [at(10), at(40)]);
    expect(frames()).toEqual([
      [0, 0],
      [10, 20],
      [40, 80],
      [89, 178],
    ]);
    benchWith(work(makePatch("retime", "R", "r")));
    takeBeats(now(), useBench.getState().clocks, [at(10)]);
    expect(frames()).toEqual([
      [0, 0],
      [10, 10],
      [89, 89],
    ]);
    expect((beatsOf(now()) as Beat[])[0].locked).toBe(true);
  });
});

describe("what stands over beats", () => {
  it("goes along in the same step, and comes back with one undo", () => {
    const over: Patch = { ...makePatch("repair", "Repair", "over"), range: { start: at(45), end: at(50) }, rampIn: at(5) };
    benchWith(
      work(
        retime([
          [0, 0],
          [30, 30],
          [60, 60],
          [89, 89],
        ]),
        over,
      ),
    );
    useBench.setState({ patchId: "t" });
    moveBeat(now(), 1, at(50), true, true);
    const range = useBench.getState().doc.patches[1].range;
    expect(range?.start).toBeCloseTo(at(65), 9);
    expect(range?.end).toBeCloseTo(at(70), 9);
    expect(useBench.getState().past).toHaveLength(1);
    undo();
    expect(useBench.getState().doc.patches[1].range).toEqual(over.range);
  });

  it("is shown and asked for in the time that the retime makes", () => {
    const { clocks } = benchWith(
      work(
        retime([
          [0, 0],
          [30, 60],
          [89, 119],
        ]),
        makePatch("trim", "Trim", "trim", { from: at(20), to: null }),
      ),
    );
    expect(momentMade(clocks, "t", 40)).toBeCloseTo(at(60), 9);
    expect(frameMade(clocks, "t", at(60))).toBeCloseTo(40, 9);
    expect(frameMade(clocks, "t", at(5))).toBeNull();
  });

  it("leaves the playhead on its moment", () => {
    const before = benchWith(
      work(
        retime([
          [0, 0],
          [30, 30],
          [89, 89],
        ]),
      ),
    ).clocks;
    const after = benchWith(
      work(
        retime([
          [0, 0],
          [30, 60],
          [89, 119],
        ]),
      ),
    ).clocks;
    expect(sameMoment(before, after, 30)).toBe(60);
    expect(sameMoment(before, after, 15)).toBe(30);
    expect(sameMoment(after, before, 60)).toBe(30);
    const cut = benchWith(work(makePatch("trim", "Trim", "trim", { from: at(50), to: null }))).clocks;
    expect(sameMoment(before, cut, 20)).toBe(20);
  });
});
