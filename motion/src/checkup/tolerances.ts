/** What a measure may be before it is a finding, and before a figure is shown as out of tolerance. */
export const TOLERANCE = {
  slideCm: 0.5,
  /** of back, seat, head, knees and elbows that were found to lie somewhere */
  trunkSlideCm: 8,
  heightCm: 0.8,
  travelShare: 0.03,
  floorCm: 0.8,
  tiltDegrees: 0.5,
  popDegrees: 14,
  jumpCm: 3,
  flipDegrees: 75,
  jitterDegrees: 0.9,
  stretchFrames: 3,
  /** past what a joint may do, where that is known */
  limitDegrees: 3,
  /** how far a patch may move the pose before it is more than a correction, cm */
  poseMovedCm: 2,
} as const;

/** A clip whose ends are this close (degrees) looks meant to loop; below the first figure it does. */
export const LOOP_GAP_DEGREES = [1.5, 7] as const;
/** … if its ends are also this much nearer to each other than its poses usually are: a body that stands is always near to how it stood. */
export const LOOP_GAP_SHARE = 0.3;
/** … and further from each other than so many times what its poses move on by from one frame to the next. */
export const LOOP_GAP_STEPS = 1.5;
/** … and if its first pose does not come again, to within this share of that, at another frame. */
export const LOOP_GAP_RECURS = 0.55;
