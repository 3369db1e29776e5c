import { describe, expect, it } from "vitest";

import type { PieceRow } from "@/api/types";
import { alike, changeOf, drawnChange, foundAgain, isInside, mapPlacement, tooSmall, within } from "@/core/pieces";
import { toPlace } from "@/core/placement";

const row = (colour: string, area: number, x: number, y: number, more: Partial<PieceRow> = {}): PieceRow => ({
  colour, area_mm2: area * 100, area, at: [x, y], box: [x - 0.01, y - 0.01, x + 0.01, y + 0.01], path: `M${x},${y}Z`, widest_mm: 1, least_mm: 1,
  reason: "", change: -1, kept: false, stands_out: false, word: -1, line: -1, ...more,
});
const rows = [
  row("#aa0000", 0.02, 0.2, 0.2), row("#aa0000", 0.025, 0.4, 0.2), row("#aa0000", 0.2, 0.6, 0.6), row("#0000aa", 0.021, 0.3, 0.3),
  row("", 0.005, 0.5, 0.5), row("#aa0000", 0.02, 0.25, 0.25, { reason: "small" }), row("#ffee00", 0.004, 0.7, 0.2, { stands_out: true }),
];

describe("pieces", () => {
  it("are alike by colour and size", () => {
    expect(alike(rows, rows[0] as PieceRow)).toEqual([0, 1]);
  });

  it("lie within a ring with all of their box, and only those that are there", () => {
    const ring = [{ x: 0.1, y: 0.1 }, { x: 0.45, y: 0.1 }, { x: 0.45, y: 0.45 }, { x: 0.1, y: 0.45 }];
    expect(within(rows, ring, (place) => place)).toEqual([0, 1, 3]);
    const wide = rows.map((one, i) => (i === 1 ? { ...one, box: [0.3, 0.19, 0.9, 0.21] as [number, number, number, number] } : one));
    expect(within(wide, ring, (place) => place)).toEqual([0, 3]);
  });

  it("are too small unless they stand out and have no larger sister", () => {
    expect(tooSmall(rows, 3, 1, true)).toEqual([0, 1, 3, 4]);
    expect(tooSmall(rows, 3, 0, false)).toEqual([0, 1, 3, 6]);
    const sister = [...rows, row("#ffee00", 0.5, 0.8, 0.8)];
    expect(tooSmall(sister, 3, 0, true)).toContain(6);
  });

  it("are found again after a new trace by colour, place and size", () => {
    const next = [row("#0000aa", 0.02, 0.305, 0.3), row("#aa0000", 0.021, 0.21, 0.2), row("#aa0000", 0.9, 0.2, 0.2)];
    expect(foundAgain(rows, [0, 3, 4], next)).toEqual([1, 0]);
  });

  it("say all that a change holds on to", () => {
    const one = changeOf(rows[0] as PieceRow, "give", { into: "#0000aa" });
    expect(one).toMatchObject({ kind: "give", x: 0.2, y: 0.2, area: 0.02, colour: "#aa0000", into: "#0000aa" });
    expect(changeOf(rows[4] as PieceRow, "drop").colour).toBeNull();
    const line = Array.from({ length: 2000 }, (_, i) => ({ x: i / 2000, y: 0 }));
    const drawn = drawnChange("cut", line, 1.5, null);
    expect(drawn.line.length).toBeLessThanOrEqual(401);
    expect(drawn.line.at(-1)).toEqual([1999 / 2000, 0]);
  });

  it("lie on the page where their map does", () => {
    const map = mapPlacement([200, 0, 10, 0, 200, 20], 100);
    expect(toPlace(map, { x: 50, y: 25 })).toEqual({ x: 110, y: 70 });
  });

  it("knows inside from outside by the even-odd rule", () => {
    const twice = [{ x: 0, y: 0 }, { x: 4, y: 4 }, { x: 4, y: 0 }, { x: 0, y: 4 }];
    expect([{ x: 3.5, y: 2 }, { x: 2, y: 0.5 }].map((place) => isInside(place, twice))).toEqual([true, false]);
  });
});
