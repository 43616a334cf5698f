import type { Sole, SolePoint } from "../character/soles.ts";
import { restAtUnseen } from "./segment.ts";
import { type JointTrack, pointTrack } from "./tracks.ts";

/** Courses of points on a track, worked out once: the rounds ask for them again and again. */
const COURSES = new WeakMap<JointTrack, WeakMap<SolePoint, Float64Array>>();

function soleCourse({ track, unseen }: Sole, point: SolePoint): Float64Array {
  const own = COURSES.get(track) ?? new WeakMap<SolePoint, Float64Array>();
  COURSES.set(track, own);
  const known = own.get(point);
  if (known) return known;
  const course = pointTrack(track, point.local);
  restAtUnseen(course, unseen);
  own.set(point, course);
  return course;
}

/** World course of every point of some soles. */
export function soleCourses(soles: readonly Sole[]): Map<string, Float64Array> {
  return new Map(soles.flatMap((sole) => sole.points.map((point) => [point.id, soleCourse(sole, point)] as const)));
}
