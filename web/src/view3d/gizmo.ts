import { rotationRadians } from "@stride/motion";
import { type Camera, Object3D, Quaternion, type Scene, Vector3 } from "three";
import { TransformControls } from "three/examples/jsm/controls/TransformControls.js";

export interface GizmoPlace {
  readonly position: readonly number[];
  /** axes of the chosen space, in the world */
  readonly axes: readonly number[];
}

/**
 * Rings and axes at the selected part. Reports what the hand asks for since the press, as a vector in the chosen axes: a rotation vector in
 * radians, or a way in metres. With Shift held the hand moves a tenth as far.
 */
export class Gizmo {
  private readonly controls: TransformControls;
  private readonly handle = new Object3D();
  private readonly startTurn = new Quaternion();
  private readonly startPlace = new Vector3();
  private readonly total = new Vector3();
  private readonly last = new Vector3();
  private fine = false;
  private snapTo = 0;
  onDrag: ((vector: Vector3) => void) | undefined;
  onStart: (() => void) | undefined;
  onEnd: (() => void) | undefined;

  constructor(
    camera: Camera,
    canvas: HTMLElement,
    scene: Scene,
    private readonly changed: () => void,
    busy: (dragging: boolean) => void,
  ) {
    this.controls = new TransformControls(camera, canvas);
    this.controls.setSpace("local");
    this.controls.setSize(0.85);
    scene.add(this.handle, this.controls.getHelper());
    this.controls.getHelper().visible = false;
    this.controls.enabled = false;
    this.controls.addEventListener("change", () => this.changed());
    this.controls.addEventListener("dragging-changed", (event) => {
      busy(event.value === true);
      if (event.value) {
        this.startTurn.copy(this.handle.quaternion);
        this.startPlace.copy(this.handle.position);
        this.total.set(0, 0, 0);
        this.last.set(0, 0, 0);
        this.onStart?.();
      } else this.onEnd?.();
    });
    this.controls.addEventListener("objectChange", () => this.drag());
    window.addEventListener("keydown", this.onKey);
    window.addEventListener("keyup", this.onKey);
  }

  private readonly onKey = (event: KeyboardEvent) => {
    this.fine = event.shiftKey;
    this.applySnap();
  };

  get dragging(): boolean {
    return this.controls.dragging;
  }

  /** Is the pointer on a ring or an axis? */
  get over(): boolean {
    return this.controls.enabled && this.controls.axis !== null;
  }

  /** Degrees or centimetres; 0 is free. */
  snap(step: number): void {
    this.snapTo = step;
    this.applySnap();
  }

  private applySnap(): void {
    const step = this.fine ? 0 : this.snapTo;
    this.controls.setRotationSnap(step === 0 ? null : (step * Math.PI) / 180);
    this.controls.setTranslationSnap(step === 0 ? null : step / 100);
  }

  show(mode: "turn" | "move" | null, place: GizmoPlace | null): void {
    const on = mode !== null && place !== null;
    this.controls.enabled = on;
    this.controls.getHelper().visible = on;
    if (!on) {
      this.controls.detach();
      this.changed();
      return;
    }
    if (this.controls.dragging) return;
    this.controls.setMode(mode === "turn" ? "rotate" : "translate");
    this.handle.position.set(place.position[0], place.position[1], place.position[2]);
    this.handle.quaternion.set(place.axes[0], place.axes[1], place.axes[2], place.axes[3]);
    this.handle.updateMatrixWorld();
    this.controls.attach(this.handle);
    this.changed();
  }

  private drag(): void {
    if (!this.controls.dragging) return;
    const now = new Vector3();
    const back = this.startTurn.clone().invert();
    if (this.controls.mode === "rotate") {
      const turn = back.clone().multiply(this.handle.quaternion);
      now.set(...rotationRadians(turn.toArray()));
      // Past half a turn the short way is the other way round: stay with the hand.
      if (now.distanceTo(this.last) > Math.PI && now.length() > 1e-6) now.addScaledVector(now.clone().normalize(), -2 * Math.PI);
    } else now.copy(this.handle.position).sub(this.startPlace).applyQuaternion(back);
    this.total.addScaledVector(now.clone().sub(this.last), this.fine ? 0.1 : 1);
    this.last.copy(now);
    this.onDrag?.(this.total.clone());
  }

  dispose(): void {
    window.removeEventListener("keydown", this.onKey);
    window.removeEventListener("keyup", this.onKey);
    this.controls.dispose();
  }
}
