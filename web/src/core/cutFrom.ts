/** A stock of the drawer as a job keeps it: as it was when it was chosen. */

import type { CutFrom, Stock } from "@/api/types";

export function cutFrom(stock: Stock | undefined): CutFrom | null {
  if (!stock?.id) return null;
  const { id, name, kind, colour, width_mm, height_mm, patterned } = stock;
  return { id, name, kind, colour, width_mm, height_mm, patterned };
}

/** Whether a material is a film that is pressed onto cloth. */
export const isPressed = (kind: Stock["kind"] | undefined): boolean => kind === "heat-transfer vinyl" || kind === "flock";
