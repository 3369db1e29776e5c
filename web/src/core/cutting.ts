/** The cutter's way: where its blade is at a moment, and which lines are done. */

import type { CutMove } from "@/api/types";

import type { Point } from "./nodeGrid";

/** The number of the move under way at a time, s; the last one when all is done. */
export function moveAt(moves: readonly CutMove[], time: number): number {
  let [low, high] = [0, moves.length - 1];
  while (low < high) {
    const half = (low + high) >> 1;
    if ((moves[half]?.end ?? 0) < time) low = half + 1;
    else high = half;
  }
  return low;
}

/** How far along its way a move is at a time, 0 to 1. */
export function shareOf({ start, end }: CutMove, time: number): number {
  return end > start ? Math.min(1, Math.max(0, (time - start) / (end - start))) : 1;
}

/** The places that a move has come by, and where it is, as far as a share of its length. */
export function along({ points }: CutMove, share: number): Point[] {
  const places: Point[] = [];
  for (let i = 0; i + 1 < points.length; i += 2) places.push({ x: points[i] as number, y: points[i + 1] as number });
  if (share >= 1 || places.length < 2) return places;
  const steps = places.slice(1).map((place, i) => Math.hypot(place.x - (places[i] as Point).x, place.y - (places[i] as Point).y));
  let left = share * steps.reduce((sum, step) => sum + step, 0);
  const done = [places[0] as Point];
  for (const [i, step] of steps.entries()) {
    const [from, to] = [places[i] as Point, places[i + 1] as Point];
    if (left <= step) {
      const part = step ? left / step : 0;
      done.push({ x: from.x + (to.x - from.x) * part, y: from.y + (to.y - from.y) * part });
      return done;
    }
    done.push(to);
    left -= step;
  }
  return done;
}

/** The moment after the next line that is cut, or before the last one. */
export function nextLine(moves: readonly CutMove[], time: number, step: 1 | -1): number {
  const ends = moves.filter(({ kind }) => kind !== "travel").map(({ end }) => end);
  if (step > 0) return ends.find((end) => end > time + 1e-6) ?? time;
  return [...ends].reverse().find((end) => end < time - 1e-6) ?? 0;
}
