import { PerspectiveCamera, Raycaster, Vector2, Vector3 } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Camera } from "../state/bench.ts";

/** The camera of the 3D view: dragged round by the pointer, put where a question is best answered, and what it sees where. Canvas places are CSS pixels. */
export class StageCamera {
  readonly camera = new PerspectiveCamera(32, 1, 0.05, 200);
  readonly controls: OrbitControls;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    moved: () => void,
  ) {
    this.camera.position.set(2.6, 1.5, 3.4);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.target.set(0, 0.9, 0);
    this.controls.enableDamping = false;
    this.controls.maxPolarAngle = Math.PI * 0.52;
    this.controls.minDistance = 0.3;
    this.controls.maxDistance = 40;
    this.controls.addEventListener("change", moved);
  }

  /** Goes along with what it looks at. */
  goAlong(by: Vector3): void {
    this.controls.target.add(by);
    this.camera.position.add(by);
    this.controls.update();
  }

  /** Further from what it looks at, or nearer. */
  standOff(times: number): void {
    const away = this.camera.position.clone().sub(this.controls.target);
    this.camera.position.copy(this.controls.target).addScaledVector(away, times);
    this.controls.update();
  }

  /** From one of its usual sides; `wide` where half of the width is there for each of two figures. */
  look(camera: Camera, centre: readonly [number, number, number], radius: number, wide: boolean): void {
    const far = radius * (wide ? 5.2 : 3.9);
    const place = { orbit: [far * 0.62, radius * 0.5, far * 0.8], front: [0, 0.05, far], side: [far, 0.05, 0], above: [0.001, far * 1.5, 0.001] }[camera];
    this.controls.target.set(...centre);
    this.camera.position.set(centre[0] + place[0], centre[1] + place[1], centre[2] + place[2]);
    this.controls.update();
  }

  /** Near to a place on the floor, as people look at feet. */
  lookAtFloor([x, y, z]: readonly [number, number, number]): void {
    const from = this.camera.position.clone().sub(this.controls.target).setY(0).normalize();
    this.controls.target.set(x, y + 0.22, z);
    this.camera.position.set(x + from.x * 1.9, y + 0.55, z + from.z * 1.9);
    this.controls.update();
  }

  /** Near to a place, `size` metres of its surroundings in view; from the side away from `outOf`, a little from above. */
  lookAtPlace(place: readonly number[], size: number, outOf: readonly number[] | null): void {
    const from = this.camera.position.clone().sub(this.controls.target).normalize();
    if (outOf) {
      from.set(place[0] - outOf[0], 0, place[2] - outOf[2]).normalize();
      from.y = 0.25;
      from.normalize();
    }
    this.controls.target.set(place[0], place[1], place[2]);
    this.camera.position.copy(this.controls.target).addScaledVector(from, size * 2.2);
    this.controls.update();
  }

  /** What is seen through a place of the canvas. */
  rayAt(x: number, y: number): Raycaster {
    const ray = new Raycaster();
    ray.setFromCamera(new Vector2((x / this.canvas.clientWidth) * 2 - 1, 1 - (y / this.canvas.clientHeight) * 2), this.camera);
    return ray;
  }

  /** Where a world point stands on the canvas; null behind the camera. */
  project(point: readonly [number, number, number]): { x: number; y: number } | null {
    const v = new Vector3(...point).project(this.camera);
    if (v.z > 1) return null;
    return { x: ((v.x + 1) / 2) * this.canvas.clientWidth, y: ((1 - v.y) / 2) * this.canvas.clientHeight };
  }

  /** The way in the world that a way over the canvas makes in the plane of the screen at a place. */
  drift(place: Vector3, dx: number, dy: number): Vector3 {
    const at = place.clone().project(this.camera);
    at.x += (2 * dx) / this.canvas.clientWidth;
    at.y -= (2 * dy) / this.canvas.clientHeight;
    return at.unproject(this.camera).sub(place);
  }

  aspect(value: number): void {
    this.camera.aspect = value;
    this.camera.updateProjectionMatrix();
  }

  dispose(): void {
    this.controls.dispose();
  }
}
