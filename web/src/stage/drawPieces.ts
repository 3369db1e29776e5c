/** Pieces over the stage: the one pointed at, those that are picked, and those that would go. */

import type { Point } from "@/core/nodeGrid";
import type { PieceScene, PieceShape } from "@/core/pieces";
import { scaleOf, through } from "@/core/placement";

import { MARK } from "./drawMarks";

const HALO = "#fffdf8";
const GOING = "#8f4a0c";
const INK = "#25303a";
const MANY = 24; // marks, from which they are smaller

type Pen = CanvasRenderingContext2D;

/** px: the size of a stage pixel in mm of the page. */
export function drawPieces(pen: Pen, scene: PieceScene, px: number): void {
  pen.save();
  through(pen, scene.map);
  const own = px / scaleOf(scene.map);
  for (const shape of scene.going) fill(pen, shape, "rgb(143 74 12 / 0.55)");
  for (const shape of scene.going) outline(pen, shape, GOING, 1.2 * own, []);
  for (const shape of scene.hover) {
    fill(pen, shape, "rgb(184 51 106 / 0.22)");
    outline(pen, shape, MARK, 1.4 * own, []);
  }
  for (const shape of scene.gone) outline(pen, shape, INK, 1.4 * own, [4 * own, 3 * own]);
  for (const shape of scene.gone) fill(pen, shape, "rgb(37 48 58 / 0.18)");
  for (const shape of scene.ring) ring(pen, shape, own);
  pen.restore();
  pen.save();
  if (scene.moving) pen.translate(scene.moving.x, scene.moving.y);
  through(pen, scene.map);
  for (const shape of scene.picked) {
    fill(pen, shape, scene.moving ? "rgb(184 51 106 / 0.5)" : "rgb(184 51 106 / 0.3)");
    outline(pen, shape, HALO, 4 * own, []);
    outline(pen, shape, MARK, 2.2 * own, []);
  }
  pen.restore();
  for (const place of scene.marks) circle(pen, place, (scene.marks.length > MANY ? 5 : 9) * px, px);
  for (const [one, other] of scene.bridges) if (one && other) bridge(pen, one, other, px);
  if (scene.pulled) {
    pen.beginPath();
    pen.moveTo(scene.pulled[0].x, scene.pulled[0].y);
    pen.lineTo(scene.pulled[1].x, scene.pulled[1].y);
    pen.lineWidth = 3 * px;
    pen.strokeStyle = MARK;
    pen.stroke();
    bridge(pen, ...scene.pulled, px);
  }
}

function fill(pen: Pen, { path }: PieceShape, colour: string): void {
  pen.fillStyle = colour;
  pen.fill(path, "evenodd");
}

function outline(pen: Pen, { path }: PieceShape, colour: string, width: number, dash: number[]): void {
  pen.setLineDash(dash);
  pen.lineWidth = width;
  pen.lineJoin = "round";
  pen.strokeStyle = colour;
  pen.stroke(path);
  pen.setLineDash([]);
}

/** A ring about a shape that might be too small to be seen. */
function ring(pen: Pen, { box: [left = 0, top = 0, right = 0, bottom = 0] }: PieceShape, px: number): void {
  const radius = Math.max(Math.hypot(right - left, bottom - top) / 2 + 5 * px, 12 * px);
  circle(pen, { x: (left + right) / 2, y: (top + bottom) / 2 }, radius, px);
}

function circle(pen: Pen, { x, y }: Point, radius: number, px: number): void {
  pen.beginPath();
  pen.arc(x, y, radius, 0, 2 * Math.PI);
  for (const [width, colour] of [[4, HALO], [1.8, GOING]] as const) {
    pen.lineWidth = width * px;
    pen.strokeStyle = colour;
    pen.stroke();
  }
}

function bridge(pen: Pen, one: Point, other: Point, px: number): void {
  for (const { x, y } of [one, other]) {
    pen.beginPath();
    pen.arc(x, y, 3.4 * px, 0, 2 * Math.PI);
    pen.fillStyle = HALO;
    pen.fill();
    pen.lineWidth = 1.6 * px;
    pen.strokeStyle = MARK;
    pen.stroke();
  }
}
