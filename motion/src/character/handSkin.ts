import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { Character } from "./character.ts";
import { type ContactPoint, handMiddle } from "./contactPoints.ts";
import { palmWay, restSurface } from "./onSkin.ts";
import { SIDES } from "./roles.ts";
import type { Skin } from "./skin.ts";
import { type Carried, placeOf, skinExtremes } from "./skinExtremes.ts";

/** What of a hand's skin can come near the ground. */
export interface HandSkin {
  readonly hand: number;
  /** the palm, and the way that it faces (unit length), in the hand's frame, metres */
  readonly palm: Float64Array;
  readonly faces: Float64Array;
  /** joints of the fingers, each before those that hang on it */
  readonly fingers: readonly number[];
  /** vertices as the hand and its fingers carry them, each place in its joint's frame */
  readonly places: readonly Pick<Carried, "by">[];
  /** how far the furthest is from the hand's joint at rest, metres */
  readonly reach: number;
}

const read = new WeakMap<BodyMap, ReadonlyMap<number, HandSkin>>();

/** The hands of a body on two legs with a skin, by their joints; read once for a body. Empty without one. */
export function handSkins(character: Character, points: readonly ContactPoint[]): ReadonlyMap<number, HandSkin> {
  const { skin } = character.details;
  if (!skin || character.body.plan !== "biped") return new Map();
  const hands = read.get(character.body) ?? readHands(character, skin, points);
  read.set(character.body, hands);
  return hands;
}

function readHands({ skeleton, body, rig }: Character, skin: Skin, points: readonly ContactPoint[]): ReadonlyMap<number, HandSkin> {
  const surface = restSurface(skeleton, skin);
  const { positions, rotations } = surface.world;
  const extremes = skinExtremes(skin, surface);
  const at = new Float64Array(3);
  const out = new Map<number, HandSkin>();
  for (const side of SIDES) {
    const point = points.find((p) => p.id === `${side}Hand`);
    const middle = handMiddle(skeleton, body, side);
    if (!point) continue;
    const hand = point.joint;
    const back = conjugateQuatFlat(new Float64Array(4), 0, rotations, hand * 4);
    const place = rotateVecFlat(new Float64Array(3), 0, rotations, hand * 4, middle, 0);
    for (let c = 0; c < 3; c++) place[c] += positions[hand * 3 + c];
    const faces = Float64Array.from(palmWay(surface, rig, body, side, place));
    const size = Math.hypot(...faces);
    if (size < 1e-9) continue;
    rotateVecFlat(faces, 0, back, 0, faces, 0);
    const under = (joint: number) => ancestry(skeleton, joint).includes(hand);
    let reach = 0;
    const places = extremes.flatMap((carried): HandSkin["places"] => {
      if (!under(carried.joint)) return [];
      placeOf(at, carried, positions, rotations);
      const own = at.map((v, c) => v - positions[hand * 3 + c]);
      reach = Math.max(reach, Math.hypot(...own));
      rotateVecFlat(own, 0, back, 0, own, 0);
      // What the forearm has in it goes with the hand.
      const fingers = carried.by.filter(({ joint }) => under(joint));
      const rest = 1 - fingers.reduce((sum, { weight }) => sum + weight, 0);
      return [{ by: rest > 1e-6 ? [...fingers, { joint: hand, weight: rest, local: [own[0], own[1], own[2]] }] : fingers }];
    });
    if (places.length === 0) continue;
    const fingers = [...skeleton.names.keys()].filter((joint) => joint !== hand && under(joint));
    out.set(hand, { hand, palm: Float64Array.from(point.local), faces: faces.map((v) => v / size), fingers, places, reach });
  }
  return out;
}
