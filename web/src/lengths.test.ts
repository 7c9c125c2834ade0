// @vitest-environment node
import { describe, expect, it } from "vitest";
import { COORDINATE, HEIGHT, lengthIn } from "./lengths";

describe("a length that the browser comes by", () => {
  it.each([
    [12.4, "12 mm", "0.49 in"],
    [-254, "−254 mm", "−10.00 in"],
    [-0.2, "0 mm", "−0.01 in"],
    [-0.02, "0 mm", "0.00 in"],
  ])("tells the place %d in either system", (mm, metric, inch) => {
    expect(lengthIn(mm, "metric")).toBe(metric);
    expect(lengthIn(mm, "inch")).toBe(inch);
  });

  it("has the decimals that it is known to", () => {
    expect(lengthIn(0.0254, "inch", HEIGHT)).toBe("0.0010 in");
    expect(lengthIn(-1.5, "metric", COORDINATE)).toBe("−1.50 mm");
  });
});
