import type { FindingKind } from "@stride/motion";

/** What is wrong, as one word or two. */
export const FAULT_WORDS: Readonly<Record<FindingKind, string>> = {
  slide: "slides",
  float: "floats",
  sink: "sinks",
  travel: "travel off",
  floor: "floor off",
  tilt: "floor tilts",
  pop: "pops",
  jump: "jumps",
  flip: "flips",
  jitter: "jitters",
  stretch: "stretched",
  limit: "past limits",
  gap: "ends gap",
};
