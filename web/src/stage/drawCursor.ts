/** The cross that is moved by keys. */

import type { Point } from "@/core/nodeGrid";

const ARM_PX = 13;
const GAP_PX = 3;

/** px: the size of a stage pixel in mm. */
export function drawCursor(pen: CanvasRenderingContext2D, { x, y }: Point, px: number): void {
  pen.beginPath();
  for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
    pen.moveTo(x + dx * GAP_PX * px, y + dy * GAP_PX * px);
    pen.lineTo(x + dx * ARM_PX * px, y + dy * ARM_PX * px);
  }
  for (const [width, colour] of [[5, "#fffdf8"], [2.2, "#25303a"]] as const) {
    pen.lineWidth = width * px;
    pen.strokeStyle = colour;
    pen.stroke();
  }
}
