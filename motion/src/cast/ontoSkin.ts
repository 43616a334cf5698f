import type { BodySkin } from "../character/bodySkin.ts";
import { meets, NOTHING } from "./besideBody.ts";
import { OverSkin, type OverSurface } from "./overSkin.ts";
import type { Posed } from "./someJoints.ts";

/** Within the first of these shares of the arm's length from a skin, here or there, a palm is led wholly by it, beyond the second not at all. */
const SKIN_MEETS = [0.06, 0.12] as const;
/** What was so near on the source is looked for this many times as far off. */
const FETCHED = 2.5;
/** So often a palm is led along the way out of the skin. */
const STEPS = 4;
/** Nearer than this to where it should be it is left, metres. */
const NEAR_ENOUGH = 0.001;
/** Where ways out of the skin lead apart, their mean is short: it is gone along for no more than this share (squared) of it. */
const NARROW = 0.25;

/** Leads palms to where they are as far from the skin of a body as they were from the other's surface, in proportion. */
export class OntoSkin {
  private readonly here: OverSkin;
  private readonly there: OverSkin | null;
  private readonly over: OverSurface = { distance: 0, way: new Float64Array(3) };

  /** The skins (`there` null for a source without), the poses that hold them, and how far the source's arm reaches, metres; arms here are `scale` times as long. */
  constructor(
    here: BodySkin,
    private readonly own: Posed,
    there: BodySkin | null,
    private readonly from: Posed,
    private readonly reach: number,
    private readonly scale: number,
  ) {
    this.here = new OverSkin(here);
    this.there = there && new OverSkin(there);
  }

  /** Takes the poses that the two bodies are in now. */
  pose(): void {
    this.here.pose(this.own);
    this.there?.pose(this.from);
  }

  /** How far a palm is from the source's surface, metres: by its skin, where it has one, no less than `far` where that is further off; else as it `was` by the volumes. */
  private distanceThere(palm: ArrayLike<number>, was: number, far: number): number {
    const { there, over } = this;
    if (!there) return was;
    return there.over(over, palm, far) ? over.distance : Math.max(was, far);
  }

  /** How far a palm at `place` has to go, metres: it is at `palm` on the source, by the volumes there `was` metres from what is nearest. Nothing where it is far from the skin both here and there. */
  lack(place: ArrayLike<number>, palm: ArrayLike<number>, was: number): number[] {
    const { here, over, reach, scale } = this;
    const far = SKIN_MEETS[1] * reach;
    const wanted = scale * this.distanceThere(palm, was, far);
    // What was near there is fetched from further off here.
    const near = here.over(over, place, far * scale) || (wanted < far * scale && here.over(over, place, FETCHED * far * scale));
    if (!near || !Number.isFinite(wanted)) return [0, 0, 0];
    const at = [place[0], place[1], place[2]];
    const share = meets(Math.max(0, Math.min(wanted, over.distance)), SKIN_MEETS, reach * scale);
    if (share < NOTHING) return [0, 0, 0];
    for (let i = 0; i < STEPS; i++) {
      const [x, y, z] = over.way;
      const lack = wanted - over.distance;
      if (Math.abs(lack) < NEAR_ENOUGH) break;
      for (let c = 0; c < 3; c++) at[c] += (lack / Math.max(NARROW, x * x + y * y + z * z)) * over.way[c];
      if (i + 1 < STEPS && !here.onFrom(over, at, FETCHED * far * scale)) break;
    }
    return at.map((v, c) => share * (v - place[c]));
  }
}
