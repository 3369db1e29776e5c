/** Sheets beside each other on the stage, in mm of a table they lie on, and what a hand does with them. */

import type { ByHand, LaidPart, Plan, PlanSheet } from "@/api/types";

import type { Point } from "./nodeGrid";

export const BETWEEN_MM = 26;
export const ABOVE_MM = 20;
type Six = readonly number[];

/** Where a sheet's upper left corner lies on the table. */
export interface OnTable extends Point {
  width: number;
  height: number;
}

/** Sheets in rows, so many in each that the whole is about as wide as the stage. aspect: width against height of that. */
export function onTable(sheets: readonly PlanSheet[], aspect: number): OnTable[] {
  let best: OnTable[] = [];
  let least = Infinity;
  for (let columns = 1; columns <= Math.min(sheets.length, 12); columns++) {
    const places = inRows(sheets, columns);
    const { width, height } = extent(places);
    const scale = Math.max(width / aspect, height);
    if (scale < least) [least, best] = [scale, places];
  }
  return best;
}

function inRows(sheets: readonly PlanSheet[], columns: number): OnTable[] {
  const places: OnTable[] = [];
  let y = 0;
  for (let row = 0; row < sheets.length; row += columns) {
    let x = 0;
    const own = sheets.slice(row, row + columns);
    for (const { width, height } of own) {
      places.push({ x, y: y + ABOVE_MM, width, height });
      x += width + BETWEEN_MM;
    }
    y += Math.max(...own.map(({ height }) => height)) + ABOVE_MM + BETWEEN_MM;
  }
  return places;
}

export function extent(places: readonly OnTable[]): { x: number; y: number; width: number; height: number } {
  const right = Math.max(1, ...places.map(({ x, width }) => x + width));
  const bottom = Math.max(1, ...places.map(({ y, height }) => y + height));
  return { x: 0, y: 0, width: right, height: bottom };
}

/** From mm on a sheet as it is cut to mm as pieces were laid, and back: mirrored about its middle. */
export const flipped = ({ mirrored, width }: PlanSheet, { x, y }: Point): Point => ({ x: mirrored ? width - x : x, y });

export function through(matrix: Six, { x, y }: Point): Point {
  const [a = 1, b = 0, c = 0, d = 0, e = 1, f = 0] = matrix;
  return { x: a * x + b * y + c, y: d * x + e * y + f };
}

/** A matrix turned by more degrees about a place on the carrier, and moved. */
export function moved(matrix: Six, by: Point, turn: number, about: Point): Six {
  const angle = (turn * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  const [a = 1, b = 0, c = 0, d = 0, e = 1, f = 0] = matrix;
  const place = { x: c - about.x, y: f - about.y };
  return [
    cos * a - sin * d, cos * b - sin * e, cos * place.x - sin * place.y + about.x + by.x,
    sin * a + cos * d, sin * b + cos * e, sin * place.x + cos * place.y + about.y + by.y,
  ];
}

/** A part on a sheet: the sheet's number, and the part's among those on it. */
export interface Picked {
  sheet: number;
  place: number;
}

/** A plan with one part laid elsewhere, as it is seen until the server has laid out the others; and where that part is then. */
export function withMoved(plan: Plan, { sheet, place }: Picked, matrix: Six, onto: number): { plan: Plan; picked: Picked } {
  const laid = plan.sheets[sheet]?.places[place];
  if (!laid) return { plan, picked: { sheet, place } };
  const moved = { ...laid, matrix: matrix as LaidPart["matrix"], by_hand: true };
  const sheets = plan.sheets.map((one, i) => {
    if (i === sheet && i === onto) return { ...one, places: one.places.map((own, k) => (k === place ? moved : own)) };
    if (i === sheet) return { ...one, clashes: [], places: one.places.filter((_, k) => k !== place) };
    return i === onto ? { ...one, places: [...one.places, moved] } : one;
  });
  const last = (sheets[onto]?.places.length ?? 1) - 1;
  return { plan: { ...plan, sheets }, picked: { sheet: onto, place: onto === sheet ? place : last } };
}

/** A part found again in another plan, by its layer, its copy and its place in the make. */
export function foundAgain(plan: Plan, wanted: ByHand): Picked | null {
  for (const [sheet, { places, number }] of plan.sheets.entries()) {
    const place = places.findIndex((laid) => {
      const own = handOf(plan, laid, laid.matrix, number);
      return own !== null && isSame(own, wanted);
    });
    if (place >= 0) return { sheet, place };
  }
  return null;
}

/** A place by hand for a part, as it is kept. sheet: its number among those of its stock. */
export function handOf(plan: Plan, laid: LaidPart, matrix: Six, sheet: number): ByHand | null {
  const part = plan.parts[laid.part];
  const layer = part && plan.layers[part.layer];
  if (!part || !layer) return null;
  const [at_x, at_y] = part.at;
  const { x, y } = through(matrix, { x: at_x * plan.page_width, y: at_y * plan.page_width });
  const turn = (Math.atan2(matrix[3] ?? 0, matrix[0] ?? 1) * 180) / Math.PI;
  return {
    layer: layer.told, copy_number: laid.copy_number, at_x, at_y, sheet, x_mm: round(x), y_mm: round(y), turn_deg: round(turn),
  };
}

const round = (value: number): number => Math.round(value * 1000) / 1000;

export const isSame = (one: ByHand, other: ByHand): boolean =>
  one.layer === other.layer && one.copy_number === other.copy_number && Math.hypot(one.at_x - other.at_x, one.at_y - other.at_y) < 1e-6;
