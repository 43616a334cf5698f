import { existsSync, readFileSync } from "node:fs";
import {
  bestCycle,
  type Clip,
  clipWorld,
  DEFAULT_RECIPE,
  Evaluator,
  emptyWork,
  makePatch,
  measure,
  oneSource,
  quantile,
  readMotion,
  SuppliedSources,
  totalsOf,
  type WorldClip,
  writeLike,
} from "@stride/motion";
import { AnimationMixer, type Bone, Vector3 } from "three";
import { BVHLoader } from "three/examples/jsm/loaders/BVHLoader.js";
import { describe, expect, it } from "vitest";
import { slidesIn, stillSpans } from "../../demo/src/grid/stillToes.ts";

/** Captures of the Carnegie Mellon motion capture database (free to use) and one more, as shipped in Debian's package assimp-testmodels. */
const FOLDER = "/usr/share/assimp/models/BVH";
const CAPTURES = ["01_01", "01_03", "Boxing_Toes"] as const;

const load = (name: string) => readMotion(readFileSync(`${FOLDER}/${name}.bvh`), { fileName: `${name}.bvh` });

it("the captures are installed", () => {
  for (const name of CAPTURES) expect(existsSync(`${FOLDER}/${name}.bvh`), `${name}.bvh; npm test installs it`).toBe(true);
});

describe.each(CAPTURES)("%s", (name) => {
  const file = load(name);
  const text = readFileSync(`${FOLDER}/${name}.bvh`, "utf8");

  it("stands as three.js' BVHLoader reads it, every joint within 1e-4 of the body height", () => {
    const { clip, skeleton } = new BVHLoader().parse(text);
    const mixer = new AnimationMixer(skeleton.bones[0]);
    mixer.clipAction(clip).play();
    const ours = clipWorld(file.skeleton, file.clip);
    const bones = skeleton.bones.filter((bone: Bone) => bone.name !== "ENDSITE");
    expect(bones.map((b: Bone) => b.name)).toEqual([...file.skeleton.names]);
    const step = clip.tracks[0].times[1] - clip.tracks[0].times[0];
    const v = new Vector3();
    let worst = 0;
    for (const f of [0, 1, 7, 500, 1234, 2600]) {
      mixer.setTime(f * step);
      skeleton.bones[0].updateMatrixWorld(true);
      bones.forEach((bone: Bone, j: number) => {
        bone.getWorldPosition(v).multiplyScalar(file.unitScale);
        const o = (f * ours.jointCount + j) * 3;
        worst = Math.max(worst, Math.hypot(v.x - ours.positions[o], v.y - ours.positions[o + 1], v.z - ours.positions[o + 2]));
      });
    }
    expect(worst / 1.7).toBeLessThan(1e-4);
  });

  it("comes back from writing within 1e-5 of the body height", () => {
    const back = readMotion(new TextEncoder().encode([...writeLike(file, file.clip, "back.bvh")].join("")), {
      fileName: "back.bvh",
      unitScale: file.unitScale,
    });
    const a = clipWorld(file.skeleton, file.clip).positions;
    const b = clipWorld(back.skeleton, back.clip).positions;
    let worst = 0;
    for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i] - b[i]));
    expect(worst / 1.7).toBeLessThan(1e-5);
  });

  it("has its body found without help", () => {
    const { body } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate(emptyWork()).base.character;
    const joint = (role: keyof typeof body.roles) => file.skeleton.names[body.roles[role] ?? -1];
    const boxing = name === "Boxing_Toes";
    expect(body.plan).toBe("biped");
    expect([joint("hips"), joint("leftThigh"), joint("leftShin"), joint("leftFoot"), joint("leftToe")]).toEqual(
      boxing ? ["Hips", "LeftHip", "LeftKnee", "LeftAnkle", "LeftToes"] : ["Hips", "LeftUpLeg", "LeftLeg", "LeftFoot", "LeftToeBase"],
    );
    expect([joint("rightCollar"), joint("rightUpperArm"), joint("rightForearm"), joint("rightHand"), joint("head")]).toEqual(
      boxing ? ["RightCollar", "RightShoulder", "RightElbow", "RightWrist", "Head"] : ["RightShoulder", "RightArm", "RightForeArm", "RightHand", "Head"],
    );
  });

  const cleaned = (clip: Clip) => new Evaluator(oneSource(file.skeleton, clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const once = cleaned(file.clip);

  it("is planted: slide under 0.2 cm, no more jerk than it had, pose moved by under 2 cm", () => {
    const { base, result } = once;
    const before = totalsOf(measure(base));
    const after = totalsOf(measure(result));
    expect(before.contacts).toBeGreaterThan(40);
    expect(before.slideP95Cm).toBeGreaterThan(1.5);
    expect(after.slideP95Cm).toBeLessThan(0.2);
    const a = clipWorld(file.skeleton, base.clip);
    const b = clipWorld(file.skeleton, result.clip);
    expect(meanJerk(b) / meanJerk(a)).toBeLessThan(1);
    expect(meanMoveCm(a, b)).toBeLessThan(2);
  });

  it("has toes that lie still wherever they came slowly near their lowest, whatever contacts were found: by a rule of its own", () => {
    const { leftToe, rightToe } = once.base.character.body.roles;
    const slides = [leftToe ?? -1, rightToe ?? -1].flatMap((toe) =>
      slidesIn(file.skeleton, once.result.clip, toe, stillSpans(file.skeleton, once.base.clip, toe)),
    );
    expect(slides.length).toBeGreaterThan(1000);
    expect(slides.reduce((sum, v) => sum + v, 0) / slides.length).toBeLessThan(0.1);
    expect(quantile(slides, 0.95)).toBeLessThan(0.3);
  });

  it("is left as it is when it is cleaned again", () => {
    expect(meanMoveCm(clipWorld(file.skeleton, once.result.clip), clipWorld(file.skeleton, cleaned(once.result.clip).result.clip))).toBeLessThan(0.05);
  });
});

describe.each(["01_01", "01_03"] as const)("the best cycle of %s", (name) => {
  it("is one whole stride: each foot lands in it once, by the clip's own contacts", () => {
    const { skeleton, clip } = load(name);
    const { result } = new Evaluator(oneSource(skeleton, clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
    const cycle = bestCycle(result, false);
    if (!cycle) throw new Error("no cycle was found");
    const landings = ["leftToe", "rightToe"].map((point) => {
      const starts = result.contacts.filter((c) => c.point === point).map((c) => c.start / clip.fps);
      return starts.filter((at) => at > cycle.from && at <= cycle.to).length;
    });
    expect(landings).toEqual([1, 1]);
    expect(cycle.contacts).toBe(0);
  });
});

/** Mean size of the third differences of every joint's course. */
function meanJerk(world: WorldClip): number {
  const s = world.jointCount * 3;
  const p = world.positions;
  let sum = 0;
  for (let i = 3 * s; i < p.length; i += 3) {
    const d = [0, 1, 2].map((k) => p[i + k] - 3 * p[i + k - s] + 3 * p[i + k - 2 * s] - p[i + k - 3 * s]);
    sum += Math.hypot(d[0], d[1], d[2]);
  }
  return sum / p.length;
}

/** Mean distance that joints moved relative to the hips. */
function meanMoveCm(a: WorldClip, b: WorldClip): number {
  const s = a.jointCount * 3;
  let sum = 0;
  for (let i = 0; i < a.positions.length; i += 3) {
    const root = i - (i % s);
    const d = [0, 1, 2].map((k) => a.positions[i + k] - b.positions[i + k] - (a.positions[root + k] - b.positions[root + k]));
    sum += Math.hypot(d[0], d[1], d[2]);
  }
  return (sum / (a.positions.length / 3)) * 100;
}

describe("captures mixed and joined with each other", () => {
  const names = ["01_03", "Boxing_Toes"] as const;
  const files = names.map(load);
  const ref = (k: number) => ({ name: `${names[k]}.bvh`, sha256: String(k).repeat(64) });
  const sources = (k: number) =>
    new SuppliedSources(
      files[k],
      files.map((file, i) => ({ ref: ref(i), skeleton: file.skeleton, clip: file.clip, work: null })),
    );

  it.each([
    [0, 1],
    [1, 0],
  ])("stand still where they stand, whichever is under the other (%i under %i)", (under, over) => {
    const legs = (["hips", "leftThigh", "leftShin", "leftFoot", "leftToe", "rightThigh", "rightShin", "rightFoot", "rightToe"] as const).map((role) => ({
      role,
    }));
    const evaluator = new Evaluator(sources(under));
    const mixed = { ...makePatch("mix", "Mix", "mix", { clip: ref(over), repeat: "once" }), parts: legs };
    const joined = makePatch("join", "Join", "join", { clip: ref(over), overlap: 0.5 });
    for (const patch of [mixed, joined]) {
      const { result } = evaluator.evaluate({ ...emptyWork(), patches: [...DEFAULT_RECIPE.patches, patch] });
      const { slideP95Cm } = totalsOf(measure(result));
      expect(slideP95Cm, patch.kind).toBeLessThan(0.2);
      expect(result.contacts.some((c) => c.of !== undefined)).toBe(true);
    }
  });
});
