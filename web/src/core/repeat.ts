/** Places for copies of an item: beside it in a row, in a grid with it, or with it on a circle. mm of the page. */

import type { Frame } from "./arrange";
import { boxOfFrame } from "./arrange";

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

export interface CopyPlace {
  x: number;
  y: number;
  turn: number;
}

export function repeated(frame: Frame, { how, count, rows, gap, radius, along }: Repeat): CopyPlace[] {
  const box = boxOfFrame(frame);
  const [w, h] = [box.right - box.left + gap, box.bottom - box.top + gap];
  const columns = how === "row" ? count : Math.ceil(count / Math.max(1, rows));
  const places: CopyPlace[] = [];
  for (let k = 1; k < count; k++) {
    if (how === "circle") {
      const angle = (2 * Math.PI * k) / count;
      // The one that is there stands at the top of the circle.
      places.push({
        x: frame.middle.x + radius * Math.sin(angle), y: frame.middle.y + radius * (1 - Math.cos(angle)),
        turn: frame.turn + (along ? (360 * k) / count : 0),
      });
    } else places.push({ x: frame.middle.x + (k % columns) * w, y: frame.middle.y + Math.floor(k / columns) * h, turn: frame.turn });
  }
  return places;
}
