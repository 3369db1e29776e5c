import { describe, expect, it } from "vitest";

import type { JobSummary } from "@/api/types";
import { foundBy, inOrder, isBundle, tagsOf } from "@/core/shelf";

const job = (id: number, name: string, tags: string[] = [], size: [number, number] = [0, 0], changed_at = "2026-01-01T00:00:00"): JobSummary =>
  ({ id, name, tags, width_mm: size[0], height_mm: size[1], layers: 3, changed_at, readable: true, pictures: 1 }) as unknown as JobSummary;
const jobs = [job(1, "Möwe am Kai", ["gift", "open day"], [142, 206], "2026-01-03"), job(2, "Buoy 10", ["gift"], [300, 300], "2026-01-01"), job(3, "Buoy 9", [], [40, 40], "2026-01-02")];
const ids = (own: JobSummary[]): number[] => own.map(({ id }) => id);

describe("jobs on the shelf", () => {
  it("are found by every word of their name, tags and size, however it is written", () => {
    expect(ids(foundBy(jobs, "mowe"))).toEqual([1]);
    expect(ids(foundBy(jobs, " GIFT  buoy "))).toEqual([2]);
    expect(ids(foundBy(jobs, "142x206"))).toEqual([1]);
    expect(ids(foundBy(jobs, "buoy gull"))).toEqual([]);
    expect(ids(foundBy(jobs, "  "))).toEqual([1, 2, 3]);
  });

  it("stand in the order that is asked for, numbers by what they count", () => {
    expect(ids(inOrder(jobs, "changed"))).toEqual([1, 3, 2]);
    expect(ids(inOrder(jobs, "name"))).toEqual([3, 2, 1]);
    expect(ids(inOrder(jobs, "size"))).toEqual([2, 1, 3]);
  });

  it("have tags, the commonest first; bundles are told from pictures", () => {
    expect(tagsOf(jobs)).toEqual(["gift", "open day"]);
    expect([new File([], "a.ZIP"), new File([], "a.png")].map(isBundle)).toEqual([true, false]);
  });

  it("are five thousand and found while somebody types", () => {
    const many = Array.from({ length: 5000 }, (_, i) => job(i, `Job ${i}`, [`tag ${i % 50}`]));
    expect(foundBy(many, "tag 7 job 4").length).toBeGreaterThan(10);
    expect(inOrder(many, "name")).toHaveLength(5000);
  });
});
