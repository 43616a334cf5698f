/**
 * BVH text of a stick figure that walks by plain sines, 15 % too fast for its feet, 3 cm over the floor: an independent and much simpler
 * generator than the demo's, for tests of the core alone. 30 fps, centimetres.
 */
export function skatingBody(frames = 90): string {
  const limb = (side: string, x: number) => `
  JOINT ${side}UpLeg { OFFSET ${x} -3 0 CHANNELS 3 Zrotation Xrotation Yrotation
    JOINT ${side}Leg { OFFSET 0 -43 0 CHANNELS 3 Zrotation Xrotation Yrotation
      JOINT ${side}Foot { OFFSET 0 -43 0 CHANNELS 3 Zrotation Xrotation Yrotation
        JOINT ${side}ToeBase { OFFSET 0 -6 13 CHANNELS 3 Zrotation Xrotation Yrotation End Site { OFFSET 0 0 7 } } } } }`;
  const arm = (side: string, x: number) => `
      JOINT ${side}Shoulder { OFFSET ${x * 0.4} 14 0 CHANNELS 3 Zrotation Xrotation Yrotation
        JOINT ${side}Arm { OFFSET ${x} 0 0 CHANNELS 3 Zrotation Xrotation Yrotation
          JOINT ${side}ForeArm { OFFSET ${x * 2} 0 0 CHANNELS 3 Zrotation Xrotation Yrotation
            JOINT ${side}Hand { OFFSET ${x * 1.7} 0 0 CHANNELS 3 Zrotation Xrotation Yrotation End Site { OFFSET ${x} 0 0 } } } } }`;
  const hierarchy = `HIERARCHY
ROOT Hips { OFFSET 0 0 0 CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation${limb("Left", 9)}${limb("Right", -9)}
  JOINT Spine { OFFSET 0 10 0 CHANNELS 3 Zrotation Xrotation Yrotation
    JOINT Chest { OFFSET 0 20 0 CHANNELS 3 Zrotation Xrotation Yrotation${arm("Left", 15)}${arm("Right", -15)}
      JOINT Neck { OFFSET 0 20 0 CHANNELS 3 Zrotation Xrotation Yrotation JOINT Head { OFFSET 0 9 0 CHANNELS 3 Zrotation Xrotation Yrotation End Site { OFFSET 0 18 0 } } } } } }`;
  const lines: string[] = [];
  const cycle = 32;
  const stride = 60;
  for (let f = 0; f < frames; f++) {
    const leg = (phase: number) => {
      // Stance for 60 % of the cycle: the ankle goes back evenly under the hip; then a sine swing forward.
      const u = (((f / cycle + phase) % 1) + 1) % 1;
      const swing = u > 0.6 ? (u - 0.6) / 0.4 : 0;
      const ahead = u <= 0.6 ? stride * (0.5 - u / 0.6) : stride * (-0.5 + 0.5 * (1 - Math.cos(Math.PI * swing)));
      const up = 9 * Math.sin(Math.PI * swing) ** 2;
      const down = 84 - up;
      const reach = Math.min(85.9, Math.hypot(ahead, down));
      const knee = Math.PI - 2 * Math.asin(reach / 86);
      const hip = -Math.atan2(ahead, down) - knee / 2;
      const ankle = -(hip + knee);
      return [`0 ${deg(hip)} 0`, `0 ${deg(knee)} 0`, `0 ${deg(ankle)} 0`, "0 0 0"].join(" ");
    };
    const swing = 20 * Math.sin((2 * Math.PI * f) / cycle);
    const travel = (1.15 * stride * f) / (0.6 * cycle);
    // Left and right legs, spine, chest, left and right arms from the shoulder on, neck, head.
    const arms = (s: number) => `0 0 0 ${-75 * s} ${swing * s} 0 0 0 ${-20 * s} 0 0 0`;
    lines.push(`0 ${93 + 3} ${travel.toFixed(4)} 0 0 0 ${leg(0)} ${leg(0.5)} 0 3 0 0 2 ${(swing / 5).toFixed(4)} ${arms(1)} ${arms(-1)} 0 0 0 0 0 0`);
  }
  return `${hierarchy}\nMOTION\nFrames: ${frames}\nFrame Time: 0.0333333\n${lines.join("\n")}\n`;
}

function deg(radians: number): string {
  return ((radians * 180) / Math.PI).toFixed(5);
}
