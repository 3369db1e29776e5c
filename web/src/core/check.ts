/** The cut check: findings by their kind, and repairs of a whole kind as one change. */

import type { Checked, CutCheck, Repair, RepairEdit } from "@/api/types";

import type { Point } from "./nodeGrid";

/** A finding with its place in the list. */
export interface Listed extends Checked {
  number: number;
}

export interface Group {
  code: string;
  severity: Checked["finding"]["severity"];
  findings: Listed[];
}

/** Findings that are not ignored, of one kind together, in the order of the list. */
export function groupsOf({ findings }: CutCheck): Group[] {
  const groups = new Map<string, Group>();
  findings.forEach((one, number) => {
    if (one.ignored) return;
    const { code, severity } = one.finding;
    const group = groups.get(code) ?? { code, severity, findings: [] };
    group.findings.push({ ...one, number });
    groups.set(code, group);
  });
  return [...groups.values()];
}

/** Edits of several repairs, those of one step as one, as far as they only add. */
export function merged(repairs: readonly Repair[]): RepairEdit[] {
  const found = new Map<string, RepairEdit>();
  for (const { item, step, settings = {}, add = {} } of repairs.flatMap(({ edits }) => edits)) {
    const name = `${item}/${step}`;
    const before = found.get(name);
    const lists = { ...before?.add };
    for (const [list, members] of Object.entries(add)) lists[list] = [...(lists[list] ?? []), ...members];
    found.set(name, { item, step, settings: { ...before?.settings, ...settings }, add: lists });
  }
  return [...found.values()];
}

/** What mends all findings of a group at once: the repair that most of them have first. Null where none has one. */
export function repairOfAll({ findings }: Group): { code: string; edits: RepairEdit[]; count: number } | null {
  const counts = new Map<string, Repair[]>();
  for (const { repairs } of findings) {
    const [best] = repairs.filter(({ edits }) => edits.length);
    if (best) counts.set(best.code, [...(counts.get(best.code) ?? []), best]);
  }
  const [most] = [...counts].sort((a, b) => b[1].length - a[1].length);
  return most && most[1].length > 1 ? { code: most[0], edits: merged(most[1]), count: most[1].length } : null;
}

/** A ring around a place on the stage. radius: mm. */
export interface Ring {
  at: Point;
  radius: number;
  severity: Checked["finding"]["severity"];
  number: number;
}

export interface CheckScene {
  rings: readonly Ring[];
  picked: number;
}

/** Rings around all places that are not ignored. */
export function ringsOf({ findings }: CutCheck): Ring[] {
  return findings.flatMap(({ finding: { at, limit, severity, code }, ignored }, number) =>
    at && !ignored ? [{ at: { x: at[0], y: at[1] }, radius: code.startsWith("narrow") ? (limit ?? 1) : 1, severity, number }] : [],
  );
}

/** The ring nearest to a place, within a reach; -1 for none. */
export function ringAt(rings: readonly Ring[], place: Point, reach: number): number {
  let [best, nearest] = [-1, Infinity];
  for (const { at, radius, number } of rings) {
    const away = Math.hypot(at.x - place.x, at.y - place.y);
    if (away <= Math.max(radius, reach) && away < nearest) [best, nearest] = [number, away];
  }
  return best;
}

/** The next finding that is not ignored, round and round; -1 where there is none. */
export function following(findings: readonly Checked[], from: number, step: 1 | -1): number {
  const count = findings.length;
  for (let k = 1; k <= count; k++) {
    const number = (((from < 0 && step < 0 ? count : from) + step * k) % count + count) % count;
    if (!findings[number]?.ignored) return number;
  }
  return -1;
}
