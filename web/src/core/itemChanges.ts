/** What a move of an item changes in the document: each kind keeps its size in its own way. */

import type { Item, JobDocument } from "@/api/types";

import { movedFrame, type Frame, type Move } from "./arrange";

/** Own fields of an item: place, part, made, hidden, name; of a picture width_mm. */
export type Fields = Record<string, unknown>;

const round = (mm: number): number => Math.round(mm * 1e4) / 1e4;

/** origin: the page's upper left corner on the table, mm. */
export function itemChanges(item: Item, frame: Frame, move: Move, origin: readonly number[]): Fields {
  const there = movedFrame(frame, move);
  const place: Fields = { x_mm: round(there.middle.x + (origin[0] ?? 0)), y_mm: round(there.middle.y + (origin[1] ?? 0)) };
  const fields: Fields = { place };
  if (move.turn) place.turn_deg = round(((there.turn + 180 + 360) % 360) - 180);
  if (move.fx !== 1 || move.fy !== 1) {
    Object.assign(fields, sized(item, frame, move.fx, move.fy));
    const own = item.kind === "shape" || item.kind === "drawn";
    if (!own && Math.abs(move.fx - move.fy) > 1e-6) place.stretch = round((item.place?.stretch ?? 1) * (move.fy / move.fx));
  }
  return fields;
}

function sized(item: Item, frame: Frame, fx: number, fy: number): Fields {
  switch (item.kind) {
    case "picture":
      return { width_mm: round(frame.width * fx) };
    case "lettering": {
      const { capital_mm = 15, spacing_mm = 0, radius_mm = 40 } = item.made;
      return { made: { capital_mm: round(capital_mm * fx), spacing_mm: round(spacing_mm * fx), radius_mm: round(radius_mm * fx) } };
    }
    case "shape": {
      const { width_mm = 0, height_mm = 0, corner_mm = 0, hole_mm = 0, band_mm = 1 } = item.made;
      const k = Math.min(fx, fy);
      return {
        made: {
          width_mm: round(width_mm * fx), height_mm: round(height_mm * fy), corner_mm: round(corner_mm * k), hole_mm: round(hole_mm * k),
          band_mm: round(band_mm * k),
        },
      };
    }
    case "drawn":
      return {
        made: {
          nodes: item.made.nodes.map((n) => ({
            x: round(n.x * fx), y: round(n.y * fy), in_x: round((n.in_x ?? 0) * fx), in_y: round((n.in_y ?? 0) * fy),
            out_x: round((n.out_x ?? 0) * fx), out_y: round((n.out_y ?? 0) * fy),
          })),
        },
      };
    case "lines":
    case "lifted":
      return { made: { factor: round((item.made.factor ?? 1) * fx) } };
    default:
      return {};
  }
}

/** The document with such changes made, before the server has answered. */
export function withItemChanges(document: JobDocument, changes: Readonly<Record<string, Fields>>): JobDocument {
  const items = document.items.map((item) => {
    const own = changes[item.id];
    if (!own) return item;
    const { width_mm, ...rest } = own;
    let next = { ...item } as Record<string, unknown>;
    for (const [name, value] of Object.entries(rest)) {
      const before = next[name];
      const both = value !== null && typeof value === "object" && !Array.isArray(value) && before !== null && typeof before === "object";
      next[name] = both ? { ...(before as object), ...(value as object) } : value;
    }
    if (width_mm !== undefined && item.kind === "picture") next = { ...next, course: { ...item.course, picture: { ...item.course.picture, width_mm } } };
    return next as unknown as Item;
  });
  return { ...document, items };
}
