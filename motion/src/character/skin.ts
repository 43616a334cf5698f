/** How a part of a skin looks, as far as it is drawn. */
export interface SkinMaterial {
  readonly name: string;
  /** linear red, green, blue, opacity, 0..1: multiplies the vertices' own colours */
  readonly colour: readonly [number, number, number, number];
  readonly doubleSided: boolean;
  readonly roughness: number;
  /** an encoded picture (PNG, JPEG or WebP) laid on by `uvs` */
  readonly picture: { readonly mime: string; readonly bytes: Uint8Array } | null;
}

/** Shapes that a part takes on in a motion, as its face does in speech. */
export interface SkinFace {
  /** [target][vertex][3] what it adds to the places where it weighs 1, and to the normals (null: they stay), as the part was modelled */
  readonly targets: readonly { readonly positions: Float32Array; readonly normals: Float32Array | null }[];
  /** [target] what each weighs in the part's own positions already */
  readonly rest: Float32Array;
  readonly fps: number;
  /** [frame][target] what each weighs in the motion of the file */
  readonly weights: Float32Array;
}

/** What each target of a face adds at a moment of its file's motion, seconds, to what the part has already: out[target]. Between frames it goes over evenly. */
export function faceAt(out: number[], { rest, weights, fps }: SkinFace, moment: number): number[] {
  const count = rest.length;
  const last = weights.length / count - 1;
  const at = Math.max(0, Math.min(last, moment * fps));
  const frame = Math.min(last, Math.floor(at + 1e-6));
  const share = Math.max(0, at - frame);
  const next = Math.min(last, frame + 1);
  for (let i = 0; i < count; i++) out[i] = (1 - share) * weights[frame * count + i] + share * weights[next * count + i] - rest[i];
  return out;
}

/** A piece of a body's surface: triangles of one look. */
export interface SkinPart {
  /** [vertex][3] where it was modelled; `binds` bring it to its joints */
  readonly positions: Float32Array;
  /** [vertex][3] unit length */
  readonly normals: Float32Array;
  /** [triangle][3] vertices */
  readonly indices: Uint32Array;
  /** [vertex][4] which binds move it, and how much each (they sum to 1) */
  readonly binds: Uint16Array;
  readonly weights: Float32Array;
  /** [vertex][3] linear colours 0..1 */
  readonly colours: Float32Array | null;
  /** [vertex][2] */
  readonly uvs: Float32Array | null;
  readonly material: SkinMaterial;
  /** null where its shape does not change in the file's motion */
  readonly face: SkinFace | null;
}

/**
 * A body's surface and how joints move it. A vertex v stands at Σ w · W_joint · bind · v, W the joint's place and rotation in the world (metres): `binds` hold what the
 * body was modelled in, its units and scales included.
 */
export interface Skin {
  readonly parts: readonly SkinPart[];
  /** [bind] the joint that it belongs to */
  readonly joints: Int32Array;
  /** [bind][16] matrices, column by column */
  readonly binds: Float64Array;
}

/** Where the vertices of a part stand: `positions` and `rotations` are the joints' in the world ([joint][3], [joint][4]). Returns [vertex][3], metres. */
export function skinnedVertices(skin: Skin, part: SkinPart, positions: ArrayLike<number>, rotations: ArrayLike<number>): Float64Array {
  const matrices = skinMatrices(skin, positions, rotations);
  const out = new Float64Array(part.positions.length);
  for (let v = 0; v * 3 < out.length; v++) {
    const [x, y, z] = [part.positions[v * 3], part.positions[v * 3 + 1], part.positions[v * 3 + 2]];
    for (let k = 0; k < 4; k++) {
      const weight = part.weights[v * 4 + k];
      if (weight === 0) continue;
      const m = part.binds[v * 4 + k] * 16;
      for (let c = 0; c < 3; c++) out[v * 3 + c] += weight * (matrices[m + c] * x + matrices[m + 4 + c] * y + matrices[m + 8 + c] * z + matrices[m + 12 + c]);
    }
  }
  return out;
}

/** W_joint · bind for every bind [bind][16], column by column. */
export function skinMatrices({ joints, binds }: Skin, positions: ArrayLike<number>, rotations: ArrayLike<number>): Float64Array {
  const out = new Float64Array(binds.length);
  joints.forEach((joint, i) => {
    multiplyMatrixFlat(out, i * 16, placeMatrix(positions, joint * 3, rotations, joint * 4), 0, binds, i * 16);
  });
  return out;
}

/** A place and a rotation (unit quaternion x, y, z, w) as a matrix, column by column. */
export function placeMatrix(p: ArrayLike<number>, po: number, q: ArrayLike<number>, qo: number): Float64Array {
  const [x, y, z, w] = [q[qo], q[qo + 1], q[qo + 2], q[qo + 3]];
  return Float64Array.of(
    ...[1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w), 0],
    ...[2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w), 0],
    ...[2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y), 0],
    ...[p[po], p[po + 1], p[po + 2], 1],
  );
}

/** out = a · b, matrices of 16 numbers by columns; out may be neither of them. */
export function multiplyMatrixFlat(out: Float64Array, o: number, a: ArrayLike<number>, ao: number, b: ArrayLike<number>, bo: number): void {
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += a[ao + k * 4 + r] * b[bo + c * 4 + k];
      out[o + c * 4 + r] = sum;
    }
}
