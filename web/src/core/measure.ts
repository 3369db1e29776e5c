/** Measuring between two places on the page. */

import type { Point } from "./nodeGrid";

/** The nearest of some places, x and y one after the other, no farther than `reach`; else the place itself. */
export function snapped(place: Point, lists: readonly ArrayLike<number>[], reach: number): Point {
  let [best, found] = [reach, place];
  for (const places of lists) {
    for (let i = 0; i + 1 < places.length; i += 2) {
      const [x, y] = [places[i] as number, places[i + 1] as number];
      const away = Math.hypot(x - place.x, y - place.y);
      if (away < best) [best, found] = [away, { x, y }];
    }
  }
  return found;
}

export const distance = (one: Point, other: Point): number => Math.hypot(other.x - one.x, other.y - one.y);

/** Degrees against the level, 0 to 180, upwards to the right above zero. */
export function angle(one: Point, other: Point): number {
  const degrees = (Math.atan2(one.y - other.y, other.x - one.x) * 180) / Math.PI;
  return ((degrees % 180) + 180) % 180;
}
