import { cross, fromAxes, type Mat, plus, scaled, type Vec } from "./matrix.ts";
import { smooth } from "./walker.ts";

/** A wave of so many seconds, and where in it it begins, radians. */
export const wave = (t: number, seconds: number, lag = 0) => Math.sin((2 * Math.PI * t) / seconds + lag);
/** A place so much of the way from one to another. */
export const between = (a: Vec, b: Vec, u: number): Vec => plus(scaled(a, 1 - u), scaled(b, u));
/** 1 from one moment to another, and smoothly 0 outside: it goes and comes within so many seconds. */
export const during = (t: number, from: number, to: number, takes: number) => smooth((t - from + takes) / takes) * (1 - smooth((t - to) / takes));

/** A flat hand that points along a level direction, its palm down. */
export function flatPalm(side: number, ahead: Vec): Mat {
  const x = scaled(ahead, side === 0 ? 1 : -1);
  return fromAxes(x, [0, 1, 0], cross(x, [0, 1, 0]));
}

/** 1 on the left, −1 on the right. */
export const sideOf = (side: number) => (side === 0 ? 1 : -1);
export const AHEAD: Vec = [0, 0, 1];
