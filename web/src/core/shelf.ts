/** Jobs on the shelf: found by what they are called, their tags and their size, and put in order. */

import type { JobSummary } from "@/api/types";

export const ORDERS = ["changed", "name", "size"] as const;
export type Order = (typeof ORDERS)[number];

const plain = (text: string): string => text.toLocaleLowerCase().normalize("NFKD").replace(/\p{Diacritic}/gu, "");

/** What a job is found by: its name, its tags, and its size in mm as "142" or "142x206". */
function wordsOf({ name, tags, width_mm, height_mm, layers }: JobSummary): string {
  const [width, height] = [Math.round(width_mm), Math.round(height_mm)];
  return plain([name, ...tags, width ? `${width}x${height} ${width} ${height}` : "", layers ? `${layers} layers` : ""].join("\n"));
}

/** Those in which every word of a question is found. */
export function foundBy(jobs: readonly JobSummary[], question: string): JobSummary[] {
  const words = plain(question).split(/\s+/).filter(Boolean);
  return words.length ? jobs.filter((job) => {
    const own = wordsOf(job);
    return words.every((word) => own.includes(word));
  }) : [...jobs];
}

/** The last changed, the first by name, or the largest first. */
export function inOrder(jobs: readonly JobSummary[], order: Order): JobSummary[] {
  const area = (job: JobSummary): number => job.width_mm * job.height_mm;
  const by: Record<Order, (one: JobSummary, other: JobSummary) => number> = {
    changed: (one, other) => other.changed_at.localeCompare(one.changed_at),
    name: (one, other) => one.name.localeCompare(other.name, undefined, { numeric: true }),
    size: (one, other) => area(other) - area(one),
  };
  return [...jobs].sort(by[order]);
}

/** All tags there are, the commonest first. */
export function tagsOf(jobs: readonly JobSummary[]): string[] {
  const counts = new Map<string, number>();
  for (const tag of jobs.flatMap(({ tags }) => tags)) counts.set(tag, (counts.get(tag) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0])).map(([tag]) => tag);
}

/** Whether a file is a bundle that was taken out, by what it is called: what it holds is looked at by the server. */
export const isBundle = (file: File): boolean => file.name.toLowerCase().endsWith(".zip");
