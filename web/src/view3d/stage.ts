import { AmbientLight, Color, DirectionalLight, Group, Scene, Vector3, WebGLRenderer } from "three";
import type { Camera, Compare } from "../state/bench.ts";
import type { MotionView, PosedFrame } from "../worker/views.ts";
import type { BodyPart } from "./figure.ts";
import { ballAbout, followedPlace, groundPassed, surfaceUnder } from "./framing.ts";
import { Gizmo, type GizmoPlace } from "./gizmo.ts";
import { clearGroup, drawFloor, drawPrints } from "./ground.ts";
import { drawShapes } from "./groundShapes.ts";
import { drawPivot } from "./pivotMark.ts";
import { drawPointMarks, type PointMark } from "./pointMarks.ts";
import type { BodyLook, SurfaceHit } from "./skinnedBody.ts";
import { StageCamera } from "./stageCamera.ts";
import { StageFigures, type Worn } from "./stageFigures.ts";
import { Trail } from "./trail.ts";

/** The 3D view without React: figures, floor, footprints and camera. Renders when something changed, never in a loop of its own. */
export class Stage {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly eye: StageCamera;
  private readonly floor = new Group();
  private readonly shapes = new Group();
  private readonly marks = new Group();
  private readonly pivotMark = new Group();
  private readonly points = new Group();
  private readonly trail = new Trail();
  private posed: PosedFrame | null = null;
  readonly gizmo: Gizmo;
  private readonly figures = new StageFigures(this.scene, (name) => this.color(name));
  /** hips of the body in the source's place, where that is another motion */
  private otherHips: number | null = null;
  private views: { before: MotionView; after: MotionView } | undefined;
  private floorOf: MotionView | undefined;
  private floorAs = "";
  private sourceFrame = (frame: number) => frame;
  private hips = 0;
  private height = 1.7;
  private frame = 0;
  private compare: Compare = "after";
  private follow = true;
  private requested = 0;
  private readonly lastHips = new Vector3();
  /** called after every picture */
  onDraw: (() => void) | undefined;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, stencil: true, powerPreference: "high-performance" });
    this.renderer.autoClear = false;
    this.eye = new StageCamera(canvas, () => this.draw());
    const key = new DirectionalLight("#fff6e6", 2.1);
    key.position.set(1.6, 3, 2);
    this.scene.add(key, new AmbientLight("#dfe6ea", 1.55), this.floor, this.shapes, this.marks, this.trail.group, this.pivotMark, this.points);
    this.readColors();
    this.gizmo = new Gizmo(
      this.eye.camera,
      canvas,
      this.scene,
      () => this.draw(),
      (dragging) => {
        this.eye.controls.enabled = !dragging;
      },
    );
  }

  private color(name: string): string {
    return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  }

  private readColors(): void {
    this.scene.background = new Color(this.color("--stage"));
  }

  /** `other` is the body that stands in the place of the source, where it is another one. */
  setBody(parts: readonly BodyPart[], height: number, hips: number, other: { readonly parts: readonly BodyPart[]; readonly hips: number } | null): void {
    this.figures.setBody(parts, other?.parts ?? null);
    this.height = height;
    this.hips = hips;
    this.otherHips = other?.hips ?? null;
  }

  /** Skins of the result's body and of the one in the source's place; null where there is none. They are drawn as the look says. */
  setSkins(after: Worn | null, before: Worn | null): void {
    this.figures.dress(after, before, () => this.draw());
    if (this.views) this.seek(this.frame);
  }

  setLook(look: BodyLook): void {
    this.figures.setLook(look);
    if (this.views) this.seek(this.frame);
  }

  /** `sourceFrame` says which frame of the source a frame of the result shows. */
  setViews(before: MotionView, after: MotionView, sourceFrame: (frame: number) => number, first: boolean): void {
    this.views = { before, after };
    this.sourceFrame = sourceFrame;
    const floor = JSON.stringify(after.ground);
    if (before !== this.floorOf || floor !== this.floorAs) {
      drawFloor(this.floor, before, after.ground, this.hips, this.color("--line"));
      drawShapes(this.shapes, after.ground, (name) => this.color(name));
    }
    this.floorOf = before;
    this.floorAs = floor;
    this.figures.layShadowsBefore(before.ground);
    drawPrints(this.marks, after.prints, after.ground, (name) => this.color(name));
    this.seek(this.frame);
    if (first) this.look("orbit");
  }

  /** One frame that stands in for the motion while it is changed. */
  setPosed(posed: PosedFrame | null): void {
    this.posed = posed;
    if (this.views) this.poseAfter();
    this.draw();
  }

  /** The outline of a pose that the body is to come to; null takes it away. */
  showTarget(pose: PosedFrame | null): void {
    this.figures.showTarget(pose);
    this.draw();
  }

  private poseAfter(): void {
    if (!this.views) return;
    this.figures.after?.layShadows(surfaceUnder(this.views.after, this.hips, this.frame));
    if (this.posed && this.posed.frame === this.frame) this.figures.after?.poseFrame(this.posed);
    else this.figures.after?.pose(this.views.after, this.frame);
  }

  showGizmo(mode: "turn" | "move" | null, place: GizmoPlace | null): void {
    this.gizmo.show(this.compare === "side" ? null : mode, place);
  }

  /** A ring on a stem where the body turns; null takes it away. */
  showPivot(place: readonly number[] | null): void {
    drawPivot(this.pivotMark, place, this.color("--cobalt"));
    this.draw();
  }

  /** The way of a joint from one frame to another, after and before; null takes it away. */
  showTrail(joint: number | null, from: number, to: number): void {
    this.trail.clear();
    const views = this.views;
    if (joint !== null && views) {
      const last = Math.min(to, views.after.frameCount - 1);
      // Both at the frames of the result: the source at the moments that they show.
      const course = (view: MotionView) => {
        const points = new Float32Array(Math.max(0, last - from + 1) * 3);
        for (let f = from; f <= last; f++) {
          const o = (Math.min(this.frameIn(view, f), view.frameCount - 1) * view.jointCount + joint) * 3;
          for (let c = 0; c < 3; c++) points[(f - from) * 3 + c] = view.positions[o + c];
        }
        return points;
      };
      const colors = { after: this.color("--ink"), before: this.color("--ink-soft"), now: this.color("--cobalt") };
      // A joint of another body is another joint.
      const before = this.otherHips === null ? course(views.before) : new Float32Array(0);
      this.trail.set(from, course(views.after), before, this.frame, colors);
    }
    this.draw();
  }

  pickDot(x: number, y: number): { frame: number; place: Vector3 } | null {
    return this.trail.pick(x, y, this.canvas.clientWidth, this.canvas.clientHeight, this.eye.camera);
  }

  /** The way in the world that a way over the canvas (pixels) makes in the plane of the screen at a place. */
  drift(place: Vector3, dx: number, dy: number): Vector3 {
    return this.eye.drift(place, dx, dy);
  }

  turnCamera(on: boolean): void {
    this.eye.controls.enabled = on;
  }

  seek(frame: number): void {
    this.frame = frame;
    if (!this.views) return;
    this.poseAfter();
    const shown = this.sourceFrame(frame);
    this.figures.poseBefore(this.views.before, shown);
    // Followed, the camera goes with the hips; else it stays where the figure's own travel is seen, and the ground that moves is passed by.
    const at = this.follow ? this.hipsAt(frame) : groundPassed(this.views.after, frame);
    const by = at.clone().sub(this.lastHips);
    this.eye.goAlong(by);
    this.lastHips.copy(at);
    this.draw();
  }

  /** The frame of a view that is shown while the result shows `frame`. */
  private frameIn(view: MotionView, frame: number): number {
    return view === this.views?.before ? this.sourceFrame(frame) : frame;
  }

  private hipsAt(frame: number): Vector3 {
    const view = this.shownView;
    const hips = view === this.views?.before ? (this.otherHips ?? this.hips) : this.hips;
    return view ? new Vector3(...followedPlace(view, hips, this.frameIn(view, frame))) : new Vector3();
  }

  /** How far, over the ground, another motion's hips are from those of the result, now. */
  private asideOf({ before, after }: { before: MotionView; after: MotionView }, hips: number): Vector3 {
    const there = new Vector3(...followedPlace(before, hips, this.sourceFrame(this.frame)));
    return there.sub(new Vector3(...followedPlace(after, this.hips, this.frame))).setY(0);
  }

  private get shownView(): MotionView | undefined {
    return this.views?.[this.compare === "before" ? "before" : "after"];
  }

  setCompare(compare: Compare): void {
    const stepped = (compare === "side") !== (this.compare === "side");
    this.compare = compare;
    // Half the width for each figure: stand further back.
    if (stepped) this.eye.standOff(compare === "side" ? 4 / 3 : 3 / 4);
    this.draw();
  }

  setFollow(follow: boolean): void {
    this.follow = follow;
    if (this.views) this.lastHips.copy(follow ? this.hipsAt(this.frame) : groundPassed(this.views.after, this.frame));
  }

  paint(picked: readonly number[]): void {
    this.figures.after?.paint(picked);
    this.draw();
  }

  /** Puts the camera where a question is best answered. `span` widens the view above to the whole path. */
  look(camera: Camera): void {
    const view = this.shownView;
    const { centre, radius } = ballAbout(view, view ? this.frameIn(view, this.frame) : 0, this.height);
    this.eye.look(camera, centre, radius, this.compare === "side");
    this.draw();
  }

  /** Brings a place close to the floor into view, as people look at feet. */
  lookAtFloor(place: readonly [number, number, number]): void {
    this.eye.lookAtFloor(place);
    if (this.follow) this.lastHips.copy(this.hipsAt(this.frame));
    this.draw();
  }

  /** Brings a joint of the result into view; `size` is how much of its surroundings, metres; seen from the side away from the joint `outOf`. */
  lookAtJoint(joint: number, size: number, outOf: number | null): void {
    const view = this.views?.after;
    if (!view) return;
    const at = (j: number) => {
      const o = (Math.min(this.frame, view.frameCount - 1) * view.jointCount + j) * 3;
      return [view.positions[o], view.positions[o + 1], view.positions[o + 2]];
    };
    this.eye.lookAtPlace(at(joint), size, outOf === null ? null : at(outOf));
    this.draw();
  }

  /** Marks places on the body; none takes them away. */
  markPoints(marks: readonly PointMark[]): void {
    drawPointMarks(this.points, marks, this.height, { rim: this.color("--ink"), middle: this.color("--sheet"), picked: this.color("--cobalt") });
    this.draw();
  }

  /** The joint under a point of the canvas (CSS pixels), or null. */
  pick(x: number, y: number): number | null {
    const target = this.compare === "before" ? this.figures.beforeSolid : this.figures.after;
    if (!target) return null;
    return target.pick(this.eye.rayAt(x, y));
  }

  /** The place of the skin under a point of the canvas, and the joint that moves it most; null where there is none. */
  pickSurface(x: number, y: number): SurfaceHit | null {
    return this.figures.after?.pickSurface(this.eye.rayAt(x, y)) ?? null;
  }

  /** Where a joint of the result stands on the canvas, CSS pixels. */
  partOnCanvas(joint: number | undefined): { x: number; y: number } | null {
    const view = this.views?.after;
    if (!view || joint === undefined) return null;
    const o = (Math.min(this.frame, view.frameCount - 1) * view.jointCount + joint) * 3;
    return this.project([view.positions[o], view.positions[o + 1], view.positions[o + 2]]);
  }

  /** Where a world point stands on the canvas, CSS pixels; null behind the camera. */
  project(point: readonly [number, number, number]): { x: number; y: number } | null {
    return this.eye.project(point);
  }

  resize(width: number, height: number): void {
    if (width === 0 || height === 0) return;
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.renderer.setSize(width, height, false);
    this.eye.aspect(width / height);
    this.draw();
  }

  /** Asks for one picture at the next frame. */
  draw(): void {
    if (this.requested) return;
    this.requested = requestAnimationFrame(() => {
      this.requested = 0;
      this.render();
      this.onDraw?.();
    });
  }

  private render(): void {
    const { renderer, canvas, compare } = this;
    if (!this.figures.there) return;
    const width = canvas.clientWidth;
    const height = canvas.clientHeight;
    renderer.setScissorTest(compare === "side");
    renderer.clear();
    const half = (left: number) => {
      renderer.setViewport(left, 0, width / 2, height);
      renderer.setScissor(left, 0, width / 2, height);
      this.eye.aspect(width / 2 / height);
      renderer.render(this.scene, this.eye.camera);
    };
    if (compare === "side") {
      this.figures.show(false, false, true);
      // Another motion goes its own way: its half follows its own hips.
      const aside = this.otherHips !== null && this.views ? this.asideOf(this.views, this.otherHips) : null;
      if (aside) this.eye.camera.position.add(aside);
      half(0);
      if (aside) this.eye.camera.position.sub(aside);
      this.figures.show(true, false, false);
      half(width / 2);
      return;
    }
    this.figures.show(compare !== "before", compare === "both", compare === "before");
    renderer.setViewport(0, 0, width, height);
    this.eye.aspect(width / height);
    renderer.render(this.scene, this.eye.camera);
  }

  dispose(): void {
    cancelAnimationFrame(this.requested);
    this.gizmo.dispose();
    this.trail.clear();
    clearGroup(this.pivotMark);
    clearGroup(this.points);
    this.eye.dispose();
    this.figures.dispose();
    for (const group of [this.floor, this.shapes, this.marks]) clearGroup(group);
    this.renderer.dispose();
  }
}
