import { describe, expect, it } from "vitest";

import type { Layer, LaidPart, LayerRecord, LayersSettings, Plan, PlanSheet } from "@/api/types";
import { inOrder, withMerged, withNames, withOrder, withParted, withRecord } from "@/core/layerRecords";
import { extent, flipped, foundAgain, handOf, isSame, moved, onTable, through, withMoved } from "@/core/sheets";

const sheet = (width: number, height: number, mirrored = false): PlanSheet => ({ width, height, mirrored, places: [] }) as unknown as PlanSheet;

describe("sheets on the table", () => {
  it("lie in their order beside each other, none on another, about as wide as the stage", () => {
    for (const aspect of [0.5, 1, 2, 4]) {
      const sheets = [sheet(300, 300), sheet(300, 300), sheet(457, 120), sheet(300, 600), sheet(210, 297)];
      const places = onTable(sheets, aspect);
      expect(places.map(({ width }) => width)).toEqual(sheets.map(({ width }) => width));
      places.forEach((one, i) =>
        places.slice(i + 1).forEach((other) => {
          const apart = one.x + one.width < other.x || other.x + other.width < one.x || one.y + one.height < other.y;
          expect(apart).toBe(true);
        }),
      );
      const whole = extent(places);
      expect(Math.max(...places.map(({ x, width }) => x + width))).toBe(whole.width);
    }
  });

  it("are flipped about their middle, and back", () => {
    const one = sheet(300, 200, true);
    expect(flipped(one, { x: 10, y: 5 })).toEqual({ x: 290, y: 5 });
    expect(flipped(one, flipped(one, { x: 42, y: 7 }))).toEqual({ x: 42, y: 7 });
    expect(flipped(sheet(300, 200), { x: 10, y: 5 })).toEqual({ x: 10, y: 5 });
  });
});

describe("a part moved by hand", () => {
  const plan = { page_width: 100, layers: [{ told: "layer-3" }], parts: [{ layer: 0, at: [0.2, 0.1], path: "", lines: [] }] } as unknown as Plan;
  const laid = { part: 0, copy_number: 2, matrix: [1, 0, 30, 0, 1, 40], turn: 0, by_hand: false } as unknown as LaidPart;

  it("turns about its own place and is told by it", () => {
    const about = through(laid.matrix, { x: 20, y: 10 });
    expect(about).toEqual({ x: 50, y: 50 });
    const turned = moved(laid.matrix, { x: 5, y: -3 }, 90, about);
    const place = through(turned, { x: 20, y: 10 });
    expect(place.x).toBeCloseTo(55);
    expect(place.y).toBeCloseTo(47);
    const hand = handOf(plan, laid, turned, 1);
    expect(hand).toMatchObject({ layer: "layer-3", copy_number: 2, sheet: 1, at_x: 0.2, at_y: 0.1, turn_deg: 90, x_mm: 55, y_mm: 47 });
    const before = handOf(plan, laid, laid.matrix, 0);
    expect(before && hand && isSame(before, hand)).toBe(true);
    expect(hand && isSame(hand, { ...hand, copy_number: 3 })).toBe(false);
  });
});

describe("a part sent to another sheet", () => {
  const parts = [{ layer: 0, at: [0.2, 0.1] }, { layer: 0, at: [0.7, 0.4] }];
  const laid = (part: number, copy_number: number): LaidPart => ({ part, copy_number, matrix: [1, 0, 0, 0, 1, 0], turn: 0, by_hand: false }) as LaidPart;
  const sheets = [
    { ...sheet(300, 300), number: 0, clashes: [], places: [laid(0, 0), laid(1, 0), laid(0, 1)] }, { ...sheet(300, 300), number: 1, clashes: [], places: [laid(1, 1)] },
  ];
  const plan = { page_width: 100, layers: [{ told: "layer-3" }], parts, sheets } as unknown as Plan;

  it("lies there at once, and nothing is lost or there twice", () => {
    const seen = withMoved(plan, { sheet: 0, place: 1 }, [1, 0, 50, 0, 1, 60], 1);
    expect(seen.picked).toEqual({ sheet: 1, place: 1 });
    expect(seen.plan.sheets.map(({ places }) => places.map(({ part, copy_number }) => [part, copy_number]))).toEqual([[[0, 0], [0, 1]], [[1, 1], [1, 0]]]);
    expect(seen.plan.sheets[1]?.places[1]).toMatchObject({ matrix: [1, 0, 50, 0, 1, 60], by_hand: true });
    const stayed = withMoved(plan, { sheet: 0, place: 1 }, [1, 0, 5, 0, 1, 6], 0);
    expect(stayed.picked).toEqual({ sheet: 0, place: 1 });
    expect(stayed.plan.sheets[0]?.places.length).toBe(3);
  });

  it("is found again in the plan that comes after, however its order is", () => {
    const hand = handOf(plan, laid(1, 0), [1, 0, 0, 0, 1, 0], 0);
    const after = { ...plan, sheets: [...plan.sheets].reverse() };
    expect(hand && foundAgain(after, hand)).toEqual({ sheet: 1, place: 1 });
    expect(hand && foundAgain({ ...plan, sheets: [] }, hand)).toBeNull();
  });
});

describe("layers that are referred to", () => {
  const hold = (colour: string): Layer["holds"][number] => ({ item: "picture-1", colour, x: 0.5, y: 0.5 });
  const layer = (id: string, ...colours: string[]): Layer => ({ id, holds: colours.map(hold) }) as unknown as Layer;
  const records: LayerRecord[] = [{ id: "layer-4", name: "Lid", colour: null, stock: null, anchors: [hold("#111111"), hold("#222222")] }];

  it("are given a name where they have none", () => {
    const named = withNames([layer("", "#333333"), layer("layer-4", "#111111", "#222222")], { records });
    expect(named.names).toEqual(["-1", "layer-4"]);
    expect(named.records[1]?.anchors).toEqual([hold("#333333")]);
  });

  it("change places once for each press, however late the result comes", () => {
    const layers = ["#111111", "#222222", "#333333"].map((colour) => layer("", colour));
    let settings: Pick<LayersSettings, "records" | "order"> = { records: [], order: [] };
    const shown = (): string[] => inOrder(layers, settings).map(({ holds }) => holds[0]!.colour);
    for (const [from, to, wanted] of [[2, 1, "132"], [1, 0, "312"], [1, 2, "321"]] as const) {
      const change = withOrder(inOrder(layers, settings), from, to, settings);
      expect(new Set(change!.order).size).toBe(3);
      settings = change!;
      expect(shown().map((colour) => colour[1]).join("")).toBe(wanted);
    }
    expect(settings.records.length).toBe(3);
    expect(withOrder(layers, 2, 3, settings)).toBeNull();
    expect(withOrder(layers, 0, -1, settings)).toBeNull();
    // The server's ids come with the next state, before the layers know them.
    const named = settings.records.map((record, i) => ({ ...record, id: `layer-${i + 2}` }));
    const after = { records: named, order: settings.order.map((name) => `layer-${Number(name.slice(1)) + 2}`) };
    expect(inOrder(layers, after).map(({ holds }) => holds[0]!.colour[1]).join("")).toBe("321");
    expect(withOrder(inOrder(layers, after), 0, 1, after)!.records).toEqual(named);
  });

  it("are named twice in one record", () => {
    const one = layer("", "#333333");
    const first = withRecord(one, { name: "Sea" }, { records: [] });
    expect(withRecord(one, { colour: "#00ff00" }, first).records).toMatchObject([{ name: "Sea", colour: "#00ff00" }]);
  });

  it("are made one, all of them", () => {
    const all = [layer("", "#333333"), layer("layer-4", "#111111", "#222222"), layer("", "#444444")];
    const { records: joined } = withMerged(all, { records });
    expect(joined.map(({ anchors }) => anchors.map(({ colour }) => colour))).toEqual([["#444444", "#111111", "#222222", "#333333"]]);
  });

  it("are parted into what they were", () => {
    const whole = layer("layer-4", "#111111", "#222222");
    const { records: left } = withParted(whole, whole.holds[1]!, { records });
    expect(left.map(({ id, anchors }) => [id, anchors.map(({ colour }) => colour)])).toEqual([["layer-4", ["#111111"]], ["", ["#222222"]]]);
    expect(left[0]?.name).toBe("Lid");
  });
});
