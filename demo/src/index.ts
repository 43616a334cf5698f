export { performBiped } from "./biped.ts";
export { type BipedBuild, buildBiped, buildQuadruped, type Character, INA, OSK, PIM } from "./characters.ts";
export { type DemoClip, demoClips } from "./clips.ts";
export { addFaults, type Faults } from "./faults.ts";
export type { Performance, Plan } from "./performance.ts";
export { bend, gaitPlan, idlePlan, jumpPlan, quadrupedWalk, sideStepPlan, straight } from "./plans.ts";
export { performQuadruped } from "./quadruped.ts";
export { seeded } from "./random.ts";
