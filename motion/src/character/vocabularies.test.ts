import { describe, expect, it } from "vitest";
import { ROLES } from "./roles.ts";
import { hanimNames, hanimRoles, vrmName, vrmRoles } from "./vocabularies.ts";

describe("what open standards call the parts", () => {
  it("is one bone a part in VRM, and each bone comes back as its part", () => {
    const roles = Object.fromEntries(ROLES.map((role, i) => [role, i]));
    const named = ROLES.flatMap((role) => {
      const name = vrmName(role, roles);
      return name ? [[name, roles[role]] as const] : [];
    });
    expect(new Set(named.map(([name]) => name)).size).toBe(named.length);
    // 4 of the trunk and its upper chest, neck and head are 7; 8 a side of limbs; 15 a side of fingers (VRM 1.0 without eyes and jaw).
    expect(named.length).toBe(6 + 16 + 30);
    const back = vrmRoles(new Map(named));
    for (const [role, joint] of Object.entries(back)) expect(joint).toBe(roles[role]);
    expect(vrmName("chest")).toBe("chest");
    expect(vrmName("leftThumb")).toBe("leftThumbMetacarpal");
    expect(vrmName("rightLittle3")).toBe("rightLittleDistal");
    expect(vrmName("tail")).toBeNull();
  });

  it("tells a body that speaks H-Anim, of either edition, and no other", () => {
    const first = [
      "HumanoidRoot",
      "l_hip",
      "l_knee",
      "l_ankle",
      "r_hip",
      "r_knee",
      "r_ankle",
      "l_shoulder",
      "l_elbow",
      "l_wrist",
      "skullbase",
      "l_thumb1",
      "l_pinky1",
    ];
    const roles = hanimRoles(first);
    expect(roles).toMatchObject({ hips: 0, leftThigh: 1, leftFoot: 3, rightShin: 5, leftForearm: 8, leftHand: 9, head: 10, leftThumb: 11, leftLittle: 12 });
    const second = [
      "humanoid_root",
      "sacroiliac",
      "l_hip",
      "l_knee",
      "l_talocrural",
      "r_hip",
      "r_knee",
      "r_talocrural",
      "r_radiocarpal",
      "r_metacarpophalangeal_2",
    ];
    expect(hanimRoles(second)).toMatchObject({ hips: 1, leftFoot: 4, rightHand: 8, rightIndex: 9 });
    expect(hanimRoles(["Hips", "LeftLeg", "RightLeg", "l_hip"])).toBeNull();
    expect(hanimNames("leftRing2")).toEqual(["l_carpal_proximal_interphalangeal_4", "l_ring2"]);
  });
});
