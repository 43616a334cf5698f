/** How far the ball of a foot is from its edges, metres: by this arm a turn is weighed against a lift. */
const ARM = 0.08;
/** A lift counts so many times as much as a turn that moves the arm's end as far. */
const LIFT_COUNTS = 25;
const TURNS = 1 / (ARM * ARM);
const LIFTS = 1 / LIFT_COUNTS;
/** So many places are taken up, one by one, and those are gone through so often each time, at most. */
const MOST_PLACES = 40;
const MOST_SWEEPS = 200;
/** What is in the ground by less is out of it, metres. */
const SETTLED = 5e-5;

/**
 * The least turn and lift with which no place of a foot is in the ground: out[0] and out[1] the rotation vector's parts along the world's x and z, radians, out[2] the lift, metres. `places` are [place][3]: from what the
 * foot turns about, x and z, and how deep the place is, metres (negative: over the ground); of `count` places.
 *
 * Small turns ω about level axes raise a place at r by ω_z r_x − ω_x r_z. The least of ½ (a²|ω|² + k l²) with l + ω_z r_x − ω_x r_z ≥ depth at every place is found constraint by constraint (C. Hildreth, A quadratic programming
 * procedure, Naval Research Logistics Quarterly 4, 1957) over the places that have been in the ground so far; what is deepest then joins them. It goes over evenly from frame to frame.
 */
export function leastTurn(out: Float64Array, places: Float64Array, count: number): void {
  let x = 0;
  let z = 0;
  let lift = 0;
  let taken = 0;
  const lack = (o: number) => places[o + 2] - (z * places[o] - x * places[o + 1] + lift);
  while (taken < MOST_PLACES) {
    let deepest = -1;
    let most = SETTLED;
    for (let o = 0; o < count * 3; o += 3) {
      const own = lack(o);
      if (own <= most) continue;
      deepest = o;
      most = own;
    }
    if (deepest < 0) break;
    offsets[taken] = deepest;
    held[taken] = 0;
    taken++;
    for (let sweep = 0; sweep < MOST_SWEEPS; sweep++) {
      let change = 0;
      for (let i = 0; i < taken; i++) {
        const o = offsets[i];
        const px = places[o];
        const pz = places[o + 1];
        const own = TURNS * (px * px + pz * pz) + LIFTS;
        const step = Math.max(-held[i], lack(o) / own);
        held[i] += step;
        x -= TURNS * pz * step;
        z += TURNS * px * step;
        lift += LIFTS * step;
        change = Math.max(change, Math.abs(step) * own);
      }
      if (change < SETTLED / 10) break;
    }
  }
  out[0] = x;
  out[1] = z;
  out[2] = lift;
}

/** Places that are taken up, as offsets, and how hard each pushes. */
const offsets = new Int32Array(MOST_PLACES);
const held = new Float64Array(MOST_PLACES);
