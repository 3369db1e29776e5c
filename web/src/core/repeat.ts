/** How copies of an item are moved on from it: beside it in a row, in a grid with it, or with it on a circle. mm. */

import { boxOfFrame, NO_MOVE, type Frame, type Move } from "./arrange";

export interface Repeat {
  how: "row" | "grid" | "circle";
  /** In all, with the one that is there. */
  count: number;
  rows: number;
  gap: number;
  radius: number;
  /** On a circle: each turned as far as it stands around. */
  along: boolean;
}

export function repeated(frame: Frame, { how, count, rows, gap, radius, along }: Repeat): Move[] {
  const box = boxOfFrame(frame);
  const [w, h] = [box.right - box.left + gap, box.bottom - box.top + gap];
  const columns = how === "row" ? count : Math.ceil(count / Math.max(1, rows));
  const moves: Move[] = [];
  for (let k = 1; k < count; k++) {
    if (how === "circle") {
      const angle = (2 * Math.PI * k) / count;
      // The one that is there stands at the top of the circle.
      moves.push({ ...NO_MOVE, dx: radius * Math.sin(angle), dy: radius * (1 - Math.cos(angle)), turn: along ? (360 * k) / count : 0 });
    } else moves.push({ ...NO_MOVE, dx: (k % columns) * w, dy: Math.floor(k / columns) * h });
  }
  return moves;
}
