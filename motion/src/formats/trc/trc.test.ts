import { expect, it } from "vitest";
import { ClipDraft } from "../../clip/clip.ts";
import { clipWorld } from "../../kinematics/forward.ts";
import { identityRest } from "../../skeleton/skeleton.ts";
import { jointMarkers } from "../markers.ts";
import { writeTrc } from "./write.ts";

it("a track of markers has its header, a row a frame, and every joint's place in millimetres", () => {
  const skeleton = {
    names: ["Hips", "Upper leg", "Foot"],
    parents: Int16Array.of(-1, 0, 1),
    offsets: Float64Array.of(0, 0, 0, 0.1, -0.05, 0, 0, -0.8, 0.02),
    restRotations: identityRest(3),
    tips: [],
  };
  const draft = ClipDraft.make("a walk", 59.94, 4, 3, Int16Array.of(0));
  for (let f = 0; f < 4; f++) {
    for (let j = 0; j < 3; j++) draft.setRotation(j, f, [0, Math.sin(0.1 * f), 0, Math.cos(0.1 * f)]);
    draft.setPosition(0, f, [0.3 * f, 0.9, -0.1 * f]);
  }
  const clip = draft.done();
  const rows = [...writeTrc(skeleton, clip, jointMarkers(skeleton))]
    .join("")
    .split("\n")
    .map((line) => line.split("\t"));
  expect(rows[0]).toEqual(["PathFileType", "4", "(X/Y/Z)", "a_walk.trc"]);
  expect(rows[2]).toEqual(["59.94", "59.94", "4", "3", "mm", "59.94", "1", "4"]);
  expect(rows[3].filter((cell) => cell !== "")).toEqual(["Frame#", "Time", "Hips", "Upper_leg", "Foot"]);
  expect(rows[4].slice(2, 8)).toEqual(["X1", "Y1", "Z1", "X2", "Y2", "Z2"]);
  expect(rows[5]).toEqual([""]);
  const { positions } = clipWorld(skeleton, clip);
  const data = rows.slice(6).filter((row) => row.length > 1);
  expect(data.length).toBe(4);
  data.forEach((row, f) => {
    expect(row.length).toBe(2 + 9);
    expect(Number(row[0])).toBe(f + 1);
    expect(Number(row[1])).toBeCloseTo(f / 59.94, 5);
    row.slice(2).forEach((cell, i) => {
      expect(Number(cell)).toBeCloseTo(1000 * positions[f * 9 + i], 2);
    });
  });
});
