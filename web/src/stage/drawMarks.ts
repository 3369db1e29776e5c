/** Marks over the stage: boxes, rings and strokes, in the page's mm, whatever state lies beneath. */

import type { Point } from "@/core/nodeGrid";
import type { Mark, StageTool } from "@/stores/tools";

export const MARK = "#b8336a";
const HALO = "#fffdf8";

export interface MarkScene {
  marks: Mark[];
  tool: StageTool | null;
  path: Point[];
  /** From shares of the picture's width to mm of the page. */
  pageOf: (place: Point) => Point;
  pictureWidth: number;
  /** What a click would take, over the picture's frame. */
  veil: ImageBitmap | null;
}

type Pen = CanvasRenderingContext2D;

/** px: the size of a stage pixel in mm. */
export function drawMarks(pen: Pen, scene: MarkScene, px: number): void {
  for (const mark of scene.marks) drawMark(pen, scene, mark, px);
  const { tool, path } = scene;
  if (!tool || !path.length || tool.kind === "click") return;
  const colour = tool.colour ?? MARK;
  const width = ((tool.width ?? 3) * px) / scene.pictureWidth;
  drawMark(pen, scene, { kind: tool.kind, points: path, colour, width, strong: true }, px);
}

function drawMark(pen: Pen, scene: MarkScene, mark: Mark, px: number): void {
  const points = mark.points.map(scene.pageOf);
  if (mark.kind === "stroke") {
    pen.globalAlpha = 0.75;
    trail(pen, points);
    stroke(pen, mark.colour, Math.max(2 * px, (mark.width ?? 0) * scene.pictureWidth));
    pen.globalAlpha = 1;
    return;
  }
  pen.beginPath();
  if (mark.kind === "box") box(pen, points);
  else ring(pen, points);
  pen.setLineDash([]);
  stroke(pen, HALO, (mark.strong ? 4.5 : 3.5) * px);
  if (!mark.strong) pen.setLineDash([5 * px, 3 * px]);
  stroke(pen, mark.colour, (mark.strong ? 2.4 : 1.6) * px);
  pen.setLineDash([]);
  if (mark.label) write(pen, mark.label, points, mark.colour, px);
}

function stroke(pen: Pen, colour: string, width: number): void {
  pen.lineWidth = width;
  pen.lineCap = "round";
  pen.lineJoin = "round";
  pen.strokeStyle = colour;
  pen.stroke();
}

function trail(pen: Pen, points: Point[]): void {
  pen.beginPath();
  points.forEach(({ x, y }, i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
  if (points.length === 1 && points[0]) pen.lineTo(points[0].x, points[0].y);
}

function box(pen: Pen, [one, other]: Point[]): void {
  if (one && other) pen.rect(Math.min(one.x, other.x), Math.min(one.y, other.y), Math.abs(one.x - other.x), Math.abs(one.y - other.y));
}

/** An ellipse around the corners of a box. */
function ring(pen: Pen, [one, other]: Point[]): void {
  if (!one || !other) return;
  const [rx, ry] = [Math.abs(other.x - one.x) / 2, Math.abs(other.y - one.y) / 2];
  pen.ellipse((one.x + other.x) / 2, (one.y + other.y) / 2, rx, ry, 0, 0, 2 * Math.PI);
}

function write(pen: Pen, text: string, points: Point[], colour: string, px: number): void {
  const x = Math.min(...points.map((p) => p.x));
  const y = Math.min(...points.map((p) => p.y));
  pen.font = `700 ${12 * px}px sans-serif`;
  pen.textBaseline = "bottom";
  const width = pen.measureText(text).width;
  pen.fillStyle = HALO;
  pen.fillRect(x - 2 * px, y - 18 * px, width + 8 * px, 17 * px);
  pen.fillStyle = colour;
  pen.fillText(text, x + 2 * px, y - 3 * px);
}
