import { describe, expect, it } from "vitest";
import { showFigure, showSeconds } from "./figures.ts";

describe("figures", () => {
  it("have decimals by their unit, a real minus, and none before a zero", () => {
    expect(showFigure(8.94, "cm")).toBe("8.9 cm");
    expect(showFigure(-8.94, "cm")).toBe("−8.9 cm");
    expect(showFigure(-0.04, "cm")).toBe("0.0 cm");
    expect(showFigure(11.8, "%")).toBe("12 %");
    expect(showFigure(-0.2, "%")).toBe("0 %");
    expect(showFigure(2.34, "°")).toBe("2.3°");
    expect(showFigure(67.6, "°/f²")).toBe("68°/f²");
    expect(showFigure(5, "f")).toBe("5 f");
  });

  it("of time are told to a tenth while they are short", () => {
    expect(showSeconds(4.43)).toBe("4.4 s");
    expect(showSeconds(99.94)).toBe("99.9 s");
    expect(showSeconds(612.7)).toBe("613 s");
  });
});
