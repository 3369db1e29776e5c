import { describe, expect, it } from "vitest";

import type { StrokeFacts } from "@/api/types";
import { angle, distance, snapped } from "@/core/measure";
import { strokeAt, withRole, type StrokeShape } from "@/core/strokes";

const line = (y: number): StrokeShape => ({ role: "score", outline: false, points: [{ x: 0, y }, { x: 10, y }] });
const fact = (y: number, read: StrokeFacts["read"] = "score"): StrokeFacts => ({
  role: read, read, outline: false, length_mm: 10, width_mm: 0.4, at: [0.05, y], points: [[0, y], [0.1, y]],
});

describe("strokes", () => {
  it("finds the nearest within reach", () => {
    expect(strokeAt([line(0), line(4)], { x: 5, y: 3 }, 2)).toBe(1);
    expect(strokeAt([line(0), line(4)], { x: 5, y: 2 }, 1)).toBe(-1);
    expect(strokeAt([line(0)], { x: 12, y: 0 }, 1)).toBe(-1);
  });

  it("says a role once, and nothing where it was taken for that", () => {
    const said = withRole([], [fact(0.2), fact(0.4)], "cut");
    expect(said).toEqual([{ x: 0.05, y: 0.2, role: "cut" }, { x: 0.05, y: 0.4, role: "cut" }]);
    expect(withRole(said, [fact(0.2)], "leave")).toEqual([{ x: 0.05, y: 0.4, role: "cut" }, { x: 0.05, y: 0.2, role: "leave" }]);
    expect(withRole(said, [fact(0.2)], "score")).toEqual([{ x: 0.05, y: 0.4, role: "cut" }]);
  });

  it("forgets what was said elsewhere on the same stroke", () => {
    expect(withRole([{ x: 0.09, y: 0.2, role: "draw" }], [fact(0.2)], "score")).toEqual([]);
  });
});

describe("the rule", () => {
  it("catches the nearest corner within reach, else stays where it is", () => {
    const lists = [new Float32Array([10, 10, 20, 10]), [30, 10]];
    expect(snapped({ x: 19, y: 11 }, lists, 3)).toEqual({ x: 20, y: 10 });
    expect(snapped({ x: 25, y: 10 }, lists, 3)).toEqual({ x: 25, y: 10 });
  });

  it("tells distance and angle, upwards to the right above zero", () => {
    expect(distance({ x: 0, y: 0 }, { x: 3, y: 4 })).toBe(5);
    expect(angle({ x: 0, y: 0 }, { x: 10, y: -10 })).toBeCloseTo(45);
    expect(angle({ x: 10, y: -10 }, { x: 0, y: 0 })).toBeCloseTo(45);
    expect(angle({ x: 0, y: 0 }, { x: 0, y: 5 })).toBeCloseTo(90);
  });
});
