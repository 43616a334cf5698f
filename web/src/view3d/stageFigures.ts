import { Color, type Scene } from "three";
import type { MotionView, PosedFrame, SkinView } from "../worker/views.ts";
import { type BodyPart, Figure } from "./figure.ts";
import type { FigureColors } from "./figureMaterials.ts";
import { type BodyLook, SkinnedBody } from "./skinnedBody.ts";

/** A skin, with what is to be known of the joints that it hangs on. */
export interface Worn {
  readonly skin: SkinView;
  readonly sides: readonly ("left" | "right" | null)[];
  readonly parents: ArrayLike<number>;
}

/** The figures of a stage: the result's, the source's as a ghost and solid, and the outline of a pose that is aimed at. */
export class StageFigures {
  after: Figure | undefined;
  beforeSolid: Figure | undefined;
  private before: Figure | undefined;
  private target: Figure | undefined;

  /** `color` reads a colour of the page by its name. */
  constructor(
    private readonly scene: Scene,
    private readonly color: (name: string) => string,
  ) {}

  private get all(): (Figure | undefined)[] {
    return [this.after, this.before, this.beforeSolid, this.target];
  }

  get there(): boolean {
    return this.all.every((figure) => figure !== undefined);
  }

  /** New bodies; `other` are the parts of the one that stands in the place of the source, where it is another one. */
  setBody(parts: readonly BodyPart[], other: readonly BodyPart[] | null): void {
    for (const figure of this.all) {
      if (!figure) continue;
      this.scene.remove(figure.group);
      figure.dispose();
    }
    const colors = this.colors();
    const source = other ?? parts;
    this.after = new Figure(parts, colors, false);
    this.beforeSolid = new Figure(source, colors, false);
    this.before = new Figure(source, { ...colors, wood: this.color("--sheet"), ink: this.color("--ink-soft") }, true);
    const cobalt = this.color("--cobalt");
    this.target = new Figure(parts, { ...colors, wood: cobalt, left: cobalt, right: cobalt, ink: cobalt }, true);
    this.target.group.visible = false;
    this.scene.add(this.after.group, this.before.group, this.beforeSolid.group, this.target.group);
  }

  /** Skins of the result's body and of the one in the source's place; null where there is none. */
  dress(after: Worn | null, before: Worn | null, redraw: () => void): void {
    const made = (worn: Worn | null, ghost: boolean) =>
      worn && new SkinnedBody(worn.skin, { ...this.colors(), ...(ghost && { ink: this.color("--ink-soft") }) }, ghost, worn.sides, worn.parents, redraw);
    this.after?.dress(made(after, false));
    this.beforeSolid?.dress(made(before, false));
    this.before?.dress(made(before, true));
  }

  setLook(look: BodyLook): void {
    for (const figure of [this.after, this.beforeSolid, this.before]) figure?.show(look);
  }

  private colors(): FigureColors {
    const tint = (name: string) => `#${new Color("#f1e9df").lerp(new Color(this.color(name)), 0.5).getHexString()}`;
    return { wood: "#e8d3a6", left: tint("--plum"), right: tint("--teal"), ink: this.color("--ink"), picked: this.color("--cobalt") };
  }

  layShadowsBefore(ground: MotionView["ground"]): void {
    this.beforeSolid?.layShadows(ground);
  }

  poseBefore(view: MotionView, frame: number): void {
    this.before?.pose(view, frame);
    this.beforeSolid?.pose(view, frame);
  }

  /** The outline of a pose that the body is to come to; null takes it away. */
  showTarget(pose: PosedFrame | null): void {
    if (!this.target) return;
    if (pose) this.target.poseFrame(pose);
    this.target.group.visible = pose !== null;
  }

  show(after: boolean, ghost: boolean, solidBefore: boolean): void {
    if (this.after) this.after.group.visible = after;
    if (this.before) this.before.group.visible = ghost;
    if (this.beforeSolid) this.beforeSolid.group.visible = solidBefore;
  }

  dispose(): void {
    for (const figure of this.all) figure?.dispose();
  }
}
