/** Geometry of arranging: frames that can be turned, moves while the hand is at them, and what places line up with. mm of the page. */

import type { Point } from "./nodeGrid";
import type { Placement } from "./placement";

/** An item's frame: its middle, its size before it is turned, and by how much it is turned, degrees clockwise. */
export interface Frame {
  id: string;
  middle: Point;
  width: number;
  height: number;
  turn: number;
}

/** A move under way: by how much, and how many times as wide and high, and how much further turned. */
export interface Move {
  dx: number;
  dy: number;
  fx: number;
  fy: number;
  turn: number;
}

export const NO_MOVE: Move = { dx: 0, dy: 0, fx: 1, fy: 1, turn: 0 };

export interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** A hairline that shows what something lines up with, from one place to another. */
export interface Guide {
  from: Point;
  to: Point;
  /** A gap as wide as another one. */
  gap?: boolean;
}

export function turned({ x, y }: Point, degrees: number): Point {
  const angle = (degrees * Math.PI) / 180;
  return { x: x * Math.cos(angle) - y * Math.sin(angle), y: x * Math.sin(angle) + y * Math.cos(angle) };
}

/** Where the move brings the frame. */
export function movedFrame(frame: Frame, move: Move): Frame {
  return {
    id: frame.id, middle: { x: frame.middle.x + move.dx, y: frame.middle.y + move.dy }, width: frame.width * move.fx,
    height: frame.height * move.fy, turn: frame.turn + move.turn,
  };
}

/** The corners of a frame, from the upper left one clockwise. */
export function corners({ middle, width, height, turn }: Frame): Point[] {
  return [[-1, -1], [1, -1], [1, 1], [-1, 1]].map(([u, v]) => {
    const { x, y } = turned({ x: ((u as number) * width) / 2, y: ((v as number) * height) / 2 }, turn);
    return { x: middle.x + x, y: middle.y + y };
  });
}

export function boxOfFrame(frame: Frame): Box {
  const all = corners(frame);
  return {
    left: Math.min(...all.map((p) => p.x)), top: Math.min(...all.map((p) => p.y)), right: Math.max(...all.map((p) => p.x)),
    bottom: Math.max(...all.map((p) => p.y)),
  };
}

export function around(boxes: readonly Box[]): Box {
  return {
    left: Math.min(...boxes.map((b) => b.left)), top: Math.min(...boxes.map((b) => b.top)),
    right: Math.max(...boxes.map((b) => b.right)), bottom: Math.max(...boxes.map((b) => b.bottom)),
  };
}

/** From the page as it is to the page after the move of one item. */
export function placementOf({ middle, turn }: Frame, move: Move): Placement {
  const [before, after] = [(turn * Math.PI) / 180, ((turn + move.turn) * Math.PI) / 180];
  const [c, s, k, n] = [Math.cos(after), Math.sin(after), Math.cos(before), Math.sin(before)];
  // Back to level, larger or smaller, turned again.
  const a = c * move.fx * k + s * move.fy * n;
  const b = c * move.fx * n - s * move.fy * k;
  const d = s * move.fx * k - c * move.fy * n;
  const e = s * move.fx * n + c * move.fy * k;
  return [a, b, middle.x + move.dx - a * middle.x - b * middle.y, d, e, middle.y + move.dy - d * middle.x - e * middle.y];
}

/** From the page to the page: a box brought into the middle of another one, as large as fits, so that two can be held together. */
export function broughtInto(box: Box, into: Box): Placement {
  const k = Math.min((into.right - into.left) / (box.right - box.left), (into.bottom - into.top) / (box.bottom - box.top));
  return [k, 0, (into.left + into.right - k * (box.left + box.right)) / 2, 0, k, (into.top + into.bottom - k * (box.top + box.bottom)) / 2];
}

/** The move that a corner pulled to a place makes; the corner across stays. free: without keeping proportions. */
export function pulled(frame: Frame, corner: number, to: Point, free: boolean): Move {
  const fixed = corners(frame)[(corner + 2) % 4] as Point;
  const local = turned({ x: to.x - fixed.x, y: to.y - fixed.y }, -frame.turn);
  const [sx, sy] = [corner === 1 || corner === 2 ? 1 : -1, corner >= 2 ? 1 : -1];
  const [w, h] = [sx * frame.width, sy * frame.height];
  const least = 0.02;
  let fx = Math.max(least, local.x / w);
  let fy = Math.max(least, local.y / h);
  if (!free) fx = fy = Math.max(least, (local.x * w + local.y * h) / (w * w + h * h));
  const middle = turned({ x: (w * fx) / 2, y: (h * fy) / 2 }, frame.turn);
  return { dx: fixed.x + middle.x - frame.middle.x, dy: fixed.y + middle.y - frame.middle.y, fx, fy, turn: 0 };
}

/** The move that turns a frame so that its right side looks at a place. steps: in steps of 15 degrees. */
export function turnedTo(frame: Frame, to: Point, steps: boolean): Move {
  const angle = (Math.atan2(to.y - frame.middle.y, to.x - frame.middle.x) * 180) / Math.PI;
  const wanted = steps ? Math.round(angle / 15) * 15 : Math.round(angle * 2) / 2;
  return { ...NO_MOVE, turn: ((wanted - frame.turn + 540) % 360) - 180 };
}

/** How far a box has to go on to line up with others, within a reach, and the hairlines that show it. */
export function snapped(box: Box, others: readonly Box[], page: Box, reach: number): { dx: number; dy: number; guides: Guide[] } {
  const x = along(box.left, box.right, others.map((b) => [b.left, b.right]), [page.left, page.right], reach);
  const y = along(box.top, box.bottom, others.map((b) => [b.top, b.bottom]), [page.top, page.bottom], reach);
  const there = { left: box.left + x.by, right: box.right + x.by, top: box.top + y.by, bottom: box.bottom + y.by };
  const low = Math.min(there.top, ...others.map((b) => b.top));
  const high = Math.max(there.bottom, ...others.map((b) => b.bottom));
  const first = Math.min(there.left, ...others.map((b) => b.left));
  const last = Math.max(there.right, ...others.map((b) => b.right));
  const [cx, cy] = [(there.left + there.right) / 2, (there.top + there.bottom) / 2];
  return {
    dx: x.by, dy: y.by,
    guides: [
      ...x.at.map((at): Guide => ({ from: { x: at, y: low }, to: { x: at, y: high } })),
      ...x.gaps.map(([a, b]): Guide => ({ from: { x: a, y: cy }, to: { x: b, y: cy }, gap: true })),
      ...y.at.map((at): Guide => ({ from: { x: first, y: at }, to: { x: last, y: at } })),
      ...y.gaps.map(([a, b]): Guide => ({ from: { x: cx, y: a }, to: { x: cx, y: b }, gap: true })),
    ],
  };
}

type Span = [number, number];
interface Along {
  by: number;
  at: number[];
  gaps: Span[];
}

/** Along one axis: the nearest edge, middle or equal gap. */
function along(low: number, high: number, others: Span[], page: Span, reach: number): Along {
  const own = [low, (low + high) / 2, high];
  const lines = [...others, page].flatMap(([a, b]) => [a, (a + b) / 2, b]);
  let best: Along = { by: 0, at: [], gaps: [] };
  let away = reach;
  for (const line of lines) {
    for (const place of own) {
      if (Math.abs(line - place) < away - 1e-9) {
        away = Math.abs(line - place);
        best = { by: line - place, at: [line], gaps: [] };
      }
    }
  }
  for (const { by, gaps } of gapCandidates(low, high, others)) {
    if (Math.abs(by) < away - 1e-9) {
      away = Math.abs(by);
      best = { by, at: [], gaps };
    }
  }
  if (best.at.length) best.at = lines.filter((line, i) => lines.indexOf(line) === i && own.some((p) => Math.abs(p + best.by - line) < 1e-6));
  return best;
}

function gapCandidates(low: number, high: number, others: Span[]): { by: number; gaps: Span[] }[] {
  const found: { by: number; gaps: Span[] }[] = [];
  const size = high - low;
  for (const one of others) {
    for (const other of others) {
      const gap = other[0] - one[1];
      if (one === other || gap <= 0.01) continue;
      found.push({ by: other[1] + gap - low, gaps: [[one[1], other[0]], [other[1], other[1] + gap]] });
      found.push({ by: one[0] - gap - high, gaps: [[one[0] - gap, one[0]], [one[1], other[0]]] });
      const half = (gap - size) / 2;
      if (half > 0.01) found.push({ by: one[1] + half - low, gaps: [[one[1], one[1] + half], [other[0] - half, other[0]]] });
    }
  }
  return found;
}

/** What is drawn over the stage while items are arranged. */
export interface ArrangeScene {
  /** Frames of what is picked, where they are now. */
  picked: Frame[];
  hover: Frame | null;
  /** Whether the one that is picked can be pulled and turned. */
  handles: boolean;
  /** Moves of the page under single items while the hand is at them; null when nothing moves. */
  live: ReadonlyMap<string, Placement> | null;
  /** Two items held against each other at the seam, each with its way into the middle of the page. */
  compared: readonly { id: string; placement: Placement }[] | null;
  guides: Guide[];
  label: string;
  nodes: { place: Point; handles: Point[]; picked: boolean }[];
}
