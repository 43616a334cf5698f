import { faceAt, inputAt, type SkinFace, type TimeWarp } from "@stride/motion";
import {
  Bone,
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  FrontSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  type Material,
  Matrix4,
  MeshBasicMaterial,
  MeshLambertMaterial,
  Quaternion,
  type Raycaster,
  Skeleton,
  SkinnedMesh,
  Sphere,
  SRGBColorSpace,
  Texture,
  Vector3,
} from "three";
import type { SkinView } from "../worker/views.ts";
import { extrudedOutline, type FigureColors, shadowMaterial } from "./figureMaterials.ts";

/** How a body is drawn: as the lay figure, on its own skin, or as paper with its bones over it. */
export type BodyLook = "figure" | "skin" | "bones";

/** A place on a body's surface, in the world, and the joint that moves it most. */
export interface SurfaceHit {
  readonly joint: number;
  readonly place: readonly [number, number, number];
}

/** Where joints are, frame by frame. */
export interface PoseSource {
  readonly frameCount: number;
  readonly jointCount: number;
  readonly positions: ArrayLike<number>;
  readonly rotations: ArrayLike<number>;
  /** with its rate, where faces move in it: which moment of the source each of its moments shows */
  readonly fps?: number;
  readonly time?: TimeWarp;
}

const EVERYWHERE = new Sphere(new Vector3(), 1e9);
const _position = new Vector3();
const _turn = new Quaternion();
const _one = new Vector3(1, 1, 1);

/** A body on its skin: a mesh a part, moved by bones whose places in the world are written as they are. */
export class SkinnedBody {
  readonly group = new Group();
  readonly shadows: readonly SkinnedMesh[];
  private readonly bones: Bone[];
  private readonly meshes: SkinnedMesh[] = [];
  private readonly outlines: SkinnedMesh[] = [];
  private readonly lines: LineSegments;
  private readonly textures: Texture[] = [];
  private readonly faces: { readonly face: SkinFace; readonly influences: number[] }[] = [];
  private look: BodyLook = "skin";
  private picked: readonly number[] = [];

  constructor(
    private readonly skin: SkinView,
    private readonly colors: FigureColors,
    private readonly ghost: boolean,
    /** which side each joint is on, and its parent; −1 for a root */
    private readonly sides: readonly ("left" | "right" | null)[],
    private readonly parents: ArrayLike<number>,
    redraw: () => void,
  ) {
    this.bones = [...skin.joints].map(() => {
      const bone = new Bone();
      bone.matrixAutoUpdate = false;
      bone.matrixWorldAutoUpdate = false;
      return bone;
    });
    const inverses = this.bones.map((_, i) => new Matrix4().fromArray(skin.binds, i * 16));
    const skeleton = new Skeleton(this.bones, inverses);
    const below: SkinnedMesh[] = [];
    for (const part of skin.parts) {
      const geometry = new BufferGeometry();
      geometry.setAttribute("position", new BufferAttribute(part.positions, 3));
      geometry.setAttribute("normal", new BufferAttribute(part.normals, 3));
      geometry.setAttribute("skinIndex", new BufferAttribute(part.binds, 4));
      geometry.setAttribute("skinWeight", new BufferAttribute(part.weights, 4));
      geometry.setAttribute("color", new BufferAttribute(new Float32Array(part.positions.length), 3));
      if (part.uvs) geometry.setAttribute("uv", new BufferAttribute(part.uvs, 2));
      geometry.setIndex(new BufferAttribute(part.indices, 1));
      const influences: number[] = part.face ? [...part.face.rest].fill(0) : [];
      if (part.face) {
        geometry.morphTargetsRelative = true;
        geometry.morphAttributes.position = part.face.targets.map((t) => new BufferAttribute(t.positions, 3));
        if (part.face.targets.every((t) => t.normals))
          geometry.morphAttributes.normal = part.face.targets.map((t) => new BufferAttribute(t.normals as Float32Array, 3));
        this.faces.push({ face: part.face, influences });
      }
      const side = part.material.doubleSided ? DoubleSide : FrontSide;
      const opacity = part.material.colour[3];
      const body = ghost
        ? new MeshBasicMaterial({ colorWrite: false, transparent: true })
        : new MeshLambertMaterial({ vertexColors: true, side, transparent: opacity < 1, opacity });
      const add = (material: Material) => {
        const mesh = new SkinnedMesh(geometry, material);
        // All that is drawn of a part has one face.
        if (part.face) mesh.morphTargetInfluences = influences;
        mesh.bindMode = "detached";
        mesh.bind(skeleton, new Matrix4());
        mesh.frustumCulled = false;
        mesh.boundingSphere = EVERYWHERE;
        return mesh;
      };
      const mesh = add(body);
      const outline = add(extrudedOutline(colors.ink, ghost ? 0.85 : 0.9));
      if (ghost) {
        mesh.renderOrder = 5;
        outline.renderOrder = 6;
      }
      this.meshes.push(mesh);
      this.outlines.push(outline);
      this.group.add(mesh, outline);
      if (!ghost) below.push(add(shadowMaterial(1, 0.2)), add(shadowMaterial(2, 0.1)));
      if (part.material.picture && !ghost) this.lay(part.material.picture, body as MeshLambertMaterial, redraw);
    }
    for (const mesh of below) mesh.matrixAutoUpdate = false;
    this.shadows = below;
    const pairs = [...skin.joints].filter((joint) => parents[joint] >= 0);
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(pairs.length * 6), 3));
    this.lines = new LineSegments(geometry, new LineBasicMaterial({ color: colors.ink, depthTest: false, transparent: true }));
    this.lines.frustumCulled = false;
    this.lines.renderOrder = 8;
    this.lines.visible = false;
    if (!ghost) this.group.add(this.lines);
    this.wear("skin");
  }

  /** Draws it another way. */
  wear(look: BodyLook): void {
    this.look = look;
    this.lines.visible = look === "bones" && !this.ghost;
    this.paint(this.picked);
  }

  /** Colours the vertices: their own, or paper tinted by side; what picked joints move stands out. */
  paint(picked: readonly number[]): void {
    this.picked = picked;
    if (this.ghost) return;
    const { skin, colors } = this;
    const paper = { left: new Color(colors.left), right: new Color(colors.right), none: new Color(colors.wood) };
    const chosen = new Color(colors.picked);
    const own = new Color();
    skin.parts.forEach((part, p) => {
      const [r, g, b] = part.material.colour;
      const material = this.meshes[p].material as MeshLambertMaterial;
      const pictured = this.look === "skin" && part.material.picture !== null;
      const map = pictured ? (this.textures.find((t) => t.userData.part === part) ?? null) : null;
      if (material.map !== map) {
        material.map = map;
        material.needsUpdate = true;
      }
      const attribute = this.meshes[p].geometry.getAttribute("color") as BufferAttribute;
      for (let v = 0; v * 3 < part.positions.length; v++) {
        let share = 0;
        let most = 0;
        for (let k = 0; k < 4; k++) {
          const weight = part.weights[v * 4 + k];
          if (weight > part.weights[v * 4 + most]) most = k;
          if (weight > 0 && picked.includes(skin.joints[part.binds[v * 4 + k]])) share += weight;
        }
        if (this.look === "skin") own.setRGB(r * (part.colours?.[v * 3] ?? 1), g * (part.colours?.[v * 3 + 1] ?? 1), b * (part.colours?.[v * 3 + 2] ?? 1));
        else own.copy(paper[this.sides[skin.joints[part.binds[v * 4 + most]]] ?? "none"]);
        if (share > 0) own.lerp(chosen, Math.min(1, share) * 0.75);
        attribute.setXYZ(v, own.r, own.g, own.b);
      }
      attribute.needsUpdate = true;
    });
  }

  pose(view: PoseSource, frame: number): void {
    const f = Math.min(frame, view.frameCount - 1);
    this.bones.forEach((bone, i) => {
      const p = (f * view.jointCount + this.skin.joints[i]) * 3;
      const q = (f * view.jointCount + this.skin.joints[i]) * 4;
      _position.set(view.positions[p], view.positions[p + 1], view.positions[p + 2]);
      _turn.set(view.rotations[q], view.rotations[q + 1], view.rotations[q + 2], view.rotations[q + 3]);
      bone.matrixWorld.compose(_position, _turn, _one);
    });
    if (view.time && view.fps) {
      const moment = inputAt(view.time, f / view.fps);
      for (const { face, influences } of this.faces) faceAt(influences, face, moment);
    }
    if (!this.lines.visible) return;
    const lines = this.lines.geometry.getAttribute("position") as BufferAttribute;
    let at = 0;
    for (const joint of this.skin.joints) {
      const parent = this.parents[joint];
      if (parent < 0) continue;
      for (const j of [parent, joint]) {
        const o = (f * view.jointCount + j) * 3;
        lines.setXYZ(at++, view.positions[o], view.positions[o + 1], view.positions[o + 2]);
      }
    }
    lines.needsUpdate = true;
  }

  /** What a ray meets first: its place in the world, and the joint that moves most of it; null where it meets nothing. */
  pick(ray: Raycaster): SurfaceHit | null {
    const [hit] = ray.intersectObjects(this.meshes, false);
    if (!hit?.face) return null;
    const part = this.skin.parts[this.meshes.indexOf(hit.object as SkinnedMesh)];
    const pull = new Map<number, number>();
    for (const v of [hit.face.a, hit.face.b, hit.face.c])
      for (let k = 0; k < 4; k++) {
        const joint = this.skin.joints[part.binds[v * 4 + k]];
        pull.set(joint, (pull.get(joint) ?? 0) + part.weights[v * 4 + k]);
      }
    return { joint: [...pull].sort((a, b) => b[1] - a[1])[0][0], place: hit.point.toArray() };
  }

  private lay(picture: { readonly mime: string; readonly bytes: Uint8Array }, material: MeshLambertMaterial, redraw: () => void): void {
    const part = this.skin.parts[this.meshes.length - 1];
    void createImageBitmap(new Blob([picture.bytes as BlobPart], { type: picture.mime })).then((image) => {
      const texture = new Texture(image);
      texture.flipY = false;
      texture.colorSpace = SRGBColorSpace;
      texture.userData.part = part;
      texture.needsUpdate = true;
      this.textures.push(texture);
      if (this.look === "skin") {
        material.map = texture;
        material.needsUpdate = true;
      }
      redraw();
    });
  }

  dispose(): void {
    for (const mesh of [...this.meshes, ...this.outlines, ...this.shadows]) {
      mesh.geometry.dispose();
      for (const material of [mesh.material].flat()) material.dispose();
    }
    this.meshes[0]?.skeleton.dispose();
    this.lines.geometry.dispose();
    (this.lines.material as Material).dispose();
    for (const texture of this.textures) texture.dispose();
  }
}
