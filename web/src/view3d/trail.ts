import { BufferAttribute, BufferGeometry, type Camera, Group, Line, LineBasicMaterial, Points, PointsMaterial, Vector3 } from "three";

/** The way of a point over some frames: a line with a dot a frame, before (thin) and after. Spacing shows speed. */
export class Trail {
  readonly group = new Group();
  private frames: readonly number[] = [];
  private points: Float32Array = new Float32Array(0);

  set(firstFrame: number, after: Float32Array, before: Float32Array, now: number, colors: { after: string; before: string; now: string }): void {
    this.clear();
    this.points = after;
    this.frames = Array.from({ length: after.length / 3 }, (_, i) => firstFrame + i);
    const line = (points: Float32Array, color: string, opacity: number) => {
      const geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(points, 3));
      const drawn = new Line(geometry, new LineBasicMaterial({ color, transparent: true, opacity, depthTest: false }));
      drawn.renderOrder = 8;
      this.group.add(drawn);
    };
    const dots = (points: Float32Array, color: string, size: number) => {
      const geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(points, 3));
      const drawn = new Points(geometry, new PointsMaterial({ color, size, sizeAttenuation: false, depthTest: false, transparent: true }));
      drawn.renderOrder = 9;
      this.group.add(drawn);
    };
    line(before, colors.before, 0.55);
    line(after, colors.after, 0.9);
    dots(after, colors.after, 3.5);
    const i = now - firstFrame;
    if (i >= 0 && i * 3 < after.length) dots(after.slice(i * 3, i * 3 + 3), colors.now, 10);
  }

  clear(): void {
    for (const child of [...this.group.children]) {
      this.group.remove(child);
      if (child instanceof Line || child instanceof Points) {
        child.geometry.dispose();
        (child.material as LineBasicMaterial | PointsMaterial).dispose();
      }
    }
    this.frames = [];
    this.points = new Float32Array(0);
  }

  /** The frame whose dot lies within `reach` pixels of a point of the canvas, and its place in the world; null when none does. */
  pick(x: number, y: number, width: number, height: number, camera: Camera, reach = 9): { frame: number; place: Vector3 } | null {
    let best: { frame: number; place: Vector3 } | null = null;
    let nearest = reach;
    const v = new Vector3();
    this.frames.forEach((frame, i) => {
      v.fromArray(this.points, i * 3).project(camera);
      const away = Math.hypot(((v.x + 1) / 2) * width - x, ((1 - v.y) / 2) * height - y);
      if (v.z < 1 && away < nearest) {
        nearest = away;
        best = { frame, place: new Vector3().fromArray(this.points, i * 3) };
      }
    });
    return best;
  }
}
