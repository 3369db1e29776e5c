import { describe, expect, it } from "vitest";

import { between, enoughFor, isTooMuch, LEAST_MM, pixelsOf, suiting } from "@/core/scanning";

const GLASS = { width: 216, height: 297 };
const DPIS = [75, 150, 300, 600, 1200];
const MOST = 26e6;
const area = (width: number, height: number) => ({ x: 0, y: 0, width, height });

describe("a scan, said beforehand", () => {
  it("has so many pixels", () => {
    expect(pixelsOf(area(10, 10), 300)).toEqual([118, 118]); // 10 / 25.4 × 300
    expect(pixelsOf(area(25.4, 50.8), 600)).toEqual([600, 1200]);
    expect(enoughFor(area(10, 10), 300)).toBeCloseTo(47.2, 1);
  });

  it("is as fine as suits: a page at 300, a small mark finer, the whole glass never beyond what can be taken", () => {
    expect(suiting(area(148, 105), DPIS, MOST)).toBe(300);
    expect(suiting(area(14, 14), DPIS, MOST)).toBe(1200);
    expect(suiting(area(30, 20), DPIS, MOST)).toBe(600);
    expect(suiting(area(216, 297), DPIS, MOST)).toBe(300);
    expect(isTooMuch(area(216, 297), 1200, MOST)).toBe(true);
    for (let width = LEAST_MM; width <= 216; width += 7) {
      for (let height = LEAST_MM; height <= 297; height += 11) {
        expect(isTooMuch(area(width, height), suiting(area(width, height), DPIS, MOST), MOST)).toBe(false);
      }
    }
  });

  it("is of an area on the glass, however it is drawn", () => {
    expect(between({ x: 50, y: 60 }, { x: 10, y: 20 }, GLASS)).toEqual({ x: 10, y: 20, width: 40, height: 40 });
    expect(between({ x: -5, y: 290 }, { x: 400, y: 500 }, GLASS)).toEqual({ x: 0, y: 290, width: 216, height: 7 });
    const least = between({ x: 216, y: 297 }, { x: 216, y: 297 }, GLASS);
    expect(least).toEqual({ x: 214, y: 295, width: LEAST_MM, height: LEAST_MM });
  });
});
