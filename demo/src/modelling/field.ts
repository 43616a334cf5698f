export type Point = readonly [number, number, number];

/** A solid by its signed distance: below zero inside, metres (never more than the true distance by much, so that unions stay smooth). */
export interface Solid {
  /** lowest and highest corner of what it fills */
  readonly box: readonly [Point, Point];
  readonly distance: (x: number, y: number, z: number) => number;
}

/** A solid as part of a shape: how softly it runs into what is there already, metres, and whether it is taken away. */
export interface Stroke {
  readonly solid: Solid;
  readonly soft: number;
  readonly cut: boolean;
}

export const add = (solid: Solid, soft = 0.015): Stroke => ({ solid, soft, cut: false });
export const cut = (solid: Solid, soft = 0.008): Stroke => ({ solid, soft, cut: true });

/** The hull of two balls (after Quílez's round cone). */
export function cone(a: Point, ra: number, b: Point, rb: number): Solid {
  const ba = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const l2 = ba[0] ** 2 + ba[1] ** 2 + ba[2] ** 2;
  const rr = ra - rb;
  const a2 = l2 - rr * rr;
  const il2 = 1 / l2;
  const most = Math.max(ra, rb);
  const low = a.map((v, i) => Math.min(v, b[i]) - most) as unknown as Point;
  const high = a.map((v, i) => Math.max(v, b[i]) + most) as unknown as Point;
  if (l2 < 1e-12 || a2 <= 0) return ball(ra >= rb ? a : b, most);
  return {
    box: [low, high],
    distance(x, y, z) {
      const [px, py, pz] = [x - a[0], y - a[1], z - a[2]];
      const yy = px * ba[0] + py * ba[1] + pz * ba[2];
      const zz = yy - l2;
      const [cx, cy, cz] = [px * l2 - ba[0] * yy, py * l2 - ba[1] * yy, pz * l2 - ba[2] * yy];
      const x2 = cx * cx + cy * cy + cz * cz;
      const y2 = yy * yy * l2;
      const z2 = zz * zz * l2;
      const k = Math.sign(rr) * rr * rr * x2;
      if (Math.sign(zz) * a2 * z2 > k) return Math.sqrt(x2 + z2) * il2 - rb;
      if (Math.sign(yy) * a2 * y2 < k) return Math.sqrt(x2 + y2) * il2 - ra;
      return (Math.sqrt(x2 * a2 * il2) + yy * rr) * il2 - ra;
    },
  };
}

export function ball(c: Point, r: number): Solid {
  return {
    box: [[c[0] - r, c[1] - r, c[2] - r] as const, [c[0] + r, c[1] + r, c[2] + r] as const],
    distance: (x, y, z) => Math.hypot(x - c[0], y - c[1], z - c[2]) - r,
  };
}

/** Half lengths along its own axes; `turn` is about x, radians (it nods). */
export function egg(c: Point, half: Point, turn = 0): Solid {
  const [s, k] = [Math.sin(turn), Math.cos(turn)];
  const most = Math.max(...half);
  return {
    box: [[c[0] - most, c[1] - most, c[2] - most] as const, [c[0] + most, c[1] + most, c[2] + most] as const],
    distance(x, y, z) {
      const [px, qy, qz] = [x - c[0], y - c[1], z - c[2]];
      const [py, pz] = [k * qy + s * qz, -s * qy + k * qz];
      const k0 = Math.hypot(px / half[0], py / half[1], pz / half[2]);
      const k1 = Math.hypot(px / half[0] ** 2, py / half[1] ** 2, pz / half[2] ** 2);
      return k1 < 1e-9 ? -Math.min(...half) : (k0 * (k0 - 1)) / k1;
    },
  };
}

/** A box with rounded edges. */
export function block(c: Point, half: Point, round: number): Solid {
  return {
    box: [[c[0] - half[0], c[1] - half[1], c[2] - half[2]] as const, [c[0] + half[0], c[1] + half[1], c[2] + half[2]] as const],
    distance(x, y, z) {
      const q = [Math.abs(x - c[0]) - half[0] + round, Math.abs(y - c[1]) - half[1] + round, Math.abs(z - c[2]) - half[2] + round];
      return Math.hypot(Math.max(q[0], 0), Math.max(q[1], 0), Math.max(q[2], 0)) + Math.min(Math.max(...q), 0) - round;
    },
  };
}

/** A ring about an axis. */
export function ring(c: Point, axis: "x" | "y" | "z", r: number, thick: number): Solid {
  const reach = r + thick;
  return {
    box: [[c[0] - reach, c[1] - reach, c[2] - reach] as const, [c[0] + reach, c[1] + reach, c[2] + reach] as const],
    distance(x, y, z) {
      const p = [x - c[0], y - c[1], z - c[2]];
      const [along, u, v] = axis === "x" ? [p[0], p[1], p[2]] : axis === "y" ? [p[1], p[0], p[2]] : [p[2], p[0], p[1]];
      return Math.hypot(Math.hypot(u, v) - r, along) - thick;
    },
  };
}

/** Any solid stretched along x and z about a middle: bodies are wider than deep. */
export function squashed(solid: Solid, about: Point, by: Point): Solid {
  const to = (v: Point): Point => [about[0] + (v[0] - about[0]) * by[0], about[1] + (v[1] - about[1]) * by[1], about[2] + (v[2] - about[2]) * by[2]];
  const least = Math.min(...by);
  return {
    box: [to(solid.box[0]), to(solid.box[1])],
    distance: (x, y, z) => least * solid.distance(about[0] + (x - about[0]) / by[0], about[1] + (y - about[1]) / by[1], about[2] + (z - about[2]) / by[2]),
  };
}

/** A course of points with a radius each as one solid, its joints soft. */
export function tube(points: readonly (readonly [number, number, number, number])[], soft = 0.01): Stroke[] {
  return points.slice(1).map((b, i) => {
    const a = points[i];
    return add(cone([a[0], a[1], a[2]], a[3], [b[0], b[1], b[2]], b[3]), soft);
  });
}

/** Both of a thing and its mirror image across the body's middle. */
export function pair(strokes: readonly Stroke[]): Stroke[] {
  return [
    ...strokes,
    ...strokes.map(({ solid: { box, distance }, ...rest }) => ({
      ...rest,
      solid: {
        box: [[-box[1][0], box[0][1], box[0][2]] as const, [-box[0][0], box[1][1], box[1][2]] as const] as const,
        distance: (x: number, y: number, z: number) => distance(-x, y, z),
      },
    })),
  ];
}

/** Union (or the one without the other) with a rounded seam of `k` metres (Quílez's polynomial smooth minimum). */
export function joined(a: number, b: number, k: number, isCut: boolean): number {
  if (isCut) return -joined(-a, b, k, false);
  const h = Math.max(k - Math.abs(a - b), 0) / Math.max(k, 1e-9);
  return Math.min(a, b) - (h * h * k) / 4;
}

export const moved = (p: Point, x: number, y: number, z: number): Point => [p[0] + x, p[1] + y, p[2] + z];
