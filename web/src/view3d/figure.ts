import { type Ground, LEVEL_GROUND, type Volume } from "@stride/motion";
import {
  type BufferGeometry,
  Color,
  DynamicDrawUsage,
  Group,
  InstancedMesh,
  LatheGeometry,
  Matrix4,
  MeshBasicMaterial,
  MeshLambertMaterial,
  Quaternion,
  type Raycaster,
  Vector2,
  Vector3,
} from "three";
import type { PosedFrame } from "../worker/views.ts";
import { type FigureColors, outlineMaterial, shadowMaterial } from "./figureMaterials.ts";
import type { BodyLook, PoseSource, SkinnedBody, SurfaceHit } from "./skinnedBody.ts";

/** One volume of the body ready to be placed: rides on `joint`, placed by `local` in its frame (a unit tapered solid along +Y, from 0 to 1). */
export interface BodyPart {
  readonly joint: number;
  readonly local: Matrix4;
  readonly side: Volume["side"];
}

export function bodyParts(volumes: readonly Volume[]): BodyPart[] {
  return volumes.map(({ joint, side, origin, turn, size }) => ({
    joint,
    side,
    local: new Matrix4().compose(new Vector3(...origin), new Quaternion(...turn), new Vector3(...size)),
  }));
}

const _world = new Matrix4();
const _position = new Vector3();
const _turn = new Quaternion();
const _one = new Vector3(1, 1, 1);

/** A unit solid along +Y from 0 to 1, one wide at its thickest: tapered, with rounded ends. */
function partGeometry(): BufferGeometry {
  const profile = [
    [0, -0.06],
    [0.42, -0.045],
    [0.74, 0.0],
    [0.93, 0.09],
    [1, 0.22],
    [0.99, 0.4],
    [0.92, 0.62],
    [0.83, 0.8],
    [0.68, 0.93],
    [0.42, 1.01],
    [0, 1.04],
  ].map(([x, y]) => new Vector2(x, y));
  return new LatheGeometry(profile, 14);
}

/** Which way the key light falls: x and z for one metre down. */
const LIGHT = [-0.55, -1, -0.35] as const;

/** The lay figure of one motion: body and outline, and its shadows on the floor. Each is one draw call. */
export class Figure {
  readonly group = new Group();
  readonly body: InstancedMesh;
  private readonly outline: InstancedMesh;
  private readonly below: InstancedMesh;
  private readonly cast: InstancedMesh;
  private readonly shadows = new Group();
  private readonly lay = new Group();
  private skin: SkinnedBody | null = null;
  private look: BodyLook = "figure";

  constructor(
    readonly parts: readonly BodyPart[],
    private readonly colors: FigureColors,
    private readonly ghost: boolean,
  ) {
    const geometry = partGeometry();
    const count = parts.length;
    // The ghost's body writes depth alone, after everything else: of its outline only the silhouette is left, and one sees through it.
    const material = ghost ? new MeshBasicMaterial({ colorWrite: false, transparent: true }) : new MeshLambertMaterial();
    this.body = new InstancedMesh(geometry, material, count);
    this.outline = new InstancedMesh(geometry, outlineMaterial(colors.ink, ghost ? 0.85 : 0.9), count);
    this.below = new InstancedMesh(geometry, shadowMaterial(1, 0.2), count);
    this.cast = new InstancedMesh(geometry, shadowMaterial(2, 0.1), count);
    for (const mesh of [this.body, this.outline, this.below, this.cast]) {
      mesh.frustumCulled = false;
      mesh.instanceMatrix.setUsage(DynamicDrawUsage);
    }
    // All four share one matrix buffer: a pose is written once.
    if (ghost) {
      this.body.renderOrder = 5;
      this.outline.renderOrder = 6;
    }
    this.outline.instanceMatrix = this.body.instanceMatrix;
    this.below.instanceMatrix = this.body.instanceMatrix;
    this.cast.instanceMatrix = this.body.instanceMatrix;
    this.lay.add(this.body, this.outline);
    this.group.add(this.lay);
    if (!ghost) {
      this.below.matrixAutoUpdate = false;
      this.cast.matrixAutoUpdate = false;
      this.layShadows(LEVEL_GROUND);
      this.shadows.add(this.below, this.cast);
      this.lay.add(this.shadows);
      this.paint([]);
    }
  }

  /** Lays the shadows on a ground: straight down, and along the key light. */
  layShadows({ height, slopeX, slopeZ }: Omit<Ground, "shapes">): void {
    this.below.matrix.set(1, 0, 0, 0, slopeX, 0, slopeZ, height + 0.002, 0, 0, 1, 0, 0, 0, 0, 1);
    // A point p goes to p + t·d on the plane: t = (y − height − slopeX·x − slopeZ·z) / (slopeX·dx + slopeZ·dz − dy).
    const [dx, dy, dz] = LIGHT;
    const k = 1 / (slopeX * dx + slopeZ * dz - dy);
    const t = [-slopeX * k, k, -slopeZ * k, -height * k];
    const row = (d: number, own: number) => t.map((v, i) => d * v + (i === own ? 1 : 0));
    const [x, y, z] = [row(dx, 0), row(dy, 1), row(dz, 2)];
    this.cast.matrix.set(x[0], x[1], x[2], x[3], y[0], y[1], y[2], y[3] + 0.001, z[0], z[1], z[2], z[3], 0, 0, 0, 1);
    for (const mesh of [this.below, this.cast]) mesh.matrixWorldNeedsUpdate = true;
    this.skin?.shadows.forEach((mesh, i) => {
      mesh.matrix.copy(i % 2 === 0 ? this.below.matrix : this.cast.matrix);
      mesh.matrixWorldNeedsUpdate = true;
    });
  }

  /** Puts a skin on it, or takes it off; a figure without one is always the lay figure. */
  dress(skin: SkinnedBody | null): void {
    if (this.skin) {
      this.group.remove(this.skin.group, ...this.skin.shadows);
      this.skin.dispose();
    }
    this.skin = skin;
    if (skin) {
      this.group.add(skin.group, ...skin.shadows);
      skin.shadows.forEach((mesh, i) => mesh.matrix.copy(i % 2 === 0 ? this.below.matrix : this.cast.matrix));
    }
    this.show(this.look);
  }

  /** How it is drawn from now on. Its pose has to be written again. */
  show(look: BodyLook): void {
    this.look = look;
    const skinned = this.skin !== null && look !== "figure";
    this.lay.visible = !skinned;
    if (!this.skin) return;
    this.skin.group.visible = skinned;
    for (const mesh of this.skin.shadows) mesh.visible = skinned;
    if (skinned) this.skin.wear(look);
  }

  /** The joint of what a ray meets first. */
  pick(ray: Raycaster): number | null {
    if (this.skin && this.look !== "figure") return this.skin.pick(ray)?.joint ?? null;
    const hit = ray.intersectObject(this.body, false)[0];
    return hit?.instanceId === undefined ? null : this.parts[hit.instanceId].joint;
  }

  /** The place on its skin that a ray meets first, however the body is drawn; null without one. */
  pickSurface(ray: Raycaster): SurfaceHit | null {
    return this.skin?.pick(ray) ?? null;
  }

  /** Colours the parts by side; those of picked joints stand out. */
  paint(picked: readonly number[]): void {
    this.skin?.paint(picked);
    if (this.ghost) return;
    const color = new Color();
    this.parts.forEach((part, i) => {
      color.set(
        picked.includes(part.joint)
          ? this.colors.picked
          : part.side === "left"
            ? this.colors.left
            : part.side === "right"
              ? this.colors.right
              : this.colors.wood,
      );
      this.body.setColorAt(i, color);
    });
    if (this.body.instanceColor) this.body.instanceColor.needsUpdate = true;
  }

  /** One frame, from a motion or alone. */
  poseFrame(one: PosedFrame): void {
    this.pose({ frameCount: 1, jointCount: one.positions.length / 3, positions: one.positions, rotations: one.rotations }, 0);
  }

  pose(view: PoseSource, frame: number): void {
    if (this.skin && this.look !== "figure") {
      this.skin.pose(view, frame);
      return;
    }
    const f = Math.min(frame, view.frameCount - 1);
    this.parts.forEach((part, i) => {
      const p = (f * view.jointCount + part.joint) * 3;
      const q = (f * view.jointCount + part.joint) * 4;
      _position.set(view.positions[p], view.positions[p + 1], view.positions[p + 2]);
      _turn.set(view.rotations[q], view.rotations[q + 1], view.rotations[q + 2], view.rotations[q + 3]);
      _world.compose(_position, _turn, _one).multiply(part.local);
      this.body.setMatrixAt(i, _world);
    });
    this.body.instanceMatrix.needsUpdate = true;
    this.body.boundingSphere = null;
  }

  dispose(): void {
    this.skin?.dispose();
    this.body.geometry.dispose();
    for (const mesh of [this.body, this.outline, this.below, this.cast]) {
      for (const material of [mesh.material].flat()) material.dispose();
      mesh.dispose();
    }
  }
}
