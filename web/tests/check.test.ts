import { describe, expect, it } from "vitest";

import type { Checked, CutCheck, CutMove, Repair } from "@/api/types";
import { following, groupsOf, merged, repairOfAll, ringAt, ringsOf } from "@/core/check";
import { along, moveAt, nextLine, shareOf } from "@/core/cutting";

const bar = (x: number): Repair => ({ code: "widen", opens: "", edits: [{ item: "picture-1", step: "pieces", settings: {}, add: { changes: [{ x }] } }] });
const opens: Repair = { code: "open_pieces", opens: "pieces", edits: [] };
const finding = (code: string, at: [number, number] | null, repairs: Repair[], ignored = false): Checked =>
  ({ finding: { code, severity: code === "sharp_tip" ? "note" : "warning", at, limit: 0.8, value: 0.5, details: {} }, known: { code, x: at?.[0] ?? 0 }, ignored, repairs }) as unknown as Checked;
const check = (...findings: Checked[]): CutCheck => ({ findings, to_look_at: findings.length }) as unknown as CutCheck;

describe("findings of the cut check", () => {
  const all = check(
    finding("narrow_neck", [10, 10], [bar(1)]), finding("film_on_film", null, [opens]), finding("narrow_neck", [30, 10], [bar(2)]),
    finding("narrow_neck", [50, 10], [bar(3)], true), finding("sharp_tip", [10.5, 10], [opens]),
  );

  it("of one kind stand together, those that are ignored do not", () => {
    expect(groupsOf(all).map(({ code, findings }) => [code, findings.map(({ number }) => number)])).toEqual([
      ["narrow_neck", [0, 2]], ["film_on_film", [1]], ["sharp_tip", [4]],
    ]);
  });

  it("are mended together by what most of them have first, as one edit a step", () => {
    const [necks, film] = groupsOf(all);
    expect(repairOfAll(necks!)).toEqual({ code: "widen", count: 2, edits: [{ item: "picture-1", step: "pieces", settings: {}, add: { changes: [{ x: 1 }, { x: 2 }] } }] });
    expect(repairOfAll(film!)).toBeNull();
    const rule: Repair = { code: "bridge", opens: "", edits: [{ item: "picture-1", step: "pieces", settings: { bridge_mm: 2 }, add: {} }] };
    expect(merged([rule, rule, bar(7)])).toEqual([{ item: "picture-1", step: "pieces", settings: { bridge_mm: 2 }, add: { changes: [{ x: 7 }] } }]);
  });

  it("are ringed where they are, and the nearest ring is picked", () => {
    const rings = ringsOf(all);
    expect(rings.map(({ number }) => number)).toEqual([0, 2, 4]);
    expect(ringAt(rings, { x: 10.4, y: 10 }, 1)).toBe(4);
    expect(ringAt(rings, { x: 29, y: 10 }, 0.1)).toBe(-1);
    expect(ringAt(rings, { x: 29, y: 10 }, 1.5)).toBe(2);
  });

  it("follow each other round and round, both ways", () => {
    const way = (from: number, step: 1 | -1): number => following(all.findings, from, step);
    expect([way(-1, 1), way(0, 1), way(2, 1), way(4, 1)]).toEqual([0, 1, 4, 0]);
    expect([way(-1, -1), way(4, -1), way(0, -1)]).toEqual([4, 2, 4]);
    expect(following([finding("x", null, [], true)], -1, 1)).toBe(-1);
  });
});

describe("the cutter's way", () => {
  const move = (kind: CutMove["kind"], points: number[], start: number, end: number): CutMove => ({ kind, points, start, end });
  const moves = [move("travel", [0, 0, 10, 0], 0, 1), move("cut", [10, 0, 20, 0, 20, 10], 1.2, 3.2), move("travel", [20, 10, 0, 0], 3.4, 4), move("cut", [0, 0, 5, 0], 4.2, 5)];

  it("is at one move at a time, and as far along as time has gone by", () => {
    expect([0, 0.5, 1.1, 2, 3.3, 9].map((time) => moveAt(moves, time))).toEqual([0, 0, 1, 1, 2, 3]);
    expect(shareOf(moves[1]!, 2.2)).toBeCloseTo(0.5);
    expect(shareOf(moves[1]!, 1.1)).toBe(0);
    expect(along(moves[1]!, 0.75)).toEqual([{ x: 10, y: 0 }, { x: 20, y: 0 }, { x: 20, y: 5 }]);
    expect(along(moves[1]!, 1).at(-1)).toEqual({ x: 20, y: 10 });
  });

  it("goes from line to line, not from lift to lift", () => {
    expect(nextLine(moves, 0, 1)).toBe(3.2);
    expect(nextLine(moves, 3.2, 1)).toBe(5);
    expect(nextLine(moves, 5, 1)).toBe(5);
    expect(nextLine(moves, 5, -1)).toBe(3.2);
    expect(nextLine(moves, 3.2, -1)).toBe(0);
  });
});
