/** Strokes over the stage, coloured by what they are: cut, folded, drawn, or left out. */

import { ROLE_COLOURS, type StrokeScene, type StrokeShape } from "@/core/strokes";

import { MARK } from "./drawMarks";

const HALO = "#fffdf8";

type Pen = CanvasRenderingContext2D;

/** px: the size of a stage pixel in mm of the page. */
export function drawStrokes(pen: Pen, { strokes, picked, hover }: StrokeScene, px: number): void {
  pen.lineCap = "round";
  pen.lineJoin = "round";
  strokes.forEach((stroke, i) => {
    const held = picked.includes(i);
    trail(pen, stroke);
    if (held || i === hover) paint(pen, held ? MARK : "rgb(184 51 106 / 0.45)", 7 * px, []);
    paint(pen, HALO, 3.6 * px, []);
    const dash = stroke.role === "score" ? [7 * px, 4 * px] : stroke.role === "leave" ? [1.5 * px, 4 * px] : [];
    paint(pen, ROLE_COLOURS[stroke.role], (stroke.outline ? 2.2 : 1.8) * px, dash);
  });
}

function trail(pen: Pen, { points }: StrokeShape): void {
  pen.beginPath();
  points.forEach(({ x, y }, i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
}

function paint(pen: Pen, colour: string, width: number, dash: number[]): void {
  pen.setLineDash(dash);
  pen.lineWidth = width;
  pen.strokeStyle = colour;
  pen.stroke();
  pen.setLineDash([]);
}
