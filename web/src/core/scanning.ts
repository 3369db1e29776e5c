/** What a scan will be like, said before it is made. Lengths in mm. */

export interface Area {
  x: number;
  y: number;
  width: number;
  height: number;
}
export const LEAST_MM = 2;
const FEWEST_PX_PER_MM = 2.5; // of the finished make; fewer are told as few in the Picture step, too
const ENOUGH_PX = 600; // along the longer side: shapes are placed well within a tenth of a pixel from there on; measured, see docs
const MM_PER_INCH = 25.4;

/** Pixels across and down. */
export function pixelsOf({ width, height }: Area, dpi: number): [number, number] {
  return [Math.max(1, Math.round((width * dpi) / MM_PER_INCH)), Math.max(1, Math.round((height * dpi) / MM_PER_INCH))];
}

/** How wide a make a scan is enough for, mm. */
export const enoughFor = (area: Area, dpi: number): number => pixelsOf(area, dpi)[0] / FEWEST_PX_PER_MM;

/** Whether a scan has too many pixels. */
export const isTooMuch = (area: Area, dpi: number, most: number): boolean => pixelsOf(area, dpi).reduce((a, b) => a * b) > most;

/** The resolution that suits: the coarsest that draws the area well, 300 for a page, never too much. */
export function suiting(area: Area, dpis: readonly number[], most: number): number {
  const may = dpis.filter((dpi) => !isTooMuch(area, dpi, most));
  const usual = may.filter((dpi) => dpi >= 300);
  return usual.find((dpi) => Math.max(...pixelsOf(area, dpi)) >= ENOUGH_PX) ?? may.at(-1) ?? (dpis[0] as number);
}

/** The area between two places, on the glass, at least LEAST_MM wide and high. */
export function between(one: { x: number; y: number }, other: { x: number; y: number }, glass: { width: number; height: number }): Area {
  const put = (value: number, most: number): number => Math.min(most, Math.max(0, value));
  const [left, right] = [put(Math.min(one.x, other.x), glass.width - LEAST_MM), put(Math.max(one.x, other.x), glass.width)];
  const [top, bottom] = [put(Math.min(one.y, other.y), glass.height - LEAST_MM), put(Math.max(one.y, other.y), glass.height)];
  return { x: left, y: top, width: Math.max(LEAST_MM, right - left), height: Math.max(LEAST_MM, bottom - top) };
}
