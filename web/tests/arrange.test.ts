import { describe, expect, it } from "vitest";

import type { DrawnNode, Item } from "@/api/types";
import {
  boxOfFrame, broughtInto, corners, movedFrame, placementOf, pulled, snapped, turnedTo, type Frame,
} from "@/core/arrange";
import { movedHandle, movedNode, nearest, pathOf, withNode, withoutNode } from "@/core/drawnNodes";
import { withItemChanges } from "@/core/itemChanges";
import { toPlace } from "@/core/placement";
import { repeated } from "@/core/repeat";

const FRAME: Frame = { id: "a", middle: { x: 50, y: 40 }, width: 20, height: 10, turn: 30 };
const PAGE = { left: 0, top: 0, right: 200, bottom: 100 };

describe("moves of a frame", () => {
  it("a pulled corner leaves the one across where it is", () => {
    for (let corner = 0; corner < 4; corner++) {
      for (const free of [false, true]) {
        const fixed = corners(FRAME)[(corner + 2) % 4];
        const move = pulled(FRAME, corner, { x: 80, y: 70 }, free);
        const after = corners(movedFrame(FRAME, move))[(corner + 2) % 4];
        expect(after?.x).toBeCloseTo(fixed?.x ?? NaN);
        expect(after?.y).toBeCloseTo(fixed?.y ?? NaN);
        if (!free) expect(move.fx).toBe(move.fy);
      }
    }
  });

  it("a freely pulled corner comes to lie under the hand", () => {
    const move = pulled(FRAME, 2, { x: 75, y: 62 }, true);
    const at = corners(movedFrame(FRAME, move))[2];
    expect(at?.x).toBeCloseTo(75);
    expect(at?.y).toBeCloseTo(62);
  });

  it("the page's move takes each corner to where the frame's goes", () => {
    const move = { dx: 7, dy: -3, fx: 1.5, fy: 0.8, turn: 25 };
    const placement = placementOf(FRAME, move);
    corners(FRAME).forEach((corner, i) => {
      const there = toPlace(placement, corner);
      const wanted = corners(movedFrame(FRAME, move))[i];
      expect(there.x).toBeCloseTo(wanted?.x ?? NaN);
      expect(there.y).toBeCloseTo(wanted?.y ?? NaN);
    });
    const back = placementOf(movedFrame(FRAME, move), { dx: -7, dy: 3, fx: 1 / 1.5, fy: 1 / 0.8, turn: -25 });
    for (const corner of corners(FRAME)) expect(toPlace(back, toPlace(placement, corner)).x).toBeCloseTo(corner.x);
  });

  it("turns in steps of fifteen degrees where they are wanted", () => {
    const to = { x: 60, y: 41 };
    expect((FRAME.turn + turnedTo(FRAME, to, true).turn) % 15).toBeCloseTo(0);
    expect(FRAME.turn + turnedTo(FRAME, to, false).turn).toBeCloseTo(5.5);
  });
});

it("two boxes brought into one place fill it alike", () => {
  const placement = broughtInto({ left: 10, top: 10, right: 30, bottom: 20 }, PAGE);
  expect(toPlace(placement, { x: 10, y: 15 })).toEqual({ x: 0, y: 50 });
  expect(toPlace(placement, { x: 30, y: 15 })).toEqual({ x: 200, y: 50 });
});

describe("lining up", () => {
  const other = { left: 100, top: 20, right: 140, bottom: 60 };
  const box = (left: number, top: number): typeof other => ({ left, top, right: left + 20, bottom: top + 20 });

  it("edges and middles within reach", () => {
    expect(snapped(box(101, 80), [other], PAGE, 3).dx).toBe(-1);
    expect(snapped(box(111, 80), [other], PAGE, 3).dx).toBe(-1); // the middles
    expect(snapped(box(40, 31.5), [other], PAGE, 3)).toMatchObject({ dy: -1.5 });
    expect(snapped(box(40, 3), [other], PAGE, 2).guides).toEqual([]);
  });

  it("a gap as wide as another one", () => {
    const third = { left: 150, top: 20, right: 160, bottom: 60 };
    const found = snapped(box(168, 27), [other, third], PAGE, 4);
    expect(found.dx).toBe(2); // as far from the third as that is from the other
    expect(found.guides.filter((guide) => guide.gap)).toHaveLength(2);
  });
});

describe("a change of an item", () => {
  const place = { x_mm: 1, y_mm: 2, turn_deg: 0, mirrored: false, stretch: 1, locked: false };
  const part = { kind: "adds" as const, targets: [], clear_mm: null };
  const text = {
    id: "lettering-2", kind: "lettering", name: "Name", place, part, hidden: false, origin: { source: "", maker: "", use: "unknown" },
    made: { text: "Tea", font: "nunito", capital_mm: 10, spacing_mm: 1, line_height: 1, align: "middle", along: "straight", radius_mm: 40, inward: false, colour: "#000000" },
  } as Item;
  const shape = { id: "shape-3", kind: "shape", name: "Box", place, part, hidden: false, origin: { source: "", maker: "", use: "unknown" }, made: { form: "rectangle", width_mm: 20, height_mm: 10, corner_mm: 2, points: 5, inner: 0.4, hole_mm: 5, band_mm: 4, colour: "#000000" } } as Item;
  it("is seen before the server has answered", () => {
    const document = { version: 2, name: "x", items: [text, shape], minted: 3, make: {} } as never;
    const next = withItemChanges(document, { "shape-3": { place: { x_mm: 9 }, hidden: true } });
    expect(next.items[1]).toMatchObject({ hidden: true, place: { x_mm: 9, y_mm: 2 } });
    expect(next.items[0]).toBe(text);
  });
});

describe("nodes of a drawn line", () => {
  const node = (x: number, y: number, out_x = 0, in_x = 0): DrawnNode => ({ x, y, in_x, in_y: 0, out_x, out_y: 0 });
  const line = [node(0, 0, 5), node(15, 0, 5, -5), node(30, 0, 0, -5)];

  it("one more leaves the line as it is", () => {
    const more = withNode(line, 0, 0.5);
    expect(more).toHaveLength(4);
    expect(more[1]).toMatchObject({ x: 7.5, y: 0 });
    expect(nearest(more, false, { x: 11, y: 2 }).away).toBeCloseTo(nearest(line, false, { x: 11, y: 2 }).away, 1);
    expect(withoutNode(more, 1)).toHaveLength(3);
    expect(pathOf(line, true).endsWith("Z")).toBe(true);
  });

  it("a node takes its handles along; handles of a smooth one turn together", () => {
    expect(movedNode(line, 1, { x: 20, y: 5 })[1]).toMatchObject({ x: 20, y: 5, in_x: -5, out_x: 5 });
    const bent = movedHandle(line, 1, "out", { x: 15, y: 8 })[1];
    expect(bent).toMatchObject({ out_x: 0, out_y: 8 });
    expect(bent?.in_x).toBeCloseTo(0);
    expect(bent?.in_y).toBeCloseTo(-5);
  });
});

describe("repeating", () => {
  const base = { rows: 2, gap: 5, radius: 30, along: true };
  it("in a row, a grid and a circle", () => {
    const level = { ...FRAME, turn: 0 };
    expect(repeated(level, { ...base, how: "row", count: 3 }).map(({ dx }) => dx)).toEqual([25, 50]);
    const grid = repeated(level, { ...base, how: "grid", count: 4 });
    expect(grid.map(({ dx, dy }) => [dx, dy])).toEqual([[25, 0], [0, 15], [25, 15]]);
    const circle = repeated(level, { ...base, how: "circle", count: 4 });
    for (const { dx, dy } of circle) expect(Math.hypot(dx, dy - 30)).toBeCloseTo(30);
    expect(circle.map(({ turn }) => turn)).toEqual([90, 180, 270]);
    expect(boxOfFrame(level)).toEqual({ left: 40, top: 35, right: 60, bottom: 45 });
  });
});
