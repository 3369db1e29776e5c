/** Rings around places that the cut check has found. */

import type { CheckScene, Ring } from "@/core/check";

import { MARK } from "./drawMarks";

const HALO = "#fffdf8";
const NOTE = "#5a6163";
const LEAST_PX = 9;
const MANY = 60; // rings, from which on they are smaller
const LEAST_OF_MANY_PX = 5;
const PICKED_PX = 15;

type Pen = CanvasRenderingContext2D;

/** px: the size of a stage pixel in mm of the page. */
export function drawCheck(pen: Pen, { rings, picked }: CheckScene, px: number): void {
  for (const ring of rings) if (ring.number !== picked) circle(pen, ring, px, Math.max(ring.radius, (rings.length > MANY ? LEAST_OF_MANY_PX : LEAST_PX) * px), 1.6);
  const held = rings.find(({ number }) => number === picked);
  if (!held) return;
  const reach = Math.max(held.radius, PICKED_PX * px);
  circle(pen, held, px, reach, 2.6);
  // Four ticks point at it, so that it is found among many.
  for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
    pen.beginPath();
    pen.moveTo(held.at.x + dx * (reach + 3 * px), held.at.y + dy * (reach + 3 * px));
    pen.lineTo(held.at.x + dx * (reach + 14 * px), held.at.y + dy * (reach + 14 * px));
    stroke(pen, MARK, 2.6, px);
  }
}

function circle(pen: Pen, { at, severity }: Ring, px: number, radius: number, width: number): void {
  pen.beginPath();
  pen.arc(at.x, at.y, radius, 0, 2 * Math.PI);
  stroke(pen, severity === "note" ? NOTE : MARK, width, px);
}

function stroke(pen: Pen, colour: string, width: number, px: number): void {
  for (const [own, wide] of [[HALO, width + 2], [colour, width]] as const) {
    pen.strokeStyle = own;
    pen.lineWidth = wide * px;
    pen.stroke();
  }
}
