import { beforeEach, describe, expect, it, vi } from "vitest";

import type { Scene } from "@/stage/draw";
import type { LayerShape } from "@/stage/shapes";
import { isLarge, showPlate } from "@/stage/plate";

const shapes = [{ colour: "#112233", path: {} as Path2D, nodes: { places: new Float64Array(20_000) } }] as unknown as LayerShape[];

function sceneAt(x: number, y: number, scale: number, own = shapes): Scene {
  return { size: { width: 400, height: 300 }, pixelRatio: 2, view: { x, y, scale }, shapes: own, base: "#ffffff" } as unknown as Scene;
}

describe("the lines of a large drawing", () => {
  const paint = vi.fn();
  const drawImage = vi.fn();
  const pen = { setTransform: vi.fn(), drawImage } as unknown as CanvasRenderingContext2D;

  beforeEach(() => {
    vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue({} as never);
    showPlate(pen, sceneAt(10, 20, 3, [...shapes]), "cut_lines", true, paint); // another drawing before this one
    paint.mockClear();
    drawImage.mockClear();
  });

  const show = (x: number, y: number, scale: number, atRest = false): boolean =>
    showPlate(pen, sceneAt(x, y, scale), "cut_lines", atRest, paint);

  it("are painted once for each drawing, a margin about the stage with them", () => {
    expect(show(10, 20, 3)).toBe(true);
    expect(paint).toHaveBeenCalledTimes(1);
    const [, whole] = paint.mock.calls[0] as [unknown, Scene];
    expect(whole.size).toEqual({ width: 720, height: 540 });
    expect(whole.view).toEqual({ x: 170, y: 140, scale: 3 });
    const [canvas, ...box] = drawImage.mock.calls[0] as [HTMLCanvasElement, number, number, number, number];
    expect([canvas.width, canvas.height]).toEqual([1440, 1080]);
    expect(box).toEqual([-160, -120, 720, 540]);
  });

  it("are moved, not painted, while the hand moves, and are sharp within the margin", () => {
    show(10, 20, 3);
    expect(show(50, -30, 3)).toBe(true);
    expect(show(300, 20, 3)).toBe(false);
    expect(drawImage.mock.calls.at(-1)?.slice(1)).toEqual([130, -120, 720, 540]);
    expect(paint).toHaveBeenCalledTimes(1);
  });

  it("are stretched while the hand zooms, and painted anew at rest", () => {
    show(10, 20, 3);
    expect(show(-100, 5, 6)).toBe(false);
    expect(drawImage.mock.calls.at(-1)?.slice(1)).toEqual([-440, -275, 1440, 1080]);
    expect(paint).toHaveBeenCalledTimes(1);
    expect(show(-100, 5, 6, true)).toBe(true);
    expect(paint).toHaveBeenCalledTimes(2);
    show(-100, 5, 6, true);
    expect(paint).toHaveBeenCalledTimes(2);
  });

  it("are kept of large drawings only", () => {
    expect(isLarge(shapes)).toBe(true);
    expect(isLarge([{ nodes: { places: new Float64Array(400) } } as unknown as LayerShape])).toBe(false);
  });
});
