import { type MeasuredGait, strideSpeed } from "@stride/motion";

/** A body whose travel differs by more than this share from what its steps come to no longer goes with them. */
const FITS = 0.04;

/** The speed that the steps ask for where the body's travel no longer fits them, m/s; null where it does. */
export function misfit(gait: MeasuredGait | null): number | null {
  if (!gait) return null;
  const wanted = strideSpeed(gait);
  return Math.abs(wanted - gait.speed) > FITS * wanted ? wanted : null;
}
