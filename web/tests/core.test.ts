import { describe, expect, it } from "vitest";

import { contrast, hairline, luminance } from "@/core/colour";
import { Latest } from "@/core/latest";
import { NodeGrid } from "@/core/nodeGrid";
import { pathNodes } from "@/core/pathNodes";
import { formatPercent, formatSize, fromUnit, toUnit } from "@/core/units";
import { fit, GREATEST_ZOOM, pan, toPage, zoomAt } from "@/core/viewport";
import { whereabouts, type Rgb } from "@/core/whereabouts";

const page = { x: 0, y: 0, width: 120, height: 180 };
const stage = { width: 700, height: 714 };

describe("viewport", () => {
  it("fits a page inside the stage, in the middle", () => {
    const view = fit(page, stage);
    expect(view.y).toBeCloseTo(44);
    expect(view.x + (view.scale * 120) / 2).toBeCloseTo(350);
  });

  it("keeps the point under the hand when zooming, up to 64 times", () => {
    const start = fit(page, stage);
    const at = { x: 410, y: 222 };
    const before = toPage(start, at);
    let view = start;
    for (let i = 0; i < 60; i++) view = zoomAt(view, 1.25, at, start.scale);
    expect(view.scale).toBeCloseTo(start.scale * GREATEST_ZOOM);
    expect(toPage(view, at).x).toBeCloseTo(before.x, 6);
    expect(toPage(view, at).y).toBeCloseTo(before.y, 6);
    for (let i = 0; i < 90; i++) view = zoomAt(view, 0.8, at, start.scale);
    expect(view.scale).toBeCloseTo(start.scale / 4);
  });

  it("moves by stage pixels", () => {
    const view = pan({ scale: 2, x: 10, y: 20 }, 6, -4);
    expect(toPage(view, { x: 16, y: 16 })).toEqual({ x: 0, y: 0 });
  });
});

describe("whereabouts", () => {
  it("shows each colour in its places, however small, others grey, and fills the square with what there is", () => {
    const [blue, red]: [Rgb, Rgb] = [[0, 0, 200], [200, 0, 0]];
    const data = new Uint8ClampedArray(4 * 200 * 120);
    for (let p = 0; p < 200 * 120; p++) {
      const [x, y] = [p % 200, Math.floor(p / 200)];
      if (x >= 20 && x < 60 && y >= 40 && y < 80) data.set([...blue, 255], 4 * p);
    }
    data.set([...red, 255], 4 * (60 * 200 + 99)); // one pixel: with it what there is is 80 × 40
    const [inBlue, inRed] = whereabouts(data, 200, 120, [blue, red], 40).map((picture) => (x: number, y: number) =>
      Array.from(picture.slice(4 * (40 * y + x), 4 * (40 * y + x) + 4)));
    const grey = [192, 184, 168, 255];
    expect([inBlue?.(0, 10), inBlue?.(19, 29), inBlue?.(39, 20)]).toEqual([[...blue, 255], [...blue, 255], grey]);
    expect([inRed?.(0, 10), inRed?.(39, 20), inRed?.(38, 20)]).toEqual([grey, [...red, 255], [...red, 255]]);
    for (const clear of [inBlue?.(0, 9), inBlue?.(20, 20), inRed?.(36, 20)]) expect(clear).toEqual([0, 0, 0, 0]);
  });
});

describe("units", () => {
  it("goes from mm to inches and back", () => {
    expect(toUnit(25.4, "in")).toBe(1);
    expect(fromUnit(toUnit(142, "in"), "in")).toBeCloseTo(142, 10);
    expect(formatSize(142, 205.88, "mm")).toBe("142.0 × 205.9 mm");
    expect(formatSize(254, 127, "in")).toBe("10.00 × 5.00 in");
    expect([formatPercent(0.294), formatPercent(0.0021)]).toEqual(["29 %", "0.2 %"]);
  });
});

describe("path nodes", () => {
  it("are the ends of every command, with their handles", () => {
    const { places, handles } = pathNodes("M1,2L3.5,-4C0,0 1,1 .25,6ZM9,9L8,8Z");
    expect([...places]).toEqual([1, 2, 3.5, -4, 0.25, 6, 9, 9, 8, 8]);
    expect([...handles.slice(0, 4)]).toEqual([NaN, NaN, NaN, NaN]);
    expect([...handles.slice(4, 10)]).toEqual([NaN, NaN, 0, 0, 1, 1]);
  });

  it("hold the start of a closed ring once", () => {
    const { places, handles } = pathNodes("M0,0C1,0 2,1 2,2C2,3 -1,3 0,0Z");
    expect([...places]).toEqual([0, 0, 2, 2]);
    expect([...handles]).toEqual([-1, 3, 1, 0, 2, 1, 2, 3]);
  });

  it("are found under the pointer among many", () => {
    const many = Array.from({ length: 30_000 }, (_, i) => `L${(i % 200) / 2},${Math.floor(i / 200) / 2}`).join("");
    const grid = new NodeGrid([pathNodes(`M0,0${many}Z`)], 100, 75);
    expect(grid.near({ x: 30.1, y: 20.05 }, 0.3)).toMatchObject({ x: 30, y: 20 });
    expect(grid.near({ x: 30.25, y: 20.25 }, 0.1)).toBeNull();
    expect(grid.following({ x: 30, y: 20 }, 1)).toMatchObject({ x: 30.5, y: 20 });
  });
});

describe("colour", () => {
  it("has the luminance and contrast of WCAG 2.2", () => {
    expect(luminance("#ffffff")).toBeCloseTo(1);
    expect(contrast("#000000", "#ffffff")).toBeCloseTo(21);
    expect(contrast("#777777", "#ffffff")).toBeCloseTo(4.48, 2);
  });

  it("darkens a hairline until it reads on paper", () => {
    expect(contrast(hairline("#fffbe0", "#fbf8f1"), "#fbf8f1")).toBeGreaterThanOrEqual(3);
    expect(hairline("#26323d", "#fbf8f1")).toBe("#26323d");
  });
});

describe("latest", () => {
  it("drops the answer of an older run and aborts it", async () => {
    const latest = new Latest();
    let aborted = false;
    let finish: (value: string) => void = () => undefined;
    const old = latest.run((signal) => {
      signal.addEventListener("abort", () => (aborted = true));
      return new Promise<string>((resolve) => (finish = resolve));
    });
    const now = latest.run(async () => "new");
    finish("old");
    expect(await old).toBeUndefined();
    expect(await now).toBe("new");
    expect(aborted).toBe(true);
  });

  it("hands errors of the newest run on, and no others", async () => {
    const latest = new Latest();
    await expect(latest.run(() => Promise.reject(new Error("no")))).rejects.toThrow("no");
    let fail: (reason: Error) => void = () => undefined;
    const old = latest.run(() => new Promise((_, reject) => (fail = reject)));
    latest.cancel();
    fail(new Error("late"));
    expect(await old).toBeUndefined();
  });
});
