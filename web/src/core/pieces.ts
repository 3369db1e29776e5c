/** Pieces of a picture: which one lies at a place, which are alike, and what a change by hand holds on to. */

import type { PieceChange, PieceRow } from "@/api/types";

import type { Point } from "./nodeGrid";
import { type Placement } from "./placement";

const ALIKE = 1.6; // times as large, or as small, counts as alike

export interface PieceShape {
  path: Path2D;
  /** Left, top, right and bottom, mm of the map. */
  box: readonly number[];
  window: boolean;
}

export interface PieceScene {
  /** From mm of the picture's map to mm of the page. */
  map: Placement;
  hover: PieceShape[];
  picked: PieceShape[];
  going: PieceShape[];
  /** The largest of those that would go. */
  ring: PieceShape[];
  /** One that is gone and is pointed at in the list. */
  gone: PieceShape[];
  marks: Point[];
  bridges: Point[][];
  /** By how much the picked ones are moved, mm of the page. */
  moving: Point | null;
  /** A bridge while its end is moved by hand: from where to where, mm of the page. */
  pulled: readonly [Point, Point] | null;
}

export const isHere = (row: PieceRow): boolean => row.reason === "";
export const isWindow = (row: PieceRow): boolean => row.colour === "";
export const size = ({ box: [left, top, right, bottom] }: PieceRow, scale: number): { width: number; height: number } => ({
  width: (right - left) * scale, height: (bottom - top) * scale,
});

/** From mm of the picture's map to mm of the page. raster: from shares of its width. */
export function mapPlacement([a, b, c, d, e, f]: Placement, width: number): Placement {
  return [a / width, b / width, c, d / width, e / width, f];
}

/** A change by hand of a piece, with all that says which one is meant. */
export function changeOf(row: PieceRow, kind: PieceChange["kind"], fields: Partial<PieceChange> = {}): PieceChange {
  return {
    kind, x: row.at[0], y: row.at[1], area: row.area, colour: row.colour || null, into: null, fill: "around", amount_mm: 0, dx: 0, dy: 0,
    turn_deg: 0, scale: 1, line: [], item: null, also: [], ...fields,
  };
}

/** One change for all of some pieces: they go together. */
export function changeOfAll([first, ...others]: readonly PieceRow[], kind: PieceChange["kind"], fields: Partial<PieceChange> = {}): PieceChange[] {
  return first ? [changeOf(first, kind, { also: others.map((row) => ({ x: row.at[0], y: row.at[1], area: row.area, colour: row.colour || null })), ...fields })] : [];
}

/** A bar, a cut or a bridge along a line. */
export function drawnChange(kind: "bar" | "cut" | "bridge", line: readonly Point[], amount_mm: number, colour: string | null): PieceChange {
  return {
    kind, x: 0, y: 0, area: 0, colour, into: null, fill: "around", amount_mm, dx: 0, dy: 0, turn_deg: 0, scale: 1,
    line: thinned(line, 400).map(({ x, y }): [number, number] => [x, y]), item: null, also: [],
  };
}

function thinned<T>(all: readonly T[], most: number): T[] {
  const every = Math.ceil(all.length / most);
  return all.filter((_, i) => i % every === 0 || i === all.length - 1);
}

/** Numbers of the pieces that are there and of about the size and the colour of one. */
export function alike(rows: readonly PieceRow[], one: PieceRow): number[] {
  return numbers(rows, (row) => isHere(row) && row.colour === one.colour && row.area <= one.area * ALIKE && row.area >= one.area / ALIKE);
}

/** Numbers of the pieces that lie within a ring drawn about them; places are shares. shareOf: from mm of the map to shares. */
export function within(rows: readonly PieceRow[], ring: readonly Point[], shareOf: (place: Point) => Point): number[] {
  const [xs, ys] = [ring.map(({ x }) => x), ring.map(({ y }) => y)];
  const [left, top, right, bottom] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  return numbers(rows, (row) => {
    const [a = 0, b = 0, c = 0, d = 0] = row.box;
    const corners = [{ x: a, y: b }, { x: c, y: b }, { x: c, y: d }, { x: a, y: d }].map(shareOf);
    const held = corners.every(({ x, y }) => x >= left && x <= right && y >= top && y <= bottom);
    return isHere(row) && held && isInside({ x: row.at[0], y: row.at[1] }, ring);
  });
}

/** Numbers of the pieces and windows that would go by rules on areas. telling: whether small ones that stand out stay. */
export function tooSmall(rows: readonly PieceRow[], piece_mm2: number, window_mm2: number, telling: boolean): number[] {
  const largest = new Map<string, number>();
  for (const row of rows) if (isHere(row)) largest.set(row.colour, Math.max(largest.get(row.colour) ?? 0, row.area_mm2));
  const stays = (row: PieceRow): boolean => telling && row.stands_out && (largest.get(row.colour) ?? 0) < piece_mm2;
  return numbers(rows, (row) => isHere(row) && (isWindow(row) ? row.area_mm2 < window_mm2 : row.area_mm2 < piece_mm2 && !stays(row)));
}

/** Where rows of a list are after a new trace: by the nearest place of the same colour. */
export function foundAgain(before: readonly PieceRow[], picked: readonly number[], rows: readonly PieceRow[]): number[] {
  return picked.flatMap((number) => {
    const one = before[number];
    if (!one) return [];
    const away = (row: PieceRow): number => Math.hypot(row.at[0] - one.at[0], row.at[1] - one.at[1]);
    const own = numbers(rows, (row) => isHere(row) && row.colour === one.colour && away(row) < Math.sqrt(one.area) && row.area < 3 * one.area && row.area > one.area / 3);
    const nearest = own.sort((a, b) => away(rows[a] as PieceRow) - away(rows[b] as PieceRow))[0];
    return nearest === undefined ? [] : [nearest];
  });
}

/** By the even-odd rule. */
export function isInside({ x, y }: Point, ring: readonly Point[]): boolean {
  let inside = false;
  ring.forEach((one, i) => {
    const next = ring[(i + 1) % ring.length] ?? one;
    if (one.y > y !== next.y > y && x < one.x + ((y - one.y) / (next.y - one.y)) * (next.x - one.x)) inside = !inside;
  });
  return inside;
}

function numbers(rows: readonly PieceRow[], which: (row: PieceRow) => boolean): number[] {
  return rows.flatMap((row, i) => (which(row) ? [i] : []));
}
