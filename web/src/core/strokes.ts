/** Strokes of a drawing: which one lies at a place, and what one is to be. */

import type { LinesSettings, StrokeFacts, StrokeRole } from "@/api/types";
import type { Point } from "@/core/nodeGrid";

export const ROLES = ["cut", "score", "draw", "leave"] as const;
export type Role = (typeof ROLES)[number];
/** What strokes are painted with, by what they are. */
export const ROLE_COLOURS: Readonly<Record<Role, string>> = { cut: "#1a1a1a", score: "#b3261e", draw: "#2c5f8a", leave: "#8b8f94" };

export interface StrokeShape {
  points: Point[];
  role: Role;
  outline: boolean;
}

export interface StrokeScene {
  strokes: StrokeShape[];
  picked: readonly number[];
  hover: number;
}

/** The number of the stroke nearest to a place, no farther than `reach`; -1 for none. */
export function strokeAt(strokes: readonly StrokeShape[], place: Point, reach: number): number {
  let [best, found] = [reach, -1];
  strokes.forEach(({ points }, number) => {
    for (let i = 1; i < points.length; i++) {
      const away = distance(place, points[i - 1] as Point, points[i] as Point);
      if (away < best) [best, found] = [away, number];
    }
  });
  return found;
}

function distance(place: Point, one: Point, other: Point): number {
  const [dx, dy] = [other.x - one.x, other.y - one.y];
  const long = dx * dx + dy * dy;
  const t = long ? Math.min(1, Math.max(0, ((place.x - one.x) * dx + (place.y - one.y) * dy) / long)) : 0;
  return Math.hypot(place.x - one.x - t * dx, place.y - one.y - t * dy);
}

/** Shares of the picture's width within which a place means a stroke. */
export const SAME = 0.004;

/** What is said of strokes, with some of them given a role; one that was taken for it anyway needs no word. */
export function withRole(said: LinesSettings["roles"], strokes: readonly StrokeFacts[], role: Role): StrokeRole[] {
  const near = (own: StrokeRole, { at, points }: StrokeFacts): boolean =>
    Math.hypot(own.x - at[0], own.y - at[1]) < SAME ||
    points.some(([x, y], i) => {
      const [px, py] = points[i - 1] ?? [x, y];
      return distance(own, { x: px, y: py }, { x, y }) < SAME / 2;
    });
  const others = said.filter((own) => !strokes.some((stroke) => near(own, stroke)));
  return [...others, ...strokes.filter(({ read }) => read !== role).map(({ at: [x, y] }) => ({ x, y, role }))];
}
