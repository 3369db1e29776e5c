/** The hatch that says "nothing here": short slanted stitches, our own. */

import { isDark, surroundings } from "./surroundings";

let tile: HTMLCanvasElement | null = null;
let dark = false;

export function hatchPattern(context: CanvasRenderingContext2D): CanvasPattern | null {
  if (!tile || dark !== isDark.value) {
    dark = isDark.value;
    tile = document.createElement("canvas");
    tile.width = tile.height = 14;
    const pen = tile.getContext("2d");
    if (!pen) return null;
    pen.fillStyle = surroundings().hatch;
    pen.fillRect(0, 0, 14, 14);
    pen.strokeStyle = surroundings().stitch;
    pen.lineWidth = 1;
    pen.beginPath();
    for (const [x, y] of [[2, 5], [9, 12]] as const) {
      pen.moveTo(x, y);
      pen.lineTo(x + 3, y - 3);
    }
    pen.stroke();
  }
  const pattern = context.createPattern(tile, "repeat");
  pattern?.setTransform(new DOMMatrix());
  return pattern;
}
