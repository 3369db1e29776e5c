/** A rule laid over the stage. */

import type { Point } from "@/core/nodeGrid";

const COLOUR = "#b8336a";
const HALO = "#fffdf8";

export interface MeasureScene {
  ends: readonly Point[];
  hover: Point | null;
  label: string;
}

/** px: the size of a stage pixel in mm. */
export function drawMeasure(pen: CanvasRenderingContext2D, { ends, hover, label }: MeasureScene, px: number): void {
  const [one, other] = ends;
  if (one && other) {
    for (const [width, colour] of [[4.5, HALO], [1.8, COLOUR]] as const) {
      pen.beginPath();
      pen.moveTo(one.x, one.y);
      pen.lineTo(other.x, other.y);
      pen.lineWidth = width * px;
      pen.strokeStyle = colour;
      pen.stroke();
    }
  }
  for (const { x, y } of hover ? [...ends, hover] : ends) {
    pen.beginPath();
    pen.arc(x, y, 4 * px, 0, 2 * Math.PI);
    pen.fillStyle = HALO;
    pen.fill();
    pen.lineWidth = 1.8 * px;
    pen.strokeStyle = COLOUR;
    pen.stroke();
  }
  if (!one || !other || !label) return;
  pen.font = `700 ${13 * px}px sans-serif`;
  pen.textBaseline = "middle";
  const [x, y, wide] = [(one.x + other.x) / 2, (one.y + other.y) / 2 - 16 * px, pen.measureText(label).width];
  pen.fillStyle = HALO;
  pen.fillRect(x - wide / 2 - 6 * px, y - 10 * px, wide + 12 * px, 20 * px);
  pen.fillStyle = COLOUR;
  pen.fillText(label, x - wide / 2, y);
}
