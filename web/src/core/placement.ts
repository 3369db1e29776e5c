/** A matrix from shares of the width of the picture that came in to mm on the page, row by row. */

import type { Point } from "./nodeGrid";

export type Placement = readonly [number, number, number, number, number, number];

export function toPlace([a, b, c, d, e, f]: Placement, { x, y }: Point): Point {
  return { x: a * x + b * y + c, y: d * x + e * y + f };
}

export function toShare([a, b, c, d, e, f]: Placement, { x, y }: Point): Point {
  const size = a * e - b * d;
  return { x: (e * (x - c) - b * (y - f)) / size, y: (a * (y - f) - d * (x - c)) / size };
}

/** Give a pen the coordinates that a placement begins from. */
export function through(pen: CanvasRenderingContext2D, [a, b, c, d, e, f]: Placement): void {
  pen.transform(a, d, b, e, c, f);
}

/** A place after the picture was turned clockwise about its middle. aspect: its height to its width. */
export function straightened({ x, y }: Point, degrees: number, aspect: number): Point {
  const angle = (degrees * Math.PI) / 180;
  const [u, v] = [x - 0.5, y - aspect / 2];
  return { x: u * Math.cos(angle) - v * Math.sin(angle) + 0.5, y: u * Math.sin(angle) + v * Math.cos(angle) + aspect / 2 };
}

/** mm on the page to a share of one. */
export function scaleOf([a, b, , d, e]: Placement): number {
  return Math.sqrt(Math.abs(a * e - b * d));
}
